"""Comparisons of text by a code of it: its sound, a part of it, or what is left without case, spaces and marks."""

from collections.abc import Callable

import numpy as np

from ..records import MISSING as NO_VALUE
from ..records import Column, IntArray, RecordSet, encode
from ..text.folding import fold, split_words
from ..text.phonetic import nysiis, soundex
from .base import Comparison, Level, Measure, Measured, Option, Options
from .similarity import shared_bits
from .values import information

MISSING, EQUAL, ALIKE, DIFFERENT = range(4)
_MOST_BITS = 24.0
_CODES = {"nysiis": nysiis, "soundex": soundex}


def _words_of(value: str) -> list[str]:
    return split_words(fold(value))


def _by_code(records: RecordSet, field: str, code: Callable[[str], str]) -> Measure:
    """Return a measure that knows equal values, values of equal code, and different ones."""
    column = records.column(field)
    coded = encode(code(value) for value in column.values)
    codes = np.append(coded.codes, np.int32(NO_VALUE))[column.codes]
    bits = information(records, field, Column(coded.values, codes), _MOST_BITS)

    def measure(left: IntArray, right: IntArray) -> Measured:
        one, other = column.codes[left], column.codes[right]
        alike = (codes[left] >= 0) & (codes[left] == codes[right])
        levels = np.where(one == other, EQUAL, np.where(alike, ALIKE, DIFFERENT))
        levels = np.where((one < 0) | (other < 0), MISSING, levels).astype(np.int8)
        return Measured(levels, shared_bits(levels, ALIKE, bits, left, right))

    return measure


def _prepare_sounds(records: RecordSet, field: str, options: Options) -> Measure:
    code = _CODES[str(options["code"])]
    return _by_code(records, field, lambda value: " ".join(sorted(code(word) for word in _words_of(value))))


def _prepare_part(records: RecordSet, field: str, options: Options) -> Measure:
    letters = int(options["letters"])
    part = slice(None, letters) if options["take"] == "first" else slice(-letters, None)
    return _by_code(records, field, lambda value: "".join(_words_of(value))[part])


def _prepare_plain(records: RecordSet, field: str, options: Options) -> Measure:
    return _by_code(records, field, lambda value: "".join(_words_of(value)))


def _levels(name: str, sentence: str, looseness: float) -> tuple[Level, ...]:
    return (
        Level("equal", "the {label} is the same", 0.80, agrees=True),
        Level(name, sentence, 0.10, agrees=True, looseness=looseness),
        Level("different", "the {label} differs", 0.10, among_different=0.97),
    )


SOUNDS = Comparison(
    "sounds", _levels("alike", "the {label} sounds the same", 4.0), _prepare_sounds,
    {"code": Option("nysiis", words=tuple(_CODES))},
)  # fmt: skip
PART = Comparison(
    "part", _levels("same part", "a part of the {label} is the same", 1.0), _prepare_part,
    {"take": Option("first", words=("first", "last")), "letters": Option(4, 1, 40)},
)  # fmt: skip
PLAIN = Comparison(
    "plain", _levels("alike", "the {label} is the same but for case, spaces and marks", 0.5), _prepare_plain, {}
)
