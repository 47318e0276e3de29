"""When something is done again and again: expressions in the form of Vixie's cron, five fields of minute, hour, day, month, weekday."""

from datetime import datetime
from itertools import islice

from cronsim import CronSim, CronSimError

from .errors import InputError

#: Of a long stretch of missed times no more are counted.
_MOST_COUNTED = 1_000


def check_times(expression: str) -> str:
    """Return an expression with single spaces; raise InputError where it says no times."""
    tidy = " ".join(expression.split())
    try:
        CronSim(tidy, datetime(2026, 1, 1))
    except CronSimError as error:
        says = f"'{expression}' says no times: {error}. '30 2 * * *' is every night at 2:30, '*/20 * * * *' every twenty minutes"
        raise InputError(says) from error
    return tidy


def times_in_words(expression: str) -> str:
    """Return an expression in words: "At 02:30 every day"."""
    return CronSim(expression, datetime(2026, 1, 1)).explain()


def next_time(expression: str, after: datetime) -> datetime | None:
    """Return the first time after a moment, in its zone, None if there is none (the 31st of February)."""
    return next(CronSim(expression, after), None)


def times_between(expression: str, after: datetime, until: datetime) -> int:
    """Return how many times there are after one moment and not after another, counted up to a thousand."""
    return sum(1 for time in islice(CronSim(expression, after), _MOST_COUNTED) if time <= until)
