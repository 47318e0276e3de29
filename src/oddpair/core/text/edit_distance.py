"""Edit-distance kernels over byte strings.

Optimal string alignment: insertions, deletions, substitutions and swaps of neighbours cost one each, no substring is
edited twice. Up to 64 bytes it runs bit-parallel after H. Hyyrö, "A bit-vector algorithm for computing Levenshtein and
Damerau edit distances" (Nordic Journal of Computing 10, 2003); longer strings take the plain dynamic programme.
Jaro-Winkler after W. E. Winkler, "String comparator metrics and enhanced decision rules in the Fellegi-Sunter model of
record linkage" (1990), with prefix scale 0.1 over at most four letters.
"""

import numpy as np
import numpy.typing as npt

from .compiled import allocating_kernel, inner_kernel

Bytes = npt.NDArray[np.uint8]
_WORD_BITS = 64


@inner_kernel
def _osa_bit_parallel(text: Bytes, start: int, size: int, other: Bytes, from_: int, length: int) -> int:
    """The distance of ``text[start:start + size]``, at most 64 bytes, to ``other[from_:from_ + length]``."""
    one = np.uint64(1)
    positive = ~np.uint64(0)
    negative = np.uint64(0)
    diagonal = np.uint64(0)
    previous = np.uint64(0)
    last = one << np.uint64(size - 1)
    distance = size
    # Views that start at zero: the compiler need not guard against negative places and compares many letters at once.
    pattern, letters = text[start : start + size], other[from_ : from_ + length]
    for letter in letters:
        present = np.uint64(0)
        for place in range(size):
            present |= np.uint64(pattern[place] == letter) << np.uint64(place)
        swapped = ((~diagonal & present) << one) & previous
        diagonal = (((present & positive) + positive) ^ positive) | present | negative | swapped
        rising = negative | ~(diagonal | positive)
        falling = diagonal & positive
        if rising & last:
            distance += 1
        elif falling & last:
            distance -= 1
        rising = (rising << one) | one
        positive = (falling << one) | ~(diagonal | rising)
        negative = diagonal & rising
        previous = present
    return distance


@allocating_kernel
def _osa_plain(left: Bytes, right: Bytes) -> int:
    width = len(right) + 1
    before = np.zeros(width, dtype=np.int64)
    above = np.arange(width)
    row = np.zeros(width, dtype=np.int64)
    for i in range(1, len(left) + 1):
        row[0] = i
        for j in range(1, width):
            cost = 0 if left[i - 1] == right[j - 1] else 1
            best = min(above[j] + 1, row[j - 1] + 1, above[j - 1] + cost)
            if i > 1 and j > 1 and left[i - 1] == right[j - 2] and left[i - 2] == right[j - 1]:
                best = min(best, before[j - 2] + 1)
            row[j] = best
        before, above, row = above, row, before
    return int(above[width - 1])


@inner_kernel
def osa_between(buffer: Bytes, start_a: int, size_a: int, start_b: int, size_b: int) -> int:
    """Return the optimal-string-alignment distance of two stretches of a buffer; symmetric, 0 only for equal ones.

    The shorter one may have 64 bytes at most; two longer ones count as wholly different.
    """
    if size_a > size_b:
        start_a, start_b = start_b, start_a
        size_a, size_b = size_b, size_a
    if size_a == 0 or size_a > _WORD_BITS:
        return size_b
    return _osa_bit_parallel(buffer, start_a, size_a, buffer, start_b, size_b)


@allocating_kernel
def osa_distance(left: Bytes, right: Bytes) -> int:
    """Return the optimal-string-alignment distance of two byte strings; symmetric, 0 only for equal strings."""
    if len(left) > len(right):
        left, right = right, left
    if len(left) == 0:
        return len(right)
    if len(left) <= _WORD_BITS:
        return _osa_bit_parallel(left, 0, len(left), right, 0, len(right))
    return _osa_plain(left, right)


@allocating_kernel
def osa_similarity(left: Bytes, right: Bytes) -> float:
    """Return 1 - distance / length of the longer, in [0, 1]; two empty strings are equal."""
    longer = max(len(left), len(right))
    if longer == 0:
        return 1.0
    return 1.0 - osa_distance(left, right) / longer


@inner_kernel
def _jaro_winkler_of(matches: int, half_swaps: int, left: Bytes, right: Bytes) -> float:
    short, long = len(left), len(right)
    if matches == 0:
        return 0.0
    jaro = (matches / short + matches / long + (matches - half_swaps // 2) / matches) / 3.0
    prefix = 0
    while prefix < min(4, short) and left[prefix] == right[prefix]:
        prefix += 1
    return float(jaro + prefix * 0.1 * (1.0 - jaro))


@inner_kernel
def _jaro_winkler_bits(left: Bytes, right: Bytes) -> float:
    """Jaro-Winkler of strings of at most 64 bytes, the shorter one first; letters that found a partner are bits."""
    short, long = len(left), len(right)
    window = max(long // 2 - 1, 0)
    one = np.uint64(1)
    taken_left, taken_right = np.uint64(0), np.uint64(0)
    matches = 0
    for i in range(short):
        letter = left[i]
        for j in range(max(0, i - window), min(long, i + window + 1)):
            if right[j] == letter and not (taken_right >> np.uint64(j)) & one:
                taken_left |= one << np.uint64(i)
                taken_right |= one << np.uint64(j)
                matches += 1
                break
    half_swaps = 0
    j = 0
    for i in range(short):
        if (taken_left >> np.uint64(i)) & one:
            while not (taken_right >> np.uint64(j)) & one:
                j += 1
            if left[i] != right[j]:
                half_swaps += 1
            j += 1
    return _jaro_winkler_of(matches, half_swaps, left, right)


@allocating_kernel
def _jaro_winkler_long(left: Bytes, right: Bytes) -> float:
    """Jaro-Winkler of strings of any length, the shorter one first."""
    short, long = len(left), len(right)
    window = max(long // 2 - 1, 0)
    taken_left = np.zeros(short, dtype=np.bool_)
    taken_right = np.zeros(long, dtype=np.bool_)
    matches = 0
    for i in range(short):
        for j in range(max(0, i - window), min(long, i + window + 1)):
            if not taken_right[j] and left[i] == right[j]:
                taken_left[i] = True
                taken_right[j] = True
                matches += 1
                break
    half_swaps = 0
    j = 0
    for i in range(short):
        if taken_left[i]:
            while not taken_right[j]:
                j += 1
            if left[i] != right[j]:
                half_swaps += 1
            j += 1
    return _jaro_winkler_of(matches, half_swaps, left, right)


@allocating_kernel
def jaro_winkler(left: Bytes, right: Bytes) -> float:
    """Return the Jaro-Winkler similarity in [0, 1]; symmetric, 1 only for equal strings; two empty strings are equal."""
    if len(left) > len(right):
        left, right = right, left
    if len(left) == 0:
        return 1.0 if len(right) == 0 else 0.0
    if len(right) <= _WORD_BITS:
        return _jaro_winkler_bits(left, right)
    return _jaro_winkler_long(left, right)
