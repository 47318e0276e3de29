"""Comparison of text by a chosen similarity: edit distances, Jaro-Winkler, letter groups, or words."""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from ..records import IntArray, RecordSet
from ..text.byte_strings import pack
from ..text.compiled import allocating_kernel
from ..text.edit_distance import Bytes, jaro_winkler, osa_similarity
from ..text.folding import fold
from ..text.similarity import KEYBOARD, NO_KEYBOARD, levenshtein_similarity, qgram_cosine
from .base import (
    Bits,
    Comparison,
    Level,
    Levels,
    Measure,
    Measured,
    Option,
    Options,
)
from .values import information
from .weighted_words import WeightedWords, weighted_words
from .word_overlap import soft_overlap

MISSING, EQUAL, CLOSE, SIMILAR, DIFFERENT = range(5)
_MEASURES = ("osa", "levenshtein", "keyboard", "jaro_winkler", "qgram_cosine", "word_overlap")
_OSA, _LEVENSHTEIN, _KEYBOARD, _JARO_WINKLER, _QGRAM, _WORDS = range(6)
_MOST_BITS = 24.0


@allocating_kernel
def _similarities(
    left: IntArray, right: IntArray, buffer: Bytes, offsets: npt.NDArray[np.int64], measure: int, gram: int,
    least: float, beside: npt.NDArray[np.bool_], out: npt.NDArray[np.float32],
) -> None:  # fmt: skip
    for pair in range(len(left)):
        one = buffer[offsets[left[pair]] : offsets[left[pair] + 1]]
        other = buffer[offsets[right[pair]] : offsets[right[pair] + 1]]
        longer = max(len(one), len(other))
        # Every edit costs at least a half, so a difference in length alone may rule the pair out.
        if measure <= _KEYBOARD and abs(len(one) - len(other)) > (1.0 - least) * longer:
            out[pair] = 0.0
        elif measure == _OSA:
            out[pair] = osa_similarity(one, other)
        elif measure == _JARO_WINKLER:
            out[pair] = jaro_winkler(one, other)
        elif measure == _QGRAM:
            out[pair] = qgram_cosine(one, other, gram)
        else:
            out[pair] = levenshtein_similarity(one, other, beside)


@allocating_kernel
def _overlaps(left: IntArray, right: IntArray, words: WeightedWords, out: npt.NDArray[np.float32]) -> None:
    for pair in range(len(left)):
        out[pair] = soft_overlap(left[pair], right[pair], words).share


Alike = Callable[[IntArray, IntArray], npt.NDArray[np.float32]]


def _alike(records: RecordSet, field: str, options: Options) -> Alike:
    """Return a function from two arrays of value numbers to similarities."""
    column, measure = records.column(field), _MEASURES.index(str(options["measure"]))
    if measure == _WORDS:
        words = weighted_words(column, field, records)

        def by_words(left: IntArray, right: IntArray) -> npt.NDArray[np.float32]:
            out = np.empty(len(left), dtype=np.float32)
            _overlaps(left, right, words, out)
            return out

        return by_words
    strings = pack([fold(value) for value in column.values])
    beside = KEYBOARD if measure == _KEYBOARD else NO_KEYBOARD
    gram, least = int(float(options["gram"])), min(float(options["close"]), float(options["similar"]))

    def by_letters(left: IntArray, right: IntArray) -> npt.NDArray[np.float32]:
        out = np.empty(len(left), dtype=np.float32)
        _similarities(left, right, strings.buffer, strings.offsets, measure, gram, least, beside, out)
        return out

    return by_letters


def _prepare_similar(records: RecordSet, field: str, options: Options) -> Measure:
    column = records.column(field)
    alike = _alike(records, field, options)
    bits = information(records, field, column, _MOST_BITS)
    close, similar = float(options["close"]), float(options["similar"])

    def measure(left: IntArray, right: IntArray) -> Measured:
        one, other = column.codes[left], column.codes[right]
        levels = np.where((one < 0) | (other < 0), MISSING, np.where(one == other, EQUAL, DIFFERENT)).astype(np.int8)
        open_ = np.flatnonzero(levels == DIFFERENT)
        found = alike(np.minimum(one[open_], other[open_]), np.maximum(one[open_], other[open_]))
        levels[open_] = np.where(found >= close, CLOSE, np.where(found >= similar, SIMILAR, DIFFERENT))
        return Measured(levels, shared_bits(levels, SIMILAR, bits, left, right))

    return measure


def shared_bits(levels: Levels, last_agreeing: int, bits: Bits, left: IntArray, right: IntArray) -> Bits:
    """Return the lighter information of both sides where the level is one of those up to ``last_agreeing``, else 0."""
    agrees = (levels != MISSING) & (levels <= last_agreeing)
    return np.where(agrees, np.minimum(bits[left], bits[right]), 0).astype(np.float32)


_CLOSE_AND_SIMILAR = (
    Level("equal", "the {label} is the same", 0.75, agrees=True),
    Level("close", "the {label} is nearly the same", 0.12, agrees=True, looseness=2.0),
    Level("similar", "the {label} is similar", 0.05, agrees=True, looseness=5.0),
    Level("different", "the {label} differs", 0.08, among_different=0.97),
)


SIMILAR_TEXT = Comparison(
    "similar", _CLOSE_AND_SIMILAR, _prepare_similar,
    {
        "measure": Option("osa", words=_MEASURES), "close": Option(0.9, 0.5, 1.0), "similar": Option(0.8, 0.3, 1.0),
        "gram": Option(3, 1, 6),
    },
)  # fmt: skip
