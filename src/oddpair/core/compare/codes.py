"""Comparisons of text by a code of it: its sound, a part of it, or what is left without case, spaces and marks."""

from collections.abc import Callable

import numpy as np

from ..records import MISSING as NO_VALUE
from ..records import Column, IntArray, RecordSet, encode
from ..text.double_metaphone import double_metaphone
from ..text.folding import fold, split_words
from ..text.phonetic import nysiis, soundex
from .base import (
    Comparison,
    Level,
    Measure,
    Measured,
    Option,
    Options,
)
from .similarity import shared_bits
from .values import information

MISSING, EQUAL, ALIKE, DIFFERENT = range(4)
_MOST_BITS = 24.0
#: Per name the ways in which a word may be spoken.
_CODES: dict[str, Callable[[str], tuple[str, ...]]] = {
    "nysiis": lambda word: (nysiis(word),),
    "soundex": lambda word: (soundex(word),),
    "double_metaphone": double_metaphone,
}


def _words_of(value: str) -> list[str]:
    return split_words(fold(value))


def _by_code(records: RecordSet, field: str, code: Callable[[str], tuple[str, ...]], part: str) -> Measure:
    """Return a measure that knows equal values, values of which any code is equal, and different ones."""
    column = records.column(field)
    coded = [code(value) for value in column.values]
    count = max(map(len, coded), default=1)
    numbers = encode(text for texts in coded for text in texts)
    # One row per way of coding, and what a missing value finds at the end.
    by_value = np.append(numbers.codes.reshape(-1, count).T, np.full((count, 1), NO_VALUE, dtype=np.int32), axis=1)
    codes = by_value[:, column.codes]
    bits = information(records, field, Column(numbers.values, codes[0]), _MOST_BITS, part)

    def measure(left: IntArray, right: IntArray) -> Measured:
        one, other = column.codes[left], column.codes[right]
        alike = np.zeros(len(left), dtype=np.bool_)
        for way in codes:
            for other_way in codes:
                alike |= (way[left] >= 0) & (way[left] == other_way[right])
        levels = np.where(one == other, EQUAL, np.where(alike, ALIKE, DIFFERENT))
        levels = np.where((one < 0) | (other < 0), MISSING, levels).astype(np.int8)
        return Measured(levels, shared_bits(levels, ALIKE, bits, left, right))

    return measure


def _prepare_sounds(records: RecordSet, field: str, options: Options) -> Measure:
    code = _CODES[str(options["code"])]

    def coded(value: str) -> tuple[str, ...]:
        ways = zip(*map(code, _words_of(value)), strict=True)
        return tuple(" ".join(sorted(way)) for way in ways) or (("",) * len(code("")))

    return _by_code(records, field, coded, str(options["code"]))


def _prepare_part(records: RecordSet, field: str, options: Options) -> Measure:
    letters = int(options["letters"])
    part = slice(None, letters) if options["take"] == "first" else slice(-letters, None)
    return _by_code(records, field, lambda value: ("".join(_words_of(value))[part],), f"{options['take']} {letters}")


def _prepare_plain(records: RecordSet, field: str, options: Options) -> Measure:
    return _by_code(records, field, lambda value: ("".join(_words_of(value)),), "plain")


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
