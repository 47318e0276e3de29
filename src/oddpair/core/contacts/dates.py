"""Dates in several orders, tidied to ISO 8601."""

import calendar
import re
from datetime import date

_NUMBERS = re.compile(r"^\s*(\d{1,4})[-/. ](\d{1,2})[-/. ](\d{1,4})(?:[T ].*)?\s*$")
_COMPACT = re.compile(r"^\s*((?:19|20)\d{2})(\d{2})(\d{2})\s*$")
_NAMED = re.compile(r"^\s*(\d{1,2})\.?[- ]([A-Za-z]{3})[A-Za-z]*\.?[- ](\d{4})\s*$")
_MONTHS = {name.lower(): number for number, name in enumerate(calendar.month_abbr) if name}
_PIVOT = 40  # two-digit years up to 40 are in this century


def _iso(year: int, month: int, day: int) -> str:
    if year < 100:
        year += 2000 if year <= _PIVOT else 1900
    try:
        return date(year, month, day).isoformat()
    except ValueError:
        return ""


def tidy_date(text: str) -> str:
    """Return YYYY-MM-DD; day before month where both readings are possible; "" where it is not a date."""
    match = _COMPACT.match(text)
    if match:
        return _iso(int(match[1]), int(match[2]), int(match[3]))
    match = _NUMBERS.match(text)
    if match:
        first, second, third = int(match[1]), int(match[2]), int(match[3])
        if len(match[1]) == 4:
            return _iso(first, second, third)
        return _iso(third, second, first) or _iso(third, first, second)
    match = _NAMED.match(text)
    if match and match[2].lower() in _MONTHS:
        return _iso(int(match[3]), _MONTHS[match[2].lower()], int(match[1]))
    return ""
