"""Parsing of postal addresses, delivered in one line or in parts, into comparable parts.

The order of parts differs by country: the house number stands before the street name (GB, IE, FR) or after it (the
others); the postcode stands after the town (GB, IE) or before it. The parser therefore looks for what it can know by
shape (postcode), by table (country, street types, unit markers) or by place (number beside street, town beside
postcode), and leaves the rest as words of the street.
"""

import re
from dataclasses import dataclass
from functools import cache, lru_cache

from ..text.folding import collapse, fold, split_words
from ..text.tables import lengths_by_first_word, phrase, read_lines, read_word_list, read_word_map
from .countries import country_code
from .postcodes import find_postcode, tidy_postcode

_PACKAGE = __package__
_NUMBER = re.compile(r"\d{1,4}[a-z]?(?:[-/]\d{1,4}[a-z]?)?")
_LETTER = re.compile(r"[a-z]")
_RANGE = re.compile(r"(\d)\s*[-/]\s*(\d)")
_COUNTRY_PREFIX = re.compile(r"\b[a-z]{1,3}-$")
_BRITISH = re.compile(r"[A-Z]{1,2}\d[A-Z\d]?\d[A-Z]{2}")
_IRISH = re.compile(r"[ACDEFHKNPRTVWXY]\d[\dW][\dACDEFHKNPRTVWXY]{4}")
_DIGIT = re.compile(r"\d")
_SEGMENT = re.compile(r"[,;\n|]+")


@dataclass(frozen=True, slots=True)
class Address:
    """A parsed address; parts that were not found are ""."""

    number: str = ""
    street: str = ""
    unit: str = ""
    box: str = ""
    city: str = ""
    postcode: str = ""
    region: str = ""
    country: str = ""


@dataclass(slots=True)
class _Draft:
    number: str = ""
    unit: str = ""
    box: str = ""


@cache
def _street_endings() -> tuple[tuple[str, str], ...]:
    """Return (short ending, standard ending) pairs."""
    lines = (line.partition(":") for line in read_lines(_PACKAGE, "street_endings.txt"))
    return tuple((ending.strip(), standard) for standard, _, endings in lines for ending in endings.split(","))


@cache
def _run_together_endings() -> tuple[str, ...]:
    """Return the endings that mark a single word as a street name ("hafenstrasse")."""
    return (
        *sorted({standard for _, standard in _street_endings()}),
        *sorted(read_word_list(_PACKAGE, "joined_types.txt")),
    )


@lru_cache(maxsize=200_000)
def _standard_street_word(word: str) -> str:
    types = read_word_map(_PACKAGE, "street_types.txt")
    if word in types:
        return types[word]
    for ending, standard in _street_endings():
        stem = word.removesuffix(ending)
        # "hafenstr" is a short form; Dutch "kerkstr" cannot be told apart from it: German wins, both sides alike.
        if stem != word and len(stem) > 2:
            return stem + standard
    return word


def _take_country(segments: list[str]) -> tuple[list[str], str]:
    if len(segments) > 1 and (code := country_code(segments[-1])):
        return segments[:-1], code
    words = segments[-1].split() if segments else []
    for length in (3, 2, 1):
        # A lone two-letter word at the end may be part of a postcode, so only full names count here.
        tail = " ".join(words[-length:])
        if len(words) > length + 1 and len(tail) > 3 and (code := country_code(tail)):
            return [*segments[:-1], " ".join(words[:-length])], code
    return segments, ""


@cache
def _markers() -> tuple[frozenset[str], frozenset[str], dict[str, tuple[int, ...]]]:
    """Return (words for units, words for boxes, lengths of both by their first word)."""
    units, boxes = read_word_list(_PACKAGE, "unit_markers.txt"), read_word_list(_PACKAGE, "box_markers.txt")
    return units, boxes, lengths_by_first_word(units | boxes)


def _take_marked(words: list[str], draft: _Draft) -> list[str]:
    """Take units ("unit 4b") and boxes ("po box 17") out of the words of a segment."""
    units, boxes, lengths = _markers()
    if lengths.keys().isdisjoint(words):
        return words
    kept: list[str] = []
    place = 0
    while place < len(words):
        for length in lengths.get(words[place], ()):
            marker = " ".join(words[place : place + length])
            value = words[place + length] if place + length < len(words) else ""
            if marker in boxes and value.isdigit():
                draft.box = value
            elif marker in units and value and (value[0].isdigit() or len(value) == 1):
                draft.unit = value
            else:
                continue
            place += length + 1
            break
        else:
            kept.append(words[place])
            place += 1
    return kept


def _take_number(words: list[str], draft: _Draft) -> list[str]:
    """Take the house number from the front or the end of the street's words."""
    for place in (0, -1):
        if words and not draft.number and _NUMBER.fullmatch(words[place]):
            draft.number = words.pop(place)
            # "12 b" and "12b" are the same number.
            if place == 0 and len(words) > 2 and _LETTER.fullmatch(words[0]):
                draft.number += words.pop(0)
        elif (
            place == -1 and len(words) > 2 and not draft.number and _LETTER.fullmatch(words[-1]) and words[-2].isdigit()
        ):
            draft.number = words[-2] + words[-1]
            words = words[:-2]
    return words


def _street_words(text: str) -> list[str]:
    if "-" not in text and "/" not in text:
        return split_words(text)
    # Ranges and fractions stay one word: "12-14", "7/2".
    parts = _RANGE.sub(r"\1_\2", text)
    words = [word for part in parts.split() for word in ([part] if "_" in part else split_words(part))]
    return [word.strip("._").replace("_", "-") for word in words]


def _split_run(words: list[str]) -> tuple[list[str], list[str]]:
    """Split a run of words without commas into street and town, after the last street-type word or the number."""
    types = read_word_map(_PACKAGE, "street_types.txt")
    endings = _run_together_endings()
    for place in range(len(words) - 1, 0, -1):
        if place < len(words) - 1 and (
            words[place] in types or (len(words[place]) > 5 and words[place].endswith(endings))
        ):
            end = place + 1
            while end < len(words) and _NUMBER.fullmatch(words[end]):
                end += 1
            return words[:end], words[end:]
    return words, []


def _locate(segments: list[str], country: str) -> tuple[list[str], str, str]:
    """Return (segments left for the street, town, postcode)."""
    for place in range(len(segments) - 1, -1, -1):
        found = find_postcode(segments[place], country)
        if not found or (len(segments) > 1 and place == 0 and not country and found[2].isdigit() and len(found[2]) < 5):
            continue
        start, end, postcode = found
        before, after = segments[place][:start].strip(), segments[place][end:].strip()
        before = _COUNTRY_PREFIX.sub("", before).strip()
        if after:
            return [*segments[:place], *([before] if before else [])], after, postcode
        if place > 0 and before and not _DIGIT.search(before):
            return segments[:place], before, postcode
        if before:
            street, town = _split_run(before.split())
            return [*segments[:place], " ".join(street)], " ".join(town), postcode
        rest = segments[:place] + segments[place + 1 :]
        return (rest[:-1], rest[-1], postcode) if len(rest) > 1 else (rest, "", postcode)
    return (segments[:-1], segments[-1], "") if len(segments) > 1 else (segments, "", "")


def parse_address(line: str, city: str = "", postcode: str = "", region: str = "", country: str = "") -> Address:
    """Return the parsed address from a line (street alone or everything) and whatever parts were delivered apart.

    >>> parse_address("14 HARBOUR ST, UNIT 3, LOWESTOFT, NR32 1XA")
    Address(number='14', street='harbour street', unit='3', box='', city='lowestoft', postcode='NR321XA', region='', country='GB')
    """
    code = country_code(country) if country else ""
    segments = [text for part in _SEGMENT.split(line) if (text := fold(part).strip(" .-"))]
    if not (city or postcode):
        segments, found_country = _take_country(segments)
        code = code or found_country
        segments, found_city, found_postcode = _locate(segments, code)
    else:
        found_city, found_postcode = "", ""
    tidy_code = tidy_postcode(postcode) or found_postcode
    draft = _Draft()
    street: list[str] = []
    for segment in segments:
        words = _take_marked(_street_words(segment), draft)
        street += _take_number(words, draft)
    return Address(
        number=draft.number,
        street=" ".join(_standard_street_word(collapse(word)) for word in street),
        unit=draft.unit,
        box=draft.box,
        city=phrase(city or found_city),
        postcode=tidy_code,
        region=phrase(region),
        country=code or _country_by_postcode(tidy_code),
    )


def _country_by_postcode(postcode: str) -> str:
    """Only British and Irish postcodes tell their country by shape."""
    if _BRITISH.fullmatch(postcode):
        return "GB"
    return "IE" if _IRISH.fullmatch(postcode) else ""
