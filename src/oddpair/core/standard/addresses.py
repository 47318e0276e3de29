"""Addresses in standard form: in parts, each written as its country writes it."""

import re
from collections import Counter
from collections.abc import Mapping
from functools import lru_cache

from ..addresses import (
    Address,
    country_by_postcode,
    country_code,
    parse_address,
    region_code,
    street_type_spelled_out,
    tidy_postcode,
)
from ..text.folding import fold, words_of
from .letters import proper_case

_ROOT = "address"
#: How a tidy postcode is written: country → (pattern, what stands between its parts).
_POSTCODES = {
    country: (re.compile(pattern), between)
    for countries, pattern, between in (
        ("GB GG JE IM", r"([A-Z]{1,2}\d[A-Z\d]?)(\d[A-Z]{2})", " "), ("IE", r"([A-Z]\d[\dW])([A-Z\d]{4})", " "),
        ("CA", r"([A-Z]\d[A-Z])(\d[A-Z]\d)", " "), ("NL", r"(\d{4})([A-Z]{2})", " "), ("SE GR CZ SK", r"(\d{3})(\d{2})", " "),
        ("PL", r"(\d{2})(\d{3})", "-"), ("PT", r"(\d{4})(\d{3})", "-"), ("JP", r"(\d{3})(\d{4})", "-"),
    )
    for country in countries.split()
}  # fmt: skip
#: Where the house number stands before the street.
_NUMBER_FIRST = frozenset("GB IE FR US CA AU NZ LU IM JE GG MT IN ZA".split())
#: Where the kind of a street stands behind its name as a word that can be written out.
ENGLISH = frozenset("GB IE US CA AU NZ IM JE GG MT IN ZA".split())
_MARKS = ",;|"
_NO_POSTCODE = re.compile(r"(?!)")


def standard_address(values: Mapping[str, str]) -> dict[str, str]:
    """Return the parts of an address in standard form; a line that holds town and postcode as well is told apart.

    >>> standard_address({"address.line": "14 HARBOUR ST, LOWESTOFT, NR321XA", "address.country": "UK"})["address.line"]
    '14 Harbour Street'
    """
    given = {part: values.get(f"{_ROOT}.{part}", "") for part in _PARTS}
    line, city, region, told = given["line"], given["city"], given["region"], ""
    if city or given["postcode"]:
        postcode = given["postcode"]
        country = country_code(given["country"]) or country_by_postcode(tidy_postcode(postcode))
    else:
        parsed = parse_address(f"{given['number']} {line}".strip(), "", "", region, given["country"])
        postcode, country = parsed.postcode, parsed.country
        region = region or (parsed.region if parsed.region[:3] == f"{country}-" else "")
        if line:
            whole = line
            line, city = _told_apart(line, parsed)
            named = any(country_code(word.strip(_MARKS)) == country for word in whole.split())
            told = country if line != whole and named else ""
    if given["number"] and given["number"] not in line.split():
        line = f"{given['number']} {line}" if country in _NUMBER_FIRST else f"{line} {given['number']}"
    standard = {
        "line": _street(line, country),
        "line2": proper_case(given["line2"]),
        "city": proper_case(city),
        "postcode": _postcode(postcode, country),
        "region": _region(region, country),
        "country": country_code(given["country"]) or given["country"] or told,
    }
    return {f"{_ROOT}.{part}": value.strip() for part, value in standard.items() if value.strip()}


_PARTS = ("line", "number", "line2", "city", "postcode", "region", "country")


def _told_apart(line: str, parsed: Address) -> tuple[str, str]:
    """Return (street, town) as they are written in a line that holds the whole address; the postcode, region and country fall away."""
    if not parsed.city:
        return line, ""
    town = Counter(words_of(parsed.city))
    street: list[str] = []
    city: list[str] = []
    # From the end, where the town is.
    for token in reversed(line.replace(",", ", ").split()):
        written = token.strip(_MARKS)
        words = Counter(words_of(written))
        if words and words <= town:
            town -= words
            city.insert(0, written)
        elif not words or _is_beside(written, parsed):
            continue
        else:
            street.insert(0, token)
    if +town:
        # The town is written otherwise than its tidy form: nothing is taken apart that cannot be put together again.
        return line, ""
    return " ".join(street).strip(_MARKS + " "), " ".join(city)


def _is_beside(written: str, parsed: Address) -> bool:
    """Whether a word of a line is a piece of the postcode, the region or the country."""
    plain = "".join(letter for letter in fold(written) if letter.isalnum()).upper()
    if plain and plain != parsed.number.upper() and plain in parsed.postcode:
        return True
    return bool(
        (parsed.country and country_code(written) == parsed.country)
        or (parsed.region and region_code(written, parsed.country, parsed.postcode) == parsed.region)
    )


#: How German writes out the street that stands at the end of a word: country → the ending.
GERMAN = {"DE": "straße", "AT": "straße", "CH": "strasse", "LI": "strasse", "LU": "strasse"}
_GERMAN_SHORT = re.compile(r"(?<![A-Za-zÄÖÜäöüß])(S|s)tr\.|(?<=[a-zäöüß])(s)tr(?:\.|(?=[\s,]|$))")


@lru_cache(maxsize=50_000)
def _street(line: str, country: str) -> str:
    """Return the line of the street in proper case, the kind of an English or German street written out."""
    line = proper_case(line)
    if country in GERMAN:
        ending = GERMAN[country][1:]
        return " ".join(_GERMAN_SHORT.sub(lambda found: (found[1] or found[2]) + ending + " ", line).split())
    if country not in ENGLISH:
        return line
    words = line.split(" ")
    last = max((place for place, word in enumerate(words) if word.isalpha() or word.rstrip(".,").isalpha()), default=-1)
    if last > 0:
        bare = words[last].rstrip(".,")
        spelled = street_type_spelled_out(fold(bare))
        if spelled and spelled != fold(bare):
            words[last] = proper_case(spelled) + words[last][len(bare) :].replace(".", "")
    return " ".join(words)


@lru_cache(maxsize=50_000)
def _postcode(postcode: str, country: str) -> str:
    tidy = tidy_postcode(postcode, country)
    pattern, between = _POSTCODES.get(country, (_NO_POSTCODE, ""))
    match = pattern.fullmatch(tidy)
    return between.join(match.groups()) if match else tidy or postcode


@lru_cache(maxsize=10_000)
def _region(region: str, country: str) -> str:
    """Return the code of a region of a country that writes codes, else its name in proper case."""
    code = region if region[:3] == f"{country}-" else region_code(region, country)
    short = code.partition("-")[2]
    if code and len(short) <= 3:
        return short
    return proper_case(short.lower() if code and region == code else region)
