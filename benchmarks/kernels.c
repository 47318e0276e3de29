/* The algorithms of the edit-distance kernels in C, as a yardstick: the same steps, compiled with -O3 -march=native. */
#include <stdint.h>
#include <stdlib.h>
#include <string.h>

static int64_t osa(const uint8_t *a, int64_t n, const uint8_t *b, int64_t m) {
    if (n > m) { const uint8_t *t = a; a = b; b = t; int64_t k = n; n = m; m = k; }
    if (n == 0 || n > 64) return m;
    uint64_t positive = ~0ULL, negative = 0, diagonal = 0, previous = 0, last = 1ULL << (n - 1);
    int64_t distance = n;
    for (int64_t j = 0; j < m; j++) {
        uint64_t present = 0;
        for (int64_t i = 0; i < n; i++) present |= (uint64_t)(a[i] == b[j]) << i;
        uint64_t swapped = ((~diagonal & present) << 1) & previous;
        diagonal = (((present & positive) + positive) ^ positive) | present | negative | swapped;
        uint64_t rising = negative | ~(diagonal | positive), falling = diagonal & positive;
        if (rising & last) distance++; else if (falling & last) distance--;
        rising = (rising << 1) | 1;
        positive = (falling << 1) | ~(diagonal | rising);
        negative = diagonal & rising;
        previous = present;
    }
    return distance;
}

static double jaro_winkler(const uint8_t *a, int64_t n, const uint8_t *b, int64_t m) {
    if (n > m) { const uint8_t *t = a; a = b; b = t; int64_t k = n; n = m; m = k; }
    if (n == 0) return m == 0 ? 1.0 : 0.0;
    int64_t window = m / 2 - 1 > 0 ? m / 2 - 1 : 0, matches = 0, half = 0, j = 0, prefix = 0;
    uint8_t *left = calloc(n, 1), *right = calloc(m, 1);
    for (int64_t i = 0; i < n; i++) {
        int64_t to = i + window + 1 < m ? i + window + 1 : m;
        for (int64_t k = i - window > 0 ? i - window : 0; k < to; k++)
            if (!right[k] && a[i] == b[k]) { left[i] = right[k] = 1; matches++; break; }
    }
    double result = 0.0;
    if (matches) {
        for (int64_t i = 0; i < n; i++)
            if (left[i]) { while (!right[j]) j++; if (a[i] != b[j]) half++; j++; }
        double jaro = ((double)matches / n + (double)matches / m + (double)(matches - half / 2) / matches) / 3.0;
        while (prefix < (n < 4 ? n : 4) && a[prefix] == b[prefix]) prefix++;
        result = jaro + prefix * 0.1 * (1.0 - jaro);
    }
    free(left); free(right);
    return result;
}

void all_osa(const uint8_t *buffer, const int64_t *offsets, const int32_t *left, const int32_t *right, int64_t pairs, double *out) {
    for (int64_t p = 0; p < pairs; p++)
        out[p] = osa(buffer + offsets[left[p]], offsets[left[p] + 1] - offsets[left[p]],
                     buffer + offsets[right[p]], offsets[right[p] + 1] - offsets[right[p]]);
}

void all_jaro_winkler(const uint8_t *buffer, const int64_t *offsets, const int32_t *left, const int32_t *right, int64_t pairs, double *out) {
    for (int64_t p = 0; p < pairs; p++)
        out[p] = jaro_winkler(buffer + offsets[left[p]], offsets[left[p] + 1] - offsets[left[p]],
                              buffer + offsets[right[p]], offsets[right[p] + 1] - offsets[right[p]]);
}
