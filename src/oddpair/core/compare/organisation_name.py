"""Comparison of organisation names."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..organisations import common_words
from ..records import Column, IntArray, RecordSet
from ..text.byte_strings import Signs, bits_apart, letter_signs, pack
from ..text.compiled import inner_kernel, kernel
from ..text.edit_distance import osa_between
from .base import (
    Bits,
    Comparison,
    Level,
    Levels,
    Measure,
    Options,
    measured_by,
)
from .originals import checked_by_original
from .weighted_words import WeightedWords, weighted_words
from .word_overlap import soft_overlap

MISSING, EQUAL, CLOSE, SIMILAR, INITIALS, CONTAINED, ONE_SITE, PARTLY, DIFFERENT, CONTRADICTING = range(10)
_CLOSE_AT, _SIMILAR_AT, _PARTLY_AT = 0.9, 0.75, 0.5
#: Names without spaces must be this alike to count as the same name split differently.
_JOINED_AT, _JOINED_LETTERS = 0.85, 12
#: Initials of fewer letters say nothing; each letter of longer ones is worth about this many bits.
_LEAST_INITIALS, _BITS_PER_INITIAL = 3, 3.5
#: What the shorter of two names must hold, in bits, to be told as a part of the longer one.
_CONTAINED_BITS = 6.0
#: What the same branch number or direction in both names tells.
_SITE_BITS = 3.0
#: A word of its own in the shorter name takes back this share of its information.
_LEFT_OVER_SHARE = 0.5


class _Names(NamedTuple):
    """What the kernel reads: the names' words, the names without spaces, the codes of sites, of names and of initials."""

    words: WeightedWords
    joined: npt.NDArray[np.uint8]
    joined_offsets: npt.NDArray[np.int64]
    joined_signs: Signs
    sites: IntArray
    spelled: IntArray
    initials: IntArray


@inner_kernel
def _joined_similarity(x: int, y: int, names: _Names) -> float:
    """Return how alike two names are without their spaces ("sea craft", "seacraft"), 0 where that is not telling."""
    start_x, start_y = names.joined_offsets[x], names.joined_offsets[y]
    size_x, size_y = names.joined_offsets[x + 1] - start_x, names.joined_offsets[y + 1] - start_y
    longer = max(size_x, size_y)
    most = (1.0 - _JOINED_AT) * longer
    if longer < _JOINED_LETTERS or abs(size_x - size_y) > most:
        return 0.0
    if bits_apart(names.joined_signs[x], names.joined_signs[y]) > 2.0 * most:
        return 0.0
    alike = 1.0 - osa_between(names.joined, start_x, size_x, start_y, size_y) / longer
    return alike if alike >= _JOINED_AT else 0.0


@inner_kernel
def _level(overlap: float, left_over: float, shared: float) -> int:
    if overlap >= 0.9999:
        return EQUAL
    if overlap >= _CLOSE_AT:
        return CLOSE
    if overlap >= _SIMILAR_AT:
        return SIMILAR
    if left_over == 0.0 and shared >= _CONTAINED_BITS:
        return CONTAINED
    return PARTLY if overlap >= _PARTLY_AT else DIFFERENT


@kernel
def _measure(left: IntArray, right: IntArray, names: _Names, levels: Levels, information: Bits) -> None:
    words, sites = names.words, names.sites
    for pair in range(len(left)):
        a, b = left[pair], right[pair]
        x, y = words.codes[a], words.codes[b]
        information[pair] = 0.0
        if x < 0 or y < 0:
            levels[pair] = MISSING
            continue
        share, shared, left_over = 1.0, float(words.alone[x]), 0.0
        if x != y:
            found = soft_overlap(x, y, words)
            share, shared, left_over = found.share, found.shared, found.left_over
            if share < _CLOSE_AT and words.starts[x + 1] - words.starts[x] != words.starts[y + 1] - words.starts[y]:
                joined = _joined_similarity(x, y, names)
                if joined > share:
                    share, shared, left_over = joined, joined * min(words.totals[x], words.totals[y]), 0.0
        level = _level(share, left_over, shared)
        if share < _SIMILAR_AT and (
            (names.initials[x] >= 0 and names.initials[x] == names.spelled[y])
            or (names.initials[y] >= 0 and names.initials[y] == names.spelled[x])
        ):
            shorter = min(
                names.joined_offsets[x + 1] - names.joined_offsets[x],
                names.joined_offsets[y + 1] - names.joined_offsets[y],
            )
            level, shared, left_over = INITIALS, _BITS_PER_INITIAL * shorter, 0.0
        elif share >= _SIMILAR_AT and sites[a] != sites[b]:
            level = CONTRADICTING if sites[a] >= 0 and sites[b] >= 0 else ONE_SITE
        levels[pair] = level
        if level != CONTRADICTING and level != DIFFERENT:
            rarest = min(words.rarity[x], words.rarity[y])
            information[pair] = min(max(shared - _LEFT_OVER_SHARE * left_over, 0.0), rarest)
            if sites[a] >= 0 and sites[a] == sites[b]:
                information[pair] += _SITE_BITS


def _initials(column: Column) -> tuple[IntArray, IntArray]:
    """Return, per value, the number of its spelling without spaces and that of its initials, both in one numbering."""
    numbers: dict[str, int] = {}
    spelled = [numbers.setdefault(value.replace(" ", ""), len(numbers)) for value in column.values]
    letters = ("".join(word[0] for word in value.split()) for value in column.values)
    initials = [numbers.get(text, -1) if len(text) >= _LEAST_INITIALS else -1 for text in letters]
    return np.array(spelled, dtype=np.int32), np.array(initials, dtype=np.int32)


def _prepare(records: RecordSet, field: str, options: Options) -> Measure:
    column = records.column(field)
    joined = pack([value.replace(" ", "") for value in column.values])
    sites = records.column(f"{field}.sites").codes
    names = _Names(
        weighted_words(column, common=common_words(), source_codes=records.source_codes),
        joined.buffer,
        joined.offsets,
        letter_signs(joined),
        sites,
        *_initials(column),
    )
    return checked_by_original(measured_by(_measure, names), records, field, EQUAL, CLOSE)


ORGANISATION_NAME = Comparison(
    "organisation_name",
    (
        Level("equal", "the names are the same", 0.60, agrees=True),
        Level("close", "the names are nearly the same", 0.16, agrees=True, looseness=0.5),
        Level("similar", "the names are similar", 0.08, agrees=True, looseness=2.0),
        Level("initials", "one name is the initials of the other", 0.01, agrees=True, looseness=1.0),
        Level("contained", "one name is a part of the other", 0.05, agrees=True, looseness=2.0),
        Level("one site", "only one of two like names has a site or branch", 0.02, agrees=True, looseness=2.0),
        Level("partly", "the names share only some words", 0.05, agrees=True, looseness=6.0),
        Level("different", "the names differ", 0.03, among_different=0.98),
        Level("contradicting", "the names are alike for different sites", 0.001, among_different=0.001),
    ),
    _prepare,
    {},
)
