"""The parts of an address as they were written: what parsing found in one cell goes to the field that it belongs to."""

import re
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import NamedTuple

from ..text.tables import phrase
from .countries import country_code
from .parse import Address
from .postcodes import take_postcode, tidy_postcode
from .regions import region_code, split_province
from .towns import standard_town

_WORD = re.compile(r"[^\s,;|]+")
_PART_MARK, _EDGES = re.compile(r"[,;|\n]"), " ,;|\n-/."
_LONGEST = 6
#: Fewer letters behind a comma are a code or an abbreviation of what was told before.
_LEAST_LETTERS = 3


class WrittenAddress(NamedTuple):
    """An address as delivered: its cells, each "" where there is nothing."""

    line: str = ""
    city: str = ""
    postcode: str = ""
    region: str = ""
    country: str = ""


@lru_cache(maxsize=100_000)
def parts_as_written(written: WrittenAddress, told: Address) -> WrittenAddress:
    """Return the address with what stands in the wrong cell moved to its own: town, postcode, region and country out of the line,
    a postcode out of the town's cell. ``told`` are the tidy parts that parsing found. Nothing is made up: what moves is moved as it
    was written, and a cell that is filled keeps what is its own.

    >>> told = Address(number="239", street="molenplein", city="gouda", postcode="6606DL")
    >>> parts_as_written(WrittenAddress("Molenplein 239, 6606 DL Gouda"), told)
    WrittenAddress(line='Molenplein 239', city='Gouda', postcode='6606 DL', region='', country='')
    """
    own = _region_apart(_town_and_postcode_apart(written, told), told)
    line, found = _line_alone(own, told)
    return WrittenAddress(line, **{name: getattr(own, name) or found.get(name, "") for name in own._fields[1:]})


def _town_and_postcode_apart(own: WrittenAddress, told: Address) -> WrittenAddress:
    """Return the address with a postcode in the town's cell, and a town in the postcode's, moved."""
    town, inside = take_postcode(own.city, told.country)
    if inside and inside == told.postcode:
        own = own._replace(city=town, postcode=_code_of(own.postcode, told) or _code_of(own.city, told) or own.postcode)
    beside, inside = take_postcode(own.postcode, told.country)
    if own.postcode and not any(map(str.isdigit, own.postcode)) and standard_town(own.postcode) == told.city:
        own = own._replace(city=own.city or own.postcode, postcode="")
    elif inside and inside == told.postcode and sum(map(str.isalpha, beside)) >= _LEAST_LETTERS:
        town = beside if not own.city and standard_town(beside) == told.city else own.city
        own = own._replace(city=town, postcode=_code_of(own.postcode, told))
    return own


def _region_apart(own: WrittenAddress, told: Address) -> WrittenAddress:
    """Return the address with a region behind the town's comma moved."""
    town, comma, region = map(str.strip, own.city.rpartition(","))
    if not (town and comma and region) or not (phrase(region) == phrase(own.region) or _tests(told)["region"](region)):
        return own
    return own._replace(city=town, region=own.region or region)


def _code_of(text: str, told: Address) -> str:
    """Return the words of a text that are its postcode, as written, or ""."""
    words = text.split()
    for length in (1, 2):
        for start in range(len(words) - length + 1):
            code = " ".join(words[start : start + length]).strip(_EDGES)
            if told.postcode and tidy_postcode(code, told.country) == told.postcode:
                return code
    return ""


def _tests(told: Address) -> dict[str, Callable[[str], bool]]:
    """Return, per part of a place, whether some words are it."""

    def is_town(text: str) -> bool:
        return standard_town(split_province(text, told.country)[0]) == told.city

    def is_region(text: str) -> bool:
        return told.region in (phrase(text), region_code(text, told.country, told.postcode))

    def is_postcode(text: str) -> bool:
        # "IL 62704" is a region with its postcode.
        return any(map(str.isdigit, text.split()[0])) and tidy_postcode(text, told.country) == told.postcode

    return {
        "postcode": lambda text: bool(told.postcode and text) and is_postcode(text),
        "country": lambda text: bool(told.country) and country_code(text) == told.country,
        "city": lambda text: bool(told.city) and is_town(text),
        "region": lambda text: bool(told.region) and is_region(text),
    }


def _line_alone(own: WrittenAddress, told: Address) -> tuple[str, dict[str, str]]:
    """Return (the line without the place behind or before the street, the parts of the place that stood there)."""
    line, found = own.line, dict[str, str]()
    tests = _tests(told)
    for backwards in (True, False):
        if not backwards and (found.keys() & {"city", "postcode"} or own.city or own.postcode):
            break
        while (words := list(_WORD.finditer(line))) and (step := _outermost(line, words, own, tests, found, backwards)):
            name, start, end = step
            found[name] = line[start:end].strip(_EDGES)
            line = (line[:start] if backwards else line[end:]).strip(_EDGES)
    if not line and (told.street or told.number or told.box or told.unit):
        return own.line, {}
    return line, found


def _outermost(
    line: str, words: list[re.Match[str]], own: WrittenAddress, tests: Mapping[str, Callable[[str], bool]],
    found: Mapping[str, str], backwards: bool,
) -> tuple[str, int, int] | None:  # fmt: skip
    """Return (name, start, end) of the part of a place at the end or the beginning of a line, the longest that is one; or None."""
    for length in range(min(_LONGEST, len(words)), 0, -1):
        run = words[-length:] if backwards else words[:length]
        start, end = run[0].start(), run[-1].end()
        text = line[start:end].strip(_EDGES)
        alone = start == 0 or bool(_PART_MARK.search(line[words[-length - 1].end() : start])) if backwards else False
        for name, is_it in tests.items():
            # What was delivered apart as well may be a word of the street ("Rue de Paris"): only a whole part is a repetition.
            if name not in found and (alone or not (getattr(own, name) or found.get(name))) and is_it(text):
                return name, start, end
    last = words[-1][0].strip(_EDGES) if backwards and len(words) > 1 else ""
    behind = words[-2] if last else None
    # A code behind a comma or a postcode tells nothing.
    if behind and "rest" not in found and last.isalpha() and len(last) < _LEAST_LETTERS and (
        _PART_MARK.search(line[behind.end() : words[-1].start()]) or tests["postcode"](behind[0])
    ):  # fmt: skip
        return "rest", words[-1].start(), words[-1].end()
    return None
