"""Soft word overlap: how much of the information in two names is shared, word by word, typing slips allowed.

Each word is matched with at most one word of the other name, best matches first within the order of words; the result
is the weight of matched words, each times how alike the two are, over the weight of all words (a weighted Dice
coefficient, after L. R. Dice 1945, with the soft matching of W. W. Cohen et al., "A comparison of string distance
metrics for name-matching tasks", 2003). Ours: words are weighted in bits; two *different* words that are each well
established in the data are not taken for slips of each other, which keeps "Petersen" and "Pedersen" apart.
"""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..text.byte_strings import bits_apart
from ..text.compiled import inner_kernel
from ..text.edit_distance import osa_between
from .weighted_words import WeightedWords

#: Below this two words are different words: one slip in four letters is still a slip, one in three is not.
WORD_CUT = 0.74
#: A word in at least this many records is established, not a slip; unless it stands this many times more seldom than the word
#: it may be a slip of: in a large file a usual slip of a usual name is written often too.
ESTABLISHED_RECORDS = 4
_SELDOM_AS_A_SLIP = 200
#: How alike two established words are at most taken to be.
ESTABLISHED_SIMILARITY = 0.5
#: Longest name, in words, that is compared; later words are ignored.
MOST_WORDS = 24
#: How alike a word and its initial, or two forms of one given name, are taken to be.
INITIAL_SIMILARITY = 0.85
_FIRST_DIGIT, _LAST_DIGIT = ord("0"), ord("9")


class Overlap(NamedTuple):
    """``share`` of the information in two names that they have in common, in [0, 1]; the same in bits as ``shared``; the bits
    ``left_over`` of the shorter name (the one with less left) that found no partner in the other; and whether each name has a
    usual word of its own (``own_words``)."""

    share: float
    shared: float
    left_over: float
    own_words: bool


@inner_kernel
def _same_digits(buffer: npt.NDArray[np.uint8], at: int, end: int, other_at: int, other_end: int) -> bool:
    """Whether two words hold the same digits in the same order, none included."""
    while True:
        while at < end and not _FIRST_DIGIT <= buffer[at] <= _LAST_DIGIT:
            at += 1
        while other_at < other_end and not _FIRST_DIGIT <= buffer[other_at] <= _LAST_DIGIT:
            other_at += 1
        if at == end or other_at == other_end:
            return at == end and other_at == other_end
        if buffer[at] != buffer[other_at]:
            return False
        at += 1
        other_at += 1


@inner_kernel
def both_established(a: int, b: int, words: WeightedWords) -> bool:
    """Whether two words are both in use, so that none is a slip or another spelling of the other."""
    one, other = words.record_counts[a], words.record_counts[b]
    return bool(
        min(one, other) >= ESTABLISHED_RECORDS
        and max(one, other) < _SELDOM_AS_A_SLIP * min(one, other)
        # Spellings of which every source uses one only are its habit: an export that loses letters writes "Zieliski".
        and words.sources[a] & words.sources[b] != 0
    )


@inner_kernel
def word_similarity(a: int, b: int, words: WeightedWords) -> float:
    """Return how alike the words numbered ``a`` and ``b`` are, in [0, 1]; 0 below the cut."""
    if a == b:
        return 1.0
    offsets, buffer = words.offsets, words.buffer
    start_a, start_b = offsets[a], offsets[b]
    size_a, size_b = offsets[a + 1] - start_a, offsets[b + 1] - start_b
    shorter, longer = min(size_a, size_b), max(size_a, size_b)
    if shorter == 0:
        return 0.0
    first_a, first_b = buffer[start_a], buffer[start_b]
    if shorter == 1:
        return INITIAL_SIMILARITY if first_a == first_b else 0.0
    slips = int(longer * (1.0 - WORD_CUT) + 1e-9)
    near = longer >= 4 and longer - shorter <= slips and bits_apart(words.signs[a], words.signs[b]) <= 2 * slips
    maybe_cut = shorter >= 4 and longer > shorter and first_a == first_b
    if not near and not maybe_cut:
        return 0.0
    established = both_established(a, b, words)
    if maybe_cut and not established:
        place = 1
        while place < shorter and buffer[start_a + place] == buffer[start_b + place]:
            place += 1
        if place == shorter:
            # A word cut short: "harb" for "harbour".
            return INITIAL_SIMILARITY
    # Digits are told apart exactly: "12" is no slip of "13", and "k16" none of "k17".
    if not near or first_a <= _LAST_DIGIT or first_b <= _LAST_DIGIT:
        return 0.0
    if not _same_digits(buffer, start_a, start_a + size_a, start_b, start_b + size_b):
        return 0.0
    similarity = float(1.0 - osa_between(buffer, start_a, size_a, start_b, size_b) / longer)
    if similarity < WORD_CUT:
        return 0.0
    if established:
        return min(similarity, ESTABLISHED_SIMILARITY)
    return similarity


@inner_kernel
def _may_shorten(a: int, b: int, words: WeightedWords) -> bool:
    """Whether one of two words may be short for the other: it begins alike and leaves out letters (*svc*, *servic*)."""
    offsets, buffer = words.offsets, words.buffer
    if offsets[a + 1] - offsets[a] > offsets[b + 1] - offsets[b]:
        a, b = b, a
    if buffer[offsets[a]] != buffer[offsets[b]]:
        return False
    at = offsets[a]
    for place in range(offsets[b], offsets[b + 1]):
        if at < offsets[a + 1] and buffer[at] == buffer[place]:
            at += 1
    return bool(at == offsets[a + 1])


@inner_kernel
def _own_words(
    used_x: int, x_start: int, x_end: int, used_y: int, y_start: int, y_end: int, words: WeightedWords
) -> bool:
    """Whether both values have an established word without a partner, two that one source uses side by side: *leasing* and *foods*.

    Two that no source shares may be two ways of writing one word.
    """
    word_ids, counts, sources = words.word_ids, words.record_counts, words.sources
    for i in range(x_start, x_end):
        if (used_x >> (i - x_start)) & 1 or counts[word_ids[i]] < ESTABLISHED_RECORDS:
            continue
        for j in range(y_start, y_end):
            if (used_y >> (j - y_start)) & 1 or counts[word_ids[j]] < ESTABLISHED_RECORDS:
                continue
            if sources[word_ids[i]] & sources[word_ids[j]] != 0 and not _may_shorten(word_ids[i], word_ids[j], words):
                return True
    return False


@inner_kernel
def soft_overlap(x: int, y: int, words: WeightedWords) -> Overlap:
    """Return the soft overlap of the values ``x`` and ``y`` of a word table; symmetric, share 1 for equal words."""
    if x > y:
        x, y = y, x
    starts, word_ids, weights = words.starts, words.word_ids, words.weights
    x_start, x_end = starts[x], min(starts[x + 1], starts[x] + MOST_WORDS)
    y_start, y_end = starts[y], min(starts[y + 1], starts[y] + MOST_WORDS)
    x_left, y_left = 0.0, 0.0
    for place in range(x_start, x_end):
        x_left += weights[word_ids[place]]
    for place in range(y_start, y_end):
        y_left += weights[word_ids[place]]
    total = x_left + y_left
    if total == 0.0:
        return Overlap(0.0, 0.0, 0.0, False)
    used_x = 0
    used_y = 0
    shared = 0.0
    # Equal words first, so that a soft match never takes a word that has an equal partner.
    for i in range(x_start, x_end):
        for j in range(y_start, y_end):
            if word_ids[i] == word_ids[j] and not (used_y >> (j - y_start)) & 1:
                used_x |= 1 << (i - x_start)
                used_y |= 1 << (j - y_start)
                weight = weights[word_ids[i]]
                shared += weight
                x_left -= weight
                y_left -= weight
                break
    while True:
        best, best_i, best_j = 0.0, -1, -1
        for i in range(x_start, x_end):
            if (used_x >> (i - x_start)) & 1:
                continue
            for j in range(y_start, y_end):
                if (used_y >> (j - y_start)) & 1:
                    continue
                similarity = word_similarity(word_ids[i], word_ids[j], words)
                if similarity > best:
                    best, best_i, best_j = similarity, i, j
        if best == 0.0:
            break
        used_x |= 1 << (best_i - x_start)
        used_y |= 1 << (best_j - y_start)
        # A slip makes a rare word out of a common one: the lighter weight counts for both, in the total too.
        one, other = weights[word_ids[best_i]], weights[word_ids[best_j]]
        lighter = min(one, other)
        total -= one + other - 2.0 * lighter
        shared += lighter * best
        x_left -= one
        y_left -= other
    own_words = _own_words(used_x, x_start, x_end, used_y, y_start, y_end, words)
    return Overlap(min(2.0 * shared / total, 1.0), shared, max(min(x_left, y_left), 0.0), own_words)
