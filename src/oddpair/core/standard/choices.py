"""Choices of writing beside the standard form: kinds of streets abbreviated, regions by name instead of code."""

import re
from collections.abc import Callable, Mapping
from functools import lru_cache

from ..addresses import country_code, region_name, street_type_abbreviated
from ..text.folding import fold
from .addresses import ENGLISH, GERMAN

_LINE, _REGION, _COUNTRY = "address.line", "address.region", "address.country"
_GERMAN_LONG = re.compile(r"(?:(S)|(?<=[a-zäöüß])(s))tra(?:ß|ss)e\b")


def with_streets_abbreviated(values: Mapping[str, str]) -> dict[str, str]:
    """Return values with the kind of an English or German street abbreviated in the line of the address.

    >>> with_streets_abbreviated({"address.line": "14 Harbour Street", "address.country": "GB"})["address.line"]
    '14 Harbour St'
    """
    return _with(values, _LINE, _abbreviated)


def with_regions_named(values: Mapping[str, str]) -> dict[str, str]:
    """Return values with the region of an address by its name.

    >>> with_regions_named({"address.region": "IL", "address.country": "US"})["address.region"]
    'Illinois'
    """
    return _with(values, _REGION, lambda region, country: region_name(region, country) or region)


def _with(values: Mapping[str, str], name: str, write: Callable[[str, str], str]) -> dict[str, str]:
    if not values.get(name):
        return dict(values)
    return {**values, name: write(values[name], country_code(values.get(_COUNTRY, "")))}


@lru_cache(maxsize=50_000)
def _abbreviated(line: str, country: str) -> str:
    if country in GERMAN:
        return _GERMAN_LONG.sub(lambda found: f"{found[1] or found[2]}tr.", line)
    if country not in ENGLISH:
        return line
    words = line.split(" ")
    last = max((place for place, word in enumerate(words) if word.rstrip(".,").isalpha()), default=-1)
    bare = words[last].rstrip(".,") if last > 0 else ""
    short = street_type_abbreviated(fold(bare))
    if short:
        words[last] = short.capitalize() + words[last][len(bare) :]
    return " ".join(words)
