"""Comparison of addresses by their parsed parts."""

import re
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..census import Hashes, HashesAt
from ..joint_codes import joint_codes
from ..records import MISSING as NO_VALUE
from ..records import Column, IntArray, RecordSet, encode
from ..text.compiled import inner_kernel, kernel
from ..text.hashes import NO_VALUE as NO_HASH
from ..text.hashes import at_places, fields_at, joined
from .base import (
    Bits,
    Comparison,
    Level,
    Levels,
    Measure,
    Options,
    measured_by,
)
from .values import information_of_codes
from .weighted_words import WeightedWords, weighted_words
from .word_overlap import soft_overlap

MISSING, EQUAL, OTHER_UNIT, STREET, TOWN, OTHER_NUMBER, OTHER_STREET, DIFFERENT = range(8)
OTHER_TOWN, COUNTRY, OTHER_COUNTRY = range(8, 11)
#: What is known of both addresses where it is less than a street.
_TOWN_ALONE, _COUNTRY_ALONE = "the town alone", "the country alone"
_DIGITS = re.compile(r"\d+")
#: House numbers further apart than this are not a range.
_LONGEST_RANGE = 60
_STREET_AT, _TOWN_AT = 0.74, 0.6
#: What the parts of an address can tell at most: a front door, a street of a town, a town.
_DOOR_BITS, _STREET_BITS, _TOWN_BITS = 12.0, 10.0, 7.0


class _Addresses(NamedTuple):
    """What the kernel reads: per record the codes of single parts and the information in them, per house number the range
    it covers, per record unit, floor and building, and the words of streets and towns."""

    numbers: IntArray
    first_houses: IntArray
    last_houses: IntArray
    interiors: npt.NDArray[np.int32]
    boxes: IntArray
    postcodes: IntArray
    areas: IntArray
    countries: IntArray
    streets: WeightedWords
    towns: WeightedWords
    door_bits: Bits
    street_bits: Bits
    town_bits: Bits


@inner_kernel
def _agree(x: int, y: int, words: WeightedWords, cut: float) -> bool:
    return x >= 0 and y >= 0 and (x == y or soft_overlap(x, y, words).share >= cut)


@inner_kernel
def _overlap(x: int, y: int, parts: _Addresses) -> bool:
    """Whether two different house numbers may stand for one front door: "12" and "12-16", "12" and "12b"."""
    return bool(parts.first_houses[x] <= parts.last_houses[y] and parts.first_houses[y] <= parts.last_houses[x])


@inner_kernel
def _other_interior(a: int, b: int, parts: _Addresses) -> bool:
    """Whether unit, floor or building are known on both sides and one of them is another."""
    for part in range(parts.interiors.shape[0]):
        one, other = parts.interiors[part, a], parts.interiors[part, b]
        if one >= 0 and other >= 0 and one != other:
            return True
    return False


@inner_kernel
def _level(a: int, b: int, parts: _Addresses) -> int:
    postcodes, areas, numbers, boxes = parts.postcodes, parts.areas, parts.numbers, parts.boxes
    towns, streets = parts.towns.codes, parts.streets.codes
    towns_known = towns[a] >= 0 and towns[b] >= 0
    place_known = towns_known or (postcodes[a] >= 0 and postcodes[b] >= 0)
    streets_known = streets[a] >= 0 and streets[b] >= 0
    countries_known = parts.countries[a] >= 0 and parts.countries[b] >= 0
    other_country = countries_known and parts.countries[a] != parts.countries[b]
    if not place_known and not streets_known:
        if not countries_known:
            return MISSING
        return OTHER_COUNTRY if other_country else COUNTRY
    same_postcode = postcodes[a] >= 0 and postcodes[a] == postcodes[b]
    same_place = same_postcode or _agree(towns[a], towns[b], parts.towns, _TOWN_AT)
    numbers_known = numbers[a] >= 0 and numbers[b] >= 0
    if not same_place and areas[a] >= 0 and areas[a] == areas[b]:
        # A town may go by two names (a suburb and its city): the postcode area and the front door tell.
        same_place = not towns_known or (
            numbers_known and numbers[a] == numbers[b] and _agree(streets[a], streets[b], parts.streets, _STREET_AT)
        )
    if place_known and not (same_place and (same_postcode or not other_country)):
        # Another town outweighs a street name, which every town has; a town of one name in another country is another one.
        return DIFFERENT if streets_known else OTHER_TOWN
    if same_place and boxes[a] >= 0 and boxes[a] == boxes[b]:
        return EQUAL
    same_street = _agree(streets[a], streets[b], parts.streets, _STREET_AT)
    if same_street and numbers_known and numbers[a] == numbers[b]:
        return OTHER_UNIT if _other_interior(a, b, parts) else EQUAL
    if same_street and numbers_known:
        return STREET if _overlap(numbers[a], numbers[b], parts) else OTHER_NUMBER
    if same_street or (same_postcode and numbers_known and numbers[a] == numbers[b]):
        return STREET
    return OTHER_STREET if streets_known else TOWN


@kernel
def _measure(left: IntArray, right: IntArray, parts: _Addresses, levels: Levels, shared: Bits) -> None:
    for pair in range(len(left)):
        a, b = left[pair], right[pair]
        level = _level(a, b, parts)
        levels[pair] = level
        if level == EQUAL:
            shared[pair] = min(parts.door_bits[a], parts.door_bits[b])
        elif level == STREET or level == OTHER_NUMBER or level == OTHER_UNIT:
            shared[pair] = min(parts.street_bits[a], parts.street_bits[b])
        elif level == TOWN:
            shared[pair] = min(parts.town_bits[a], parts.town_bits[b])
        else:
            shared[pair] = 0.0


def _area(postcode: str) -> str:
    """Return the part of a postcode that stands for a town: all but the last three characters, at least two."""
    return postcode[: max(2, len(postcode) - 3)]


def _joint(*codes: IntArray) -> IntArray:
    """Return one code per distinct combination of codes; missing where the first one is missing."""
    return np.where(codes[0] >= 0, joint_codes(codes), NO_VALUE).astype(np.int32)


def _houses(numbers: Column) -> tuple[IntArray, IntArray]:
    """Return, per house number, the first and the last house it covers: "12-16" covers 12 to 16, "12b" and "12/3" are 12."""
    spans = []
    for text in numbers.values:
        found = [int(digits) for digits in _DIGITS.findall(text)]
        first = found[0] if found else 0
        # "12-14" is a range, "214-3" is a door of house 214.
        last = found[-1] if len(found) > 1 and first < found[-1] <= first + _LONGEST_RANGE else first
        spans.append((first, last))
    first_houses, last_houses = np.array(spans, dtype=np.int32).reshape(-1, 2).T
    return np.ascontiguousarray(first_houses), np.ascontiguousarray(last_houses)


class _Hashes:
    """Hashes of the parts of the addresses of records at some places."""

    def __init__(self, records: RecordSet, field: str) -> None:
        def of(part: str) -> HashesAt:
            return fields_at(records, f"{field}.{part}")

        self._city, self._street, self._number, self._box = of("city"), of("street"), of("number"), of("box")
        postcode = records.column(f"{field}.postcode")
        self._area = at_places([_area(value) for value in postcode.values], postcode.codes)

    def places(self, records: npt.NDArray[np.intp]) -> Hashes:
        """Return the hashes of the towns, or of the areas of the postcodes."""
        towns = self._city(records)
        return np.where(towns != NO_HASH, towns, self._area(records))

    def streets(self, records: npt.NDArray[np.intp]) -> Hashes:
        """Return the hashes of the streets in their towns."""
        return joined(self._street(records), self.places(records))

    def doors(self, records: npt.NDArray[np.intp]) -> Hashes:
        """Return the hashes of the front doors, or of the boxes."""
        streets = self._street(records)
        ways = np.where(streets != NO_HASH, streets, self._box(records))
        return joined(ways, self._number(records), self.places(records))


def _prepare(records: RecordSet, field: str, options: Options) -> Measure:
    numbers, street = records.column(f"{field}.number"), records.column(f"{field}.street")
    number = numbers.codes
    interiors = np.stack([records.column(f"{field}.{part}").codes for part in ("unit", "floor", "building")])
    city, postcode = records.column(f"{field}.city"), records.column(f"{field}.postcode")
    box, country = records.column(f"{field}.box").codes, records.column(f"{field}.country").codes
    area_of_value = encode(_area(value) for value in postcode.values).codes
    areas = np.append(area_of_value, np.int32(NO_VALUE))[postcode.codes]
    # A place is told by its town, else by the area of its postcode.
    place = np.where(city.codes >= 0, city.codes, np.where(areas >= 0, len(city.values) + areas, NO_VALUE)).astype(
        np.int32
    )
    doors = _joint(np.where(street.codes >= 0, street.codes, box), number, place)
    streets, towns = (
        weighted_words(records.column(name), name, records) for name in (f"{field}.street", f"{field}.city")
    )
    hashes = _Hashes(records, field)

    def bits(codes: IntArray, hashes_at: HashesAt, most: float, part: str) -> Bits:
        return information_of_codes(records, field, codes, hashes_at, most, part)

    parts = _Addresses(
        number, *_houses(numbers), interiors, box, postcode.codes, areas, country, streets, towns,
        bits(doors, hashes.doors, _DOOR_BITS, "door"),
        bits(_joint(street.codes, place), hashes.streets, _STREET_BITS, "street"), bits(place, hashes.places, _TOWN_BITS, "town"),
    )  # fmt: skip
    return measured_by(_measure, parts)


ADDRESS = Comparison(
    "address",
    (
        Level("equal", "the address is the same", 0.68, agrees=True),
        Level(
            "other unit",
            "the house is the same, the unit, floor or building in it another",
            0.03,
            agrees=True,
            looseness=2.0,
            differs=True,
        ),
        Level("same street", "the street is the same, as far as it is known", 0.10, agrees=True, looseness=1.0),
        Level(
            "same town", "the town is the same and nothing more is known of the address", 0.88, agrees=True,
            known=_TOWN_ALONE,
        ),
        Level(
            "other number", "the house number in the same street is another", 0.03, agrees=True, looseness=5.0, differs=True,
            brief="other house number",
        ),
        Level("other street", "the street in the same town is another", 0.06, among_different=0.015),
        Level("different", "the addresses are in different places", 0.08, among_different=0.95, brief="other place"),
        Level("other town", "the town is another", 0.12, among_different=0.95, known=_TOWN_ALONE),
        # Like names are from like countries: chance is never less than half.
        Level(
            "same country", "the country is the same and nothing more is known of the address", 0.95, among_different=0.6,
            least_different=0.5, known=_COUNTRY_ALONE, differs=False,
        ),
        Level("other country", "the country is another", 0.05, among_different=0.4, known=_COUNTRY_ALONE),
    ),
    _prepare,
    {},
)  # fmt: skip
