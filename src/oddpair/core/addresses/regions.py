"""Regions (states, provinces, counties) by code or by any of their names."""

from functools import cache

from ..text.tables import phrase, read_lines
from .postcodes import fits

#: Countries where a line ends with the region's code ("Springfield, IL 62704"), likeliest first.
WRITTEN_AS_CODE = ("US", "CA", "AU")
_COUNTY = ("co", "county")
_LONGEST_CODE = 3


@cache
def _regions() -> dict[str, dict[str, str]]:
    """Return country → phrase → the region's code or, where it has none, its name."""
    tables: dict[str, dict[str, str]] = {}
    for line in read_lines(__package__, "regions.txt"):
        if line.startswith("["):
            table = tables.setdefault(line.strip("[]"), {})
            continue
        code, _, names = line.partition(":")
        for name in (code, *names.split(",")):
            if name.strip():
                table.setdefault(phrase(name), phrase(code).upper())
    return tables


def region_code(text: str, country: str = "", postcode: str = "") -> str:
    """Return country and region in the manner of ISO 3166-2 ("US-IL"), or "".

    Without a country the postcode's form decides between regions of one name; a short code alone is taken for one of the
    countries where people write it so.
    """
    wanted = phrase(text)
    if wanted not in _all_names():
        return ""
    tables = _regions()
    if country:
        found = tables.get(country, {}).get(wanted)
        return f"{country}-{found}" if found else ""
    countries = WRITTEN_AS_CODE if len(wanted) <= _LONGEST_CODE else tuple(tables)
    owners = [name for name in countries if wanted in tables[name] and (not postcode or fits(postcode, name))]
    return f"{owners[0]}-{tables[owners[0]][wanted]}" if owners else ""


def may_be_region(text: str) -> bool:
    """Whether a text is a region of a country where the region ends the address, whatever else it may be."""
    return phrase(text) in _written_as_code()


@cache
def _written_as_code() -> frozenset[str]:
    return frozenset(name for country in WRITTEN_AS_CODE for name in _regions()[country])


@cache
def _all_names() -> frozenset[str]:
    return frozenset(name for table in _regions().values() for name in table)


def split_region(words: list[str], country: str, postcode: str) -> tuple[list[str], str]:
    """Return (words of the town, region code) of a town with its region behind it: "fremantle wa", "oughterard co galway"."""
    if len(words) < 2 or not (country or postcode):
        return words, ""
    length = 2 if words[-2] in _COUNTY and len(words) > 2 else 1
    if length == 1 and len(words[-1]) > _LONGEST_CODE:
        return words, ""
    found = region_code(" ".join(words[-length:]), country, postcode)
    return (words[:-length], found) if found else (words, "")
