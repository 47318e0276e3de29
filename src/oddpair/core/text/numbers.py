"""Numbers as people write them, read in one way wherever a number counts.

Where both marks stand in a number the last one is the decimal mark and the other groups. A mark that stands several times
groups. A single comma before exactly three last digits groups ("1,234"), unless a zero stands before it ("0,125"); any other
single mark is the decimal one ("1.234", "12,5").
"""

import re

_FILLING = re.compile(r"(?<=\d)[\s'’_\u00a0\u202f](?=\d)")
_WRITTEN = re.compile(r"[+-]?\d[\d.,]*")
_PLAIN = re.compile(r"([+-]?)(\d{1,30})(?:\.(\d{1,30}))?")
_GROUPED_BY_COMMA = re.compile(r"[+-]?[1-9]\d{0,2},\d{3}")


def _with_decimal_point(text: str) -> str:
    """Return a written number without grouping marks and with a point as its decimal mark."""
    if "," in text and "." in text:
        return text.replace("," if text.rfind(".") > text.rfind(",") else ".", "").replace(",", ".")
    for mark in ",.":
        if text.count(mark) > 1:
            return text.replace(mark, "")
    return text.replace(",", "" if _GROUPED_BY_COMMA.fullmatch(text) else ".")


def plain_number(text: str) -> str:
    """Return the number that a whole text writes, in plain digits ("1 234,50" → "1234.5"); "" where it is none."""
    found = _PLAIN.fullmatch(_with_decimal_point(_FILLING.sub("", text.strip())))
    if found is None or not found.group().isascii():
        return ""
    sign, whole, part = found.group(1), found.group(2), (found.group(3) or "").rstrip("0")
    return ("-" if sign == "-" else "") + (whole.lstrip("0") or "0") + (f".{part}" if part else "")


def first_number(text: str) -> float:
    """Return the first number in a text ("about 1,234 kg" → 1234.0); not a number where there is none."""
    found = _WRITTEN.search(_FILLING.sub("", text))
    plain = plain_number(found.group().rstrip(".,")) if found else ""
    return float(plain) if plain else float("nan")
