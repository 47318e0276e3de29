"""Regions (states, provinces, counties) by code or by any of their names."""

from functools import cache, lru_cache

from ..text.tables import phrase, read_lines
from .postcodes import fits

#: Countries where a line ends with the region's code ("Springfield, IL 62704"), likeliest first.
WRITTEN_AS_CODE = ("US", "CA", "AU")
_COUNTY = ("co ", "county ")
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


@lru_cache(maxsize=50_000)
def region_code(text: str, country: str = "", postcode: str = "") -> str:
    """Return country and region in the manner of ISO 3166-2 ("US-IL"), or "".

    Without a country the postcode's form decides between regions of one name; a short code alone is taken for one of the
    countries where people write it so.
    """
    wanted = phrase(text)
    tables = _regions()
    if not wanted:
        return ""
    if country:
        found = tables.get(country, {}).get(wanted)
        return f"{country}-{found}" if found else ""
    countries = WRITTEN_AS_CODE if len(wanted) <= _LONGEST_CODE else tuple(tables)
    owners = [name for name in countries if wanted in tables[name] and (not postcode or fits(postcode, name))]
    return f"{owners[0]}-{tables[owners[0]][wanted]}" if owners else ""


def may_be_region(text: str) -> bool:
    """Whether a text is a region of a country where the region ends the address, whatever else it may be."""
    return any(phrase(text) in _regions()[country] for country in WRITTEN_AS_CODE)


def split_region(words: list[str], country: str, postcode: str) -> tuple[list[str], str]:
    """Return (words of the town, region code) of a town with its region behind it: "fremantle wa", "oughterard co galway"."""
    for length in (2, 1):
        tail = " ".join(words[-length:])
        is_county = length == 2 and tail.startswith(_COUNTY)
        if len(words) <= length or not (is_county or len(tail) <= _LONGEST_CODE):
            continue
        if not country and not postcode:
            continue
        if found := region_code(tail, country, postcode):
            return words[:-length], found
    return words, ""
