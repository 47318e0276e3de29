"""Comparison of organisation names."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..records import IntArray, RecordSet
from ..text.byte_strings import pack
from ..text.compiled import kernel
from ..text.edit_distance import osa_similarity
from .base import Comparison, Levels, PreparedComparison
from .word_overlap import soft_overlap
from .word_table import WordTable, record_bits, word_table

MISSING, EQUAL, CLOSE, SIMILAR, ONE_SITE, PARTLY, DIFFERENT, CONTRADICTING = range(8)
_CLOSE_AT, _SIMILAR_AT, _PARTLY_AT = 0.9, 0.75, 0.5
#: Names without spaces must be this alike to count as the same name split differently.
_JOINED_AT, _JOINED_LETTERS = 0.85, 12


class _Names(NamedTuple):
    """What the kernel reads: the names' words, the names without spaces, and the code of each record's sites."""

    words: WordTable
    joined: npt.NDArray[np.uint8]
    joined_offsets: npt.NDArray[np.int64]
    sites: IntArray


@kernel
def _joined_similarity(x: int, y: int, names: _Names) -> float:
    """Return how alike two names are without their spaces ("sea craft", "seacraft"), 0 where that is not telling."""
    one = names.joined[names.joined_offsets[x] : names.joined_offsets[x + 1]]
    other = names.joined[names.joined_offsets[y] : names.joined_offsets[y + 1]]
    longer = max(len(one), len(other))
    if longer < _JOINED_LETTERS or abs(len(one) - len(other)) > 0.15 * longer:
        return 0.0
    alike = osa_similarity(one, other)
    return alike if alike >= _JOINED_AT else 0.0


@kernel
def _name_levels(left: IntArray, right: IntArray, names: _Names, levels: Levels) -> None:
    codes, starts, sites = names.words.codes, names.words.starts, names.sites
    for pair in range(len(left)):
        a, b = left[pair], right[pair]
        x, y = codes[a], codes[b]
        if x < 0 or y < 0:
            levels[pair] = MISSING
            continue
        overlap = 1.0
        if x != y:
            overlap = soft_overlap(x, y, names.words)
            if overlap < _CLOSE_AT and starts[x + 1] - starts[x] != starts[y + 1] - starts[y]:
                overlap = max(overlap, _joined_similarity(x, y, names))
        if overlap >= _SIMILAR_AT and sites[a] != sites[b]:
            levels[pair] = CONTRADICTING if sites[a] >= 0 and sites[b] >= 0 else ONE_SITE
        elif overlap >= 0.9999:
            levels[pair] = EQUAL
        elif overlap >= _CLOSE_AT:
            levels[pair] = CLOSE
        elif overlap >= _SIMILAR_AT:
            levels[pair] = SIMILAR
        elif overlap >= _PARTLY_AT:
            levels[pair] = PARTLY
        else:
            levels[pair] = DIFFERENT


def _prepare(records: RecordSet, field: str) -> PreparedComparison:
    column = records.column(field)
    joined = pack([value.replace(" ", "") for value in column.values])
    sites = records.column(f"{field}.sites").codes
    names = _Names(word_table(column), joined.buffer, joined.offsets, sites)

    def levels_of(left: IntArray, right: IntArray) -> Levels:
        levels = np.empty(len(left), dtype=np.int8)
        _name_levels(left, right, names, levels)
        return levels

    return PreparedComparison(levels_of, *record_bits(names.words))


ORGANISATION_NAME = Comparison(
    "organisation_name",
    ("missing", "equal", "close", "similar", "one site", "partly", "different", "contradicting"),
    frozenset({"equal", "close", "similar"}),
    {
        "equal": "the names are the same",
        "close": "the names are nearly the same",
        "similar": "the names are similar",
        "one site": "only one of two like names has a site or branch",
        "partly": "the names share only some words",
        "different": "the names differ",
        "contradicting": "the names are alike for different sites",
    },
    _prepare,
)
