"""Countries by any of their names."""

from collections.abc import Sequence
from functools import cache, lru_cache

from ..text.folding import collapse
from ..text.tables import lengths_by_last_word, phrase, read_lines

#: A shorter word at the end of a line may be a part of a postcode or the code of a region, but for these.
_LEAST_NAME, _SHORT_NAMES = 4, ("uk", "usa", "uae")


@cache
def _codes() -> dict[str, str]:
    table: dict[str, str] = {}
    for line in read_lines(__package__, "countries.txt"):
        code, _, names = line.partition(":")
        for name in [code, *names.split(",")]:
            table[phrase(name)] = code.strip()
    return table


@lru_cache(maxsize=10_000)
def country_code(text: str) -> str:
    """Return the ISO 3166 two-letter code of a country given by code or by name in several languages, or ""."""
    return _codes().get(phrase(text), "")


@cache
def _names() -> dict[str, str]:
    lines = (line.partition(":") for line in read_lines(__package__, "countries.txt"))
    return {code.strip(): names.split(",")[0].strip() for code, _, names in lines}


def country_name(code: str) -> str:
    """Return the English name of a country by its ISO 3166 two-letter code, or ""."""
    return _names().get(code, "")


def country_behind(words: Sequence[str], least: int = 3) -> tuple[int, str]:
    """Return (how many words, code) of the name of a country at the end of at ``least`` so many folded words, or one more where the
    name has more than one; (0, "") if there is none."""
    for length in _lengths_of_names().get(collapse(words[-1]), ()) if words else ():
        name = " ".join(words[-length:])
        long_enough = len(name) >= _LEAST_NAME or name in _SHORT_NAMES
        if len(words) >= length + least - 1 and long_enough and (code := country_code(name)):
            return length, code
    return 0, ""


@cache
def _lengths_of_names() -> dict[str, tuple[int, ...]]:
    return lengths_by_last_word(frozenset(_codes()))
