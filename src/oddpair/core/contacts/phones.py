"""Phone numbers: digits in international form where the country is known."""

import re
from functools import cache

from ..text.tables import read_lines

_EXTENSION = re.compile(
    r"(?:\bextension|\bext|\bextn|(?<![a-z])x|durchwahl|\bdw|\bposte|\btoestel|\bwewn|#)[.:]?\s*(\d{1,6})\s*$",
    re.IGNORECASE,
)
_LETTER_OR_HASH = re.compile(r"[A-Za-z#]")
_NOT_DIGIT = re.compile(r"[^0-9]")
#: Countries that write no trunk zero, so that a leading zero belongs to the number.
_NO_TRUNK = frozenset({"NO", "DK", "PL", "GR", "ES", "IT", "PT", "US", "CA"})
_KEY_DIGITS = 8
_BETWEEN_PHONES = re.compile(r"\s*[;,|]\s*|\s+/\s+|\s+(?:or|oder|og|of|ou|lub|eller)\s+")
_MAY_BE_LIST = re.compile(r"[;,|/a-z]")
_LEAST_DIGITS, _LEAST_LISTED = 6, 13


@cache
def _calling_codes() -> tuple[dict[str, str], dict[str, str]]:
    """Return (calling code → first country, country → calling code)."""
    by_code: dict[str, str] = {}
    by_country: dict[str, str] = {}
    for line in read_lines(__package__, "calling_codes.txt"):
        code, _, countries = line.partition(":")
        for country in countries.split(","):
            by_country[country.strip()] = code
        by_code[code] = countries.split(",")[0].strip()
    return by_code, by_country


def tidy_phone(text: str, country: str = "") -> str:
    """Return "+<calling code><number>" where the country is known from the number or ``country``, else plain digits.

    Spaces, brackets, dashes, the bracketed trunk zero and an extension are dropped. Fewer than five digits give "".
    """
    plain = text.replace("(0)", "") if "(" in text else text
    if _LETTER_OR_HASH.search(plain):
        plain = _EXTENSION.sub("", plain)
    digits = _NOT_DIGIT.sub("", plain)
    if len(digits) < 5 or set(digits) == {"0"}:
        return ""
    by_code, by_country = _calling_codes()
    international = plain.strip().startswith("+") or (digits.startswith("00") and len(digits) > 9)
    if international:
        digits = digits.removeprefix("00")
        for length in (3, 2, 1):
            owner = by_code.get(digits[:length])
            if owner:
                rest = digits[length:]
                return "+" + digits[:length] + (rest if owner in _NO_TRUNK else rest.removeprefix("0"))
        return "+" + digits
    code = by_country.get(country)
    if code:
        return "+" + code + (digits if country in _NO_TRUNK else digits.removeprefix("0"))
    return digits


def phone_extension(text: str) -> str:
    """Return the digits of the extension behind a number ("01632 960001 ext. 7"), or ""."""
    match = _EXTENSION.search(text) if _LETTER_OR_HASH.search(text) else None
    return match[1] if match else ""


def split_phones(text: str) -> list[str]:
    """Return the numbers that a cell lists ("01632 960001 / 960002 or ..."); parts too short for a number are left joined."""
    if len(text) < _LEAST_LISTED or not _MAY_BE_LIST.search(text):
        return [text]
    parts = _BETWEEN_PHONES.split(text)
    return parts if all(sum(map(str.isdigit, part)) >= _LEAST_DIGITS for part in parts) else [text]


def phone_end(phone: str) -> str:
    """Return the last eight digits: equal for the same number with and without its country, rarely equal by chance."""
    digits = phone.lstrip("+").lstrip("0")
    return digits[-_KEY_DIGITS:]
