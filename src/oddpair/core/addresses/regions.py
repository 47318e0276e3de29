"""Regions (states, provinces, counties) by code or by any of their names."""

from functools import cache

from ..text.tables import phrase, read_lines
from .postcodes import fits

#: Countries where a line ends with the region's code ("Springfield, IL 62704"), likeliest first.
WRITTEN_AS_CODE = ("US", "CA", "AU")
_COUNTY = ("co", "county")
_LONGEST_CODE = 3
#: Countries where a region's name alone is no town's, but for a few.
_NO_TOWNS, _TOWNS_TOO = (
    ("US", "CA", "AU", "DE"),
    frozenset({"berlin", "hamburg", "bremen", "new york", "quebec", "washington"}),
)
#: Countries where a region's name is written out behind a town, and is no part of towns' names.
_WRITTEN_OUT = ("GB", "US", "CA")


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


@cache
def _names() -> dict[tuple[str, str], str]:
    """Return (country, code) → the region's name."""
    names: dict[tuple[str, str], str] = {}
    country = ""
    for line in read_lines(__package__, "regions.txt"):
        if line.startswith("["):
            country = line.strip("[]")
        elif ":" in line:
            code, _, further = line.partition(":")
            names[country, code.strip()] = further.split(",")[0].strip()
    return names


def region_name(code: str, country: str) -> str:
    """Return the name of a region by its code, with or without the country in front ("US-IL", "IL"), or ""."""
    return _names().get((country, code.removeprefix(f"{country}-").upper()), "")


def may_be_region(text: str) -> bool:
    """Whether a text is a region of a country where the region ends the address, whatever else it may be."""
    return phrase(text) in _written_as_code()


def is_region_alone(text: str, country: str) -> bool:
    """Whether what stands where a town could is a region, and no town has the name; any code of one or two letters is no town."""
    if len(text) < _LONGEST_CODE:
        return bool(text)
    plain = phrase(text)
    tables = _regions()
    return plain not in _TOWNS_TOO and any(
        plain in tables[code] for code in ([country] if country in _NO_TOWNS else _NO_TOWNS)
    )


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
    for length in (2, 1):
        name = " ".join(words[-length:])
        found = region_code(name, country, postcode) if len(words) > length else ""
        written = len(name) <= _LONGEST_CODE or words[-length] in _COUNTY or found[:2] in _WRITTEN_OUT
        if found and written:
            return words[:-length], found
    return words, ""


def split_province(town: str, country: str) -> tuple[str, str]:
    """Return (town, province in letters) of a town of Italy with its province behind it: "Roma (RM)"."""
    words = phrase(town).split() if country == "IT" else []
    if len(words) < 2 or len(words[-1]) != 2 or not words[-1].isalpha():
        return town, ""
    return " ".join(words[:-1]), f"IT-{words[-1].upper()}"
