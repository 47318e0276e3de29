"""Comparison of people's names, part by part.

The given names are compared by the first one of each (equal, forms of one name, initial, slip), the family names by
soft word overlap; both together give the level. Swapped parts and a changed family name have levels of their own.
"""

from typing import NamedTuple

import numpy as np

from ..people import short_form_groups
from ..records import Column, IntArray, RecordSet
from ..text.compiled import kernel
from .base import Comparison, Levels, PreparedComparison
from .word_overlap import soft_overlap, word_similarity
from .word_table import WordTable, record_bits, word_table

MISSING, EQUAL, SHORT_FORM, INITIAL, CLOSE = range(5)
SWAPPED, FAMILY_CHANGED, GIVEN_DIFFERS, DIFFERENT, CONTRADICTING = range(5, 10)
_FAMILY_CLOSE_AT = 0.74
_NONE, _DIFFERS, _SLIP, _LETTER, _FORM, _SAME = range(6)


class _Names(NamedTuple):
    """What the kernel reads: words of given and family names, suffix codes, given names read as family names."""

    given: WordTable
    family: WordTable
    suffixes: IntArray
    crossed: IntArray


@kernel
def _share_group(a: int, b: int, groups: IntArray) -> bool:
    for i in range(groups.shape[1]):
        for j in range(groups.shape[1]):
            if groups[a, i] >= 0 and groups[a, i] == groups[b, j]:
                return True
    return False


@kernel
def _given_agreement(x: int, y: int, given: WordTable) -> int:
    """Return how far the given names of two values agree, as one of the constants above."""
    if x < 0 or y < 0:
        return _NONE
    starts, buffer, offsets = given.starts, given.buffer, given.offsets
    a, b = given.word_ids[starts[x]], given.word_ids[starts[y]]
    if a == b:
        # A second given name, where both have one, must not contradict.
        if starts[x + 1] - starts[x] > 1 and starts[y + 1] - starts[y] > 1:
            c, d = given.word_ids[starts[x] + 1], given.word_ids[starts[y] + 1]
            if buffer[offsets[c]] != buffer[offsets[d]]:
                return _DIFFERS
        return _SAME
    if _share_group(a, b, given.groups):
        return _FORM
    if min(offsets[a + 1] - offsets[a], offsets[b + 1] - offsets[b]) == 1:
        return _LETTER if buffer[offsets[a]] == buffer[offsets[b]] else _DIFFERS
    return _SLIP if word_similarity(a, b, given) > 0.6 else _DIFFERS


@kernel
def _level_with_same_family(exact: bool, given: int) -> int:
    if given == _NONE or given == _LETTER:
        return INITIAL
    if given == _DIFFERS:
        return GIVEN_DIFFERS
    if not exact or given == _SLIP:
        return CLOSE
    return EQUAL if given == _SAME else SHORT_FORM


@kernel
def _name_levels(left: IntArray, right: IntArray, names: _Names, levels: Levels) -> None:
    families, crossed, suffixes = names.family.codes, names.crossed, names.suffixes
    for pair in range(len(left)):
        a, b = left[pair], right[pair]
        if families[a] < 0 or families[b] < 0:
            levels[pair] = MISSING
            continue
        given = _given_agreement(names.given.codes[a], names.given.codes[b], names.given)
        overlap = 1.0
        if families[a] != families[b]:
            overlap = soft_overlap(families[a], families[b], names.family)
        if overlap >= _FAMILY_CLOSE_AT:
            if given != _DIFFERS and suffixes[a] >= 0 and suffixes[b] >= 0 and suffixes[a] != suffixes[b]:
                levels[pair] = CONTRADICTING
            else:
                levels[pair] = _level_with_same_family(overlap >= 0.9999, given)
        elif crossed[a] == families[b] and crossed[b] == families[a]:
            levels[pair] = SWAPPED
        elif given == _SAME:
            levels[pair] = FAMILY_CHANGED
        else:
            levels[pair] = DIFFERENT


def _given_as_family(given: Column, family: Column) -> IntArray:
    """Return, per record, the number of the family-name value that reads like the record's given names; -2 if none."""
    position = {value: number for number, value in enumerate(family.values)}
    translate = np.array([position.get(value, -2) for value in given.values] + [-2], dtype=np.int32)
    return translate[given.codes]


def _prepare(records: RecordSet, field: str) -> PreparedComparison:
    given, family = records.column(f"{field}.given"), records.column(f"{field}.family")
    suffixes = records.column(f"{field}.suffix").codes
    names = _Names(
        word_table(given, short_form_groups()), word_table(family), suffixes, _given_as_family(given, family)
    )

    def levels_of(left: IntArray, right: IntArray) -> Levels:
        levels = np.empty(len(left), dtype=np.int8)
        _name_levels(left, right, names, levels)
        return levels

    bits = record_bits(names.given)[0] + record_bits(names.family)[0]
    present = family.codes >= 0
    return PreparedComparison(levels_of, bits, float(np.median(bits[present])) if present.any() else 0.0)


PERSON_NAME = Comparison(
    "person_name",
    (
        "missing", "equal", "short form", "initial", "close", "swapped", "family name changed", "given name differs",
        "different", "contradicting",
    ),
    frozenset({"equal", "short form", "initial", "close", "swapped"}),
    {
        "equal": "the names are the same",
        "short form": "the given names are forms of one name and the family name is the same",
        "initial": "the family name is the same and the given name agrees as far as it is known",
        "close": "the names are nearly the same",
        "swapped": "given and family name are swapped",
        "family name changed": "only the given name is the same",
        "given name differs": "only the family name is the same",
        "different": "the names differ",
        "contradicting": "one is the senior and the other the junior of the name",
    },
    _prepare,
)  # fmt: skip
