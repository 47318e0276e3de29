"""Similarities of short strings, each in [0, 1], symmetric, 1 only for equal strings; two empty strings are equal.

Levenshtein after V. I. Levenshtein, "Binary codes capable of correcting deletions, insertions and reversals" (Soviet Physics
Doklady 10, 1966). Keyboard distance is ours: Levenshtein in which changing a letter into a neighbour on a common keyboard
costs half. The cosine of q-gram counts after E. Ukkonen, "Approximate string matching with q-grams and maximal matches"
(Theoretical Computer Science 92, 1992), with the cosine of G. Salton's vector model.
"""

import numpy as np
import numpy.typing as npt

from .compiled import allocating_kernel
from .edit_distance import Bytes

_ROWS = ("qwertyuiop", "asdfghjkl", "zxcvbnm")
_NEIGHBOUR_COST = 0.5


def _neighbours() -> npt.NDArray[np.bool_]:
    """Return which letters (bytes) lie beside each other: in one row, or half a key over in the row above or below."""
    table = np.zeros((256, 256), dtype=np.bool_)
    place = {letter: (row, column + row * 0.5) for row, keys in enumerate(_ROWS) for column, letter in enumerate(keys)}
    for one, (row_a, at_a) in place.items():
        for other, (row_b, at_b) in place.items():
            if one != other and abs(row_a - row_b) <= 1 and abs(at_a - at_b) <= 1.0:
                table[ord(one), ord(other)] = True
    return table


#: Which pairs of letters a finger easily mistakes for each other.
KEYBOARD = _neighbours()
#: No letter beside any other: with it the distance is plain Levenshtein.
NO_KEYBOARD = np.zeros((256, 256), dtype=np.bool_)


@allocating_kernel
def levenshtein_similarity(left: Bytes, right: Bytes, beside: npt.NDArray[np.bool_]) -> float:
    """Return 1 - distance / length of the longer; a letter changed into one that lies ``beside`` it costs half."""
    longer = max(len(left), len(right))
    if longer == 0:
        return 1.0
    above = np.arange(len(right) + 1).astype(np.float64)
    row = np.empty_like(above)
    for i in range(1, len(left) + 1):
        row[0] = i
        for j in range(1, len(right) + 1):
            a, b = left[i - 1], right[j - 1]
            change = 0.0 if a == b else (_NEIGHBOUR_COST if beside[a, b] else 1.0)
            row[j] = min(above[j] + 1.0, row[j - 1] + 1.0, above[j - 1] + change)
        above, row = row, above
    return float(1.0 - above[len(right)] / longer)


@allocating_kernel
def qgram_cosine(left: Bytes, right: Bytes, size: int) -> float:
    """Return the cosine of the counts of all stretches of ``size`` letters, a space standing before and after the string."""
    if len(left) == len(right) and (left == right).all():
        return 1.0
    one, other = _grams(left, size), _grams(right, size)
    if len(one) == 0 or len(other) == 0:
        return 0.0
    dot, i, j = 0.0, 0, 0
    while i < len(one) and j < len(other):
        if one[i] == other[j]:
            gram, a, b = one[i], 0, 0
            while i < len(one) and one[i] == gram:
                i, a = i + 1, a + 1
            while j < len(other) and other[j] == gram:
                j, b = j + 1, b + 1
            dot += a * b
        elif one[i] < other[j]:
            i += 1
        else:
            j += 1
    # Different strings may have the same grams in another order, but only equal ones are wholly alike.
    return float(min(dot / np.sqrt(_squares(one) * _squares(other)), 0.999))


@allocating_kernel
def _grams(text: Bytes, size: int) -> npt.NDArray[np.uint64]:
    padded = len(text) + 2
    count = max(padded - size + 1, 0)
    grams = np.zeros(count, dtype=np.uint64)
    for start in range(count):
        for place in range(start, start + size):
            letter = np.uint64(32) if place == 0 or place == padded - 1 else np.uint64(text[place - 1])
            grams[start] = (grams[start] << np.uint64(8)) | letter
    return np.sort(grams)


@allocating_kernel
def _squares(grams: npt.NDArray[np.uint64]) -> float:
    total, i = 0.0, 0
    while i < len(grams):
        run = 1
        while i + run < len(grams) and grams[i + run] == grams[i]:
            run += 1
        total += run * run
        i += run
    return total
