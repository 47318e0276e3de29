"""Countries by any of their names."""

from functools import cache, lru_cache

from ..text.tables import phrase, read_lines


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
