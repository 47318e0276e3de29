"""Parsing of postal addresses, delivered in one line or in parts, into comparable parts.

The order of parts differs by country: the house number stands before the street name (GB, IE, FR, US) or after it (the
others); the postcode stands after the town (GB, IE, US, CA, AU) or before it. The parser therefore looks for what it can
know by shape (postcode), by table (country, region, street types, markers of units) or by place (number beside street,
town beside postcode), and leaves the rest as words of the street.
"""

import re
from dataclasses import dataclass
from typing import NamedTuple

from ..text.folding import fold
from ..text.tables import phrase
from .blocks import BlockAddress, split_block_address, with_district_in_number
from .countries import country_behind, country_code
from .interior import Interior, names_a_box, take_interior
from .one_line import holds_house_number, split_run, split_town_behind, split_town_first
from .postcodes import find_postcode, fits, take_postcode, tidy_postcode
from .regions import WRITTEN_AS_CODE, is_region_alone, may_be_region, region_code, split_province, split_region
from .streets import names_a_street, standard_street, street_words, take_number
from .towns import standard_town

_COUNTRY_PREFIX = re.compile(r"\b[a-z]{1,3}-$")
#: Fewer letters where a town could stand are a code, or a county's mark without its county.
_LEAST_TOWN = 3
#: More words, alone before a postcode, are the name of a house.
_LONGEST_TOWN = 2
_DIGIT = re.compile(r"\d")
_SEGMENT = re.compile(r"[,;\n|]+")
#: Countries where the region follows the town as a part of its own ("Lowestoft, Suffolk, NR32 1XA").
_REGION_FOLLOWS_TOWN = frozenset({"US", "CA", "AU", "GB", "IE"})


class Address(NamedTuple):
    """A parsed address; parts that were not found are ""."""

    number: str = ""
    street: str = ""
    unit: str = ""
    floor: str = ""
    building: str = ""
    box: str = ""
    city: str = ""
    postcode: str = ""
    region: str = ""
    country: str = ""


@dataclass(slots=True)
class _Place:
    """Where a street is: town as written, tidy postcode, region and country codes."""

    city: str
    postcode: str
    region: str
    country: str


def _delivered_place(city: str, postcode: str, country: str) -> _Place:
    """Return the place that columns of their own tell; either of them may hold town and postcode, and the region behind them."""
    town, found = take_postcode(city, country)
    beside, own = take_postcode(postcode, country)
    if not any(letter.isdigit() for letter in postcode):
        # No postcode at all: a town, or nothing.
        tidy, beside = found, postcode
    elif own and sum(map(str.isalpha, beside)) >= _LEAST_TOWN:
        tidy = own
    else:
        tidy, beside = tidy_postcode(postcode, country), ""
    place = _Place(town or beside, tidy or found, "", country)
    if found or beside:
        _with_region([], place)
    return place


def _country_at_end(text: str, before: list[str]) -> str:
    """Return the code of the country that a text names; a region of that name ("DE", "Georgia") is likelier without its
    country's postcode."""
    code = country_code(text)
    return "" if code and may_be_region(text) and not find_postcode(" ".join(before), code) else code


def _take_country(segments: list[str]) -> tuple[list[str], str]:
    if len(segments) > 1 and (code := _country_at_end(segments[-1], segments[:-1])):
        return segments[:-1], code
    words = segments[-1].split() if segments else []
    length, code = country_behind(words, least=2 if len(segments) > 1 else 3)
    # "New Jersey" ends with a country, too.
    if not length or any(may_be_region(" ".join(words[-more:])) for more in range(length, length + 3)):
        return segments, ""
    return [*segments[:-1], " ".join(words[:-length])], code


def _is_house_number(segment: str, start: int, end: int) -> bool:
    """Whether what looks like a postcode at the start of an address stands before a street: "12345 Harbour Road"."""
    behind = segment[end:]
    return start == 0 and any(map(names_a_street, behind.split())) and not holds_house_number(behind)


def _locate(segments: list[str], country: str) -> tuple[list[str], str, str]:
    """Return (segments left for the street, town, postcode)."""
    for place in range(len(segments) - 1, -1, -1):
        found = find_postcode(segments[place], country)
        if not found:
            continue
        start, end, postcode = found
        if place == 0 and (
            (len(segments) > 1 and not country and postcode.isdigit() and len(postcode) < 5)
            or _is_house_number(segments[0], start, end)
        ):
            continue
        if names_a_box(street_words(segments[place][:start])):
            continue
        before, after = segments[place][:start].strip(), segments[place][end:].strip()
        before = _COUNTRY_PREFIX.sub("", before).strip()
        if after:
            behind = segments[place + 1 :]
            if place == 0 and not before and not behind and holds_house_number(after):
                town, street = split_town_first(after.split())
                return [" ".join(street)], " ".join(town), postcode
            # "25813 Husum, Hafenstrasse 12"; what else stands behind a town is too loose to be a street.
            streets = [segment for segment in behind if holds_house_number(segment) or not place]
            return [*segments[:place], *([before] if before else []), *streets], after, postcode
        if place > 0 and before and not _DIGIT.search(before):
            return segments[:place], before, postcode
        if before:
            street, town = split_run(before.split())
            if len(segments) == 1 and not town and len(street) <= _LONGEST_TOWN and _is_town(before):
                street, town = [], street
            return [*segments[:place], " ".join(street)], " ".join(town), postcode
        rest = segments[:place] + segments[place + 1 :]
        return (rest[:-1], rest[-1], postcode) if _ends_with_town(rest) else (rest, "", postcode)
    if len(segments) > 1:
        return (segments[:-1], segments[-1], "") if _ends_with_town(segments) else (segments, "", "")
    street, town = split_town_behind(segments[0].split()) if segments else ([], [])
    return [" ".join(street)], " ".join(town), ""


def _with_region(segments: list[str], place: _Place) -> list[str]:
    """Tell the region apart from the town, in the same part or in one of its own; return the segments left."""
    country = place.country
    whole = region_code(place.city, country, place.postcode) if not country or country in _REGION_FOLLOWS_TOWN else ""
    as_code = bool(place.postcode) and whole[:2] in WRITTEN_AS_CODE
    if whole and whole[:2] in _REGION_FOLLOWS_TOWN and len(segments) > 1 - as_code and _is_town(segments[-1]):
        place.city, place.region = segments[-1], whole
        segments = segments[:-1]
    elif whole and whole[:2] in WRITTEN_AS_CODE and segments and (run := split_run(segments[-1].split()))[1]:
        # "120 Main St Springfield, IL 62704"
        place.city, place.region = " ".join(run[1]), whole
        segments = [*segments[:-1], " ".join(run[0])]
    elif not whole:
        town, place.region = split_region(phrase(place.city).split(), country, place.postcode)
        if place.region:
            place.city = " ".join(town)
    if not place.region and is_region_alone(place.city, country):
        # "Main Street 5, Bayern": the town was left out.
        told = country or place.postcode or len(place.city) >= _LEAST_TOWN
        place.city, place.region = "", region_code(place.city, country, place.postcode) if told else ""
    if not country and place.region[:2] in WRITTEN_AS_CODE:
        place.country = place.region[:2]
    # A county's mark or a code without a county behind the street tells nothing.
    return [part for place, part in enumerate(segments) if not place or len(part) >= _LEAST_TOWN or _DIGIT.search(part)]


def _is_town(segment: str) -> bool:
    # "av." is a street's kind, but "st." may be a saint: "St. Ives".
    return not _DIGIT.search(segment) and not any(
        names_a_street(word.strip(".")) for word in segment.split() if word != "st."
    )


def _ends_with_town(segments: list[str]) -> bool:
    """Whether the last of several parts may be a town; behind a house number alone it is the street ("54, ZI Voltaire")."""
    return len(segments) > 1 and _is_town(segments[-1]) and any(map(str.isalpha, "".join(segments[:-1])))


def _without_repeats(segments: list[str], place: _Place) -> list[str]:
    """Drop what stands in the line though it was delivered apart as well (town, postcode, country)."""
    apart = {phrase(place.city), place.postcode.lower(), phrase(f"{place.postcode} {place.city}")} - {""}
    return [
        segment
        for number, segment in enumerate(segments)
        if number == 0
        or not (phrase(segment) in apart or tidy_postcode(segment).lower() in apart or country_code(segment))
    ]


def parse_address(line: str, city: str = "", postcode: str = "", region: str = "", country: str = "") -> Address:
    """Return the parsed address from a line (street alone or everything) and whatever parts were delivered apart.

    >>> parsed = parse_address("14 HARBOUR ST, UNIT 3, LOWESTOFT, SUFFOLK, NR32 1XA")
    >>> parsed.number, parsed.street, parsed.unit, parsed.city, parsed.postcode, parsed.region
    ('14', 'harbour street', '3', 'lowestoft', 'NR321XA', 'GB-SUFFOLK')
    """
    code = country_code(country) if country else ""
    block = split_block_address(line)
    if block:
        return _of_block(block, city, postcode, region, code)
    segments = [text for part in _SEGMENT.split(line) if (text := fold(part).strip(" .-"))]
    if "chome" in line.lower():
        segments = list(map(with_district_in_number, segments))
    if city or postcode:
        place = _delivered_place(city, postcode, code)
        if len(segments) > 1:
            segments = _without_repeats(segments, place)
    else:
        segments, found_country = _take_country(segments)
        segments, found_city, found_postcode = _locate(segments, code or found_country)
        place = _Place(found_city, found_postcode, "", code or found_country or country_by_postcode(found_postcode))
        segments = _with_region(segments, place)
    interior = Interior()
    number = ""
    street: list[str] = []
    for segment in segments:
        words = take_interior(street_words(segment), interior)
        if not number:
            words, number = take_number(words)
        street += words
    is_town = interior.box and street and not (place.city or number)
    if is_town and (place.postcode or not any(map(names_a_street, street))):
        place.city, street = " ".join(street), []
    found_country = place.country or country_by_postcode(place.postcode)
    town, province = split_province(place.city, found_country)
    if found_country in _UNIT_BEFORE_NUMBER and "-" in number and "/" in line and not interior.unit:
        interior.unit, _, number = number.partition("-")
    return Address(
        number=number,
        street=standard_street(street),
        unit=interior.unit,
        floor=interior.floor,
        building=interior.building,
        box=interior.box,
        city=standard_town(town),
        postcode=place.postcode,
        region=region_code(region, found_country, place.postcode) or phrase(region) or place.region or province,
        country=found_country,
    )


def _of_block(block: BlockAddress, city: str, postcode: str, region: str, country: str) -> Address:
    return Address(
        number=block.number, street=block.area, unit=block.unit, floor=block.floor,
        city=standard_town(city) or block.city, postcode=tidy_postcode(postcode, country) or block.postcode,
        region=phrase(region) or block.region, country=country or ("JP" if block.region or block.postcode else ""),
    )  # fmt: skip


def country_by_postcode(postcode: str) -> str:
    """British, Irish and Canadian postcodes tell their country by shape."""
    return next((code for code in _TOLD_BY_POSTCODE if postcode and fits(postcode, code)), "")


_TOLD_BY_POSTCODE = ("GB", "IE", "CA")
#: Countries where "2/14" is unit 2 of house 14.
_UNIT_BEFORE_NUMBER = frozenset({"AU"})
