"""Comparison of addresses by their parsed parts."""

from typing import NamedTuple

import numpy as np

from ..records import IntArray, RecordSet, encode
from ..text.compiled import kernel
from .base import Comparison, Levels, PreparedComparison, value_information
from .word_overlap import soft_overlap
from .word_table import WordTable, word_table

(MISSING, EQUAL, STREET, TOWN, OTHER_NUMBER, OTHER_STREET, DIFFERENT) = range(7)
_STREET_AT, _TOWN_AT = 0.74, 0.6


class _Addresses(NamedTuple):
    """What the kernel reads: per record the codes of single parts, and the words of streets and towns."""

    numbers: IntArray
    boxes: IntArray
    postcodes: IntArray
    areas: IntArray
    streets: WordTable
    towns: WordTable


@kernel
def _agree(x: int, y: int, words: WordTable, cut: float) -> bool:
    return x >= 0 and y >= 0 and (x == y or soft_overlap(x, y, words) >= cut)


@kernel
def _address_level(a: int, b: int, parts: _Addresses) -> int:
    postcodes, areas, numbers, boxes = parts.postcodes, parts.areas, parts.numbers, parts.boxes
    towns, streets = parts.towns.codes, parts.streets.codes
    towns_known = towns[a] >= 0 and towns[b] >= 0
    place_known = towns_known or (postcodes[a] >= 0 and postcodes[b] >= 0)
    streets_known = streets[a] >= 0 and streets[b] >= 0
    if not place_known and not streets_known:
        return MISSING
    same_postcode = postcodes[a] >= 0 and postcodes[a] == postcodes[b]
    same_place = same_postcode or _agree(towns[a], towns[b], parts.towns, _TOWN_AT)
    if not same_place and not towns_known:
        same_place = areas[a] >= 0 and areas[a] == areas[b]
    if place_known and not same_place:
        # Another town outweighs a street name, which every town has.
        return DIFFERENT
    if same_place and boxes[a] >= 0 and boxes[a] == boxes[b]:
        return EQUAL
    numbers_known = numbers[a] >= 0 and numbers[b] >= 0
    same_street = _agree(streets[a], streets[b], parts.streets, _STREET_AT)
    if same_street and numbers_known:
        return EQUAL if numbers[a] == numbers[b] else OTHER_NUMBER
    if same_street or (same_postcode and numbers_known and numbers[a] == numbers[b]):
        return STREET
    return OTHER_STREET if streets_known else TOWN


@kernel
def _address_levels(left: IntArray, right: IntArray, parts: _Addresses, levels: Levels) -> None:
    for pair in range(len(left)):
        levels[pair] = _address_level(left[pair], right[pair], parts)


def _area(postcode: str) -> str:
    """Return the part of a postcode that stands for a town: all but the last three characters, at least two."""
    return postcode[: max(2, len(postcode) - 3)]


def _prepare(records: RecordSet, field: str) -> PreparedComparison:
    number, street = records.column(f"{field}.number"), records.column(f"{field}.street")
    city, postcode = records.column(f"{field}.city"), records.column(f"{field}.postcode")
    box = records.column(f"{field}.box").codes
    areas = encode(_area(postcode.at(record)) for record in range(len(records))).codes
    parts = _Addresses(number.codes, box, postcode.codes, areas, word_table(street), word_table(city))

    def levels_of(left: IntArray, right: IntArray) -> Levels:
        levels = np.empty(len(left), dtype=np.int8)
        _address_levels(left, right, parts, levels)
        return levels

    # How rare an address is: by street and number, which is what "equal" rests on.
    whole = encode(
        f"{street.at(record)}|{number.at(record)}" if street.codes[record] >= 0 else None
        for record in range(len(records))
    )
    return PreparedComparison(levels_of, *value_information(whole.codes, whole.counts()))


ADDRESS = Comparison(
    "address",
    ("missing", "equal", "same street", "same town", "other number", "other street", "different"),
    frozenset({"equal", "same street"}),
    {
        "equal": "the address is the same",
        "same street": "the street is the same, as far as it is known",
        "same town": "the town is the same and nothing more is known of the address",
        "other number": "the house number in the same street is another",
        "other street": "the street in the same town is another",
        "different": "the addresses are in different places",
    },
    _prepare,
)
