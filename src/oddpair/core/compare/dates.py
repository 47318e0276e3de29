"""Comparison of dates: equal, slipped, or a different day of a different year."""

import re
from datetime import date

import numpy as np

from ..records import MISSING, Column, IntArray, RecordSet
from ..text.hashes import at_places
from .base import (
    Comparison,
    Level,
    Measure,
    Measured,
    Option,
    Options,
)
from .holders import holders_by_names
from .values import CLOSE, DIFFERENT, FURTHER, information, measure_column

#: Dates this many years apart or more, with another day and month too, belong to different people.
_YEARS_APART = 3


#: People's birth dates spread over about so many days.
_USUAL_DAYS = 50 * 365.25
#: A date that more other names hold, and so many times more than chance, is no date of anybody's.
_LEAST_HOLDERS_OF_DEFAULT, _TIMES_BEYOND_CHANCE = 7.0, 20.0
_ISO = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}")


def _ordinal(text: str) -> int:
    try:
        return date.fromisoformat(text).toordinal()
    except ValueError:
        return 0


def without_default_dates(records: RecordSet, field: str, column: Column) -> Column:
    """Return the column without dates that far more names hold than chance could bring together: they only fill a gap."""
    holders = holders_by_names(records, field, column.codes, at_places(column.values, column.codes), "all dates")
    expected = records.census.number(f"{field}: dates", float((column.codes >= 0).sum())) / _USUAL_DAYS
    default = holders > max(_LEAST_HOLDERS_OF_DEFAULT, _TIMES_BEYOND_CHANCE * expected)
    return Column(column.values, np.where(default, np.int32(MISSING), column.codes))


def _prepare(records: RecordSet, field: str, options: Options) -> Measure:
    column = without_default_dates(records, field, records.column(field))
    plain = measure_column(column, information(records, field, column, 15.0), 1)
    # What is no date tells nothing of years, months and days.
    dates = [value if _ISO.fullmatch(value) else "0000-00-00" for value in column.values]
    swapped = [value[:5] + value[8:] + value[4:7] for value in column.values]
    position = {value: number for number, value in enumerate(column.values)}
    partner = np.array([position.get(value, -2) for value in swapped] + [-2], dtype=np.int32)
    year, month, day = (
        np.array([int(value[part]) for value in dates] + [0], dtype=np.int32)
        for part in (slice(0, 4), slice(5, 7), slice(8, 10))
    )

    ordinals = np.array([_ordinal(value) for value in column.values] + [0], dtype=np.int64)
    days = int(options["days"])

    def measure(left: IntArray, right: IntArray) -> Measured:
        levels, shared = plain(left, right)
        one, other = column.codes[left], column.codes[right]
        differs = levels == DIFFERENT
        levels[differs & (partner[one] == other)] = CLOSE
        levels[differs & (np.abs(ordinals[one] - ordinals[other]) <= days)] = CLOSE
        far = np.abs(year[one] - year[other]) >= _YEARS_APART
        levels[(levels == DIFFERENT) & far & (month[one] != month[other]) & (day[one] != day[other])] = FURTHER
        return Measured(levels, shared)

    return measure


DATE = Comparison(
    "date",
    (
        Level("equal", "the {label} is the same", 0.91, agrees=True),
        Level("close", "the {label} has day and month swapped or one slip", 0.065, agrees=True, looseness=5.0),
        Level("different", "the {label} differs", 0.018, among_different=0.15),
        Level("contradicting", "the {label} is of other years", 0.007, among_different=0.85),
    ),
    _prepare,
    {"days": Option(0, 0, 3660)},
)
