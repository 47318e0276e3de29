"""Paging by key: a page begins behind the last row of the one before, so that it costs the same however far down it is."""

import base64
import binascii
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

import orjson

from ..core.errors import Refused

Row = TypeVar("Row")


@dataclass(frozen=True, slots=True)
class Page(Generic[Row]):
    """Rows, and the cursors of the pages before and behind them; "" where there is none."""

    rows: list[Row]
    before: str
    behind: str


def make_cursor(place: Sequence[str], *, back: bool) -> str:
    """Return the cursor of the page that begins behind (or, going ``back``, ends before) a row."""
    return base64.urlsafe_b64encode(orjson.dumps([back, *place])).decode().rstrip("=")


def read_cursor(cursor: str) -> tuple[bool, list[str]]:
    """Return (whether it goes back, the place of the row it starts from, in two parts; none for the first page).

    Raises Refused where it was made by hand.
    """
    if not cursor:
        return False, []
    try:
        back, first, second = orjson.loads(base64.urlsafe_b64decode(cursor + "=" * (-len(cursor) % 4)))
        place = [str(first), str(second)]
        if "\0" in "".join(place):
            raise ValueError
        return bool(back), place
    except (ValueError, TypeError, binascii.Error) as error:
        raise Refused("This page is not there; go back to the first one.") from error


def turned(rows: Sequence[tuple[Row, Sequence[str]]], *, limit: int, back: bool, cursor: str) -> Page[Row]:
    """Return the page of rows with their places, of which one more than ``limit`` was asked for, in the order asked."""
    more = len(rows) > limit
    shown = list(rows[:limit])
    if back:
        shown.reverse()
    if not shown:
        return Page([], "", "")
    first, last = make_cursor(shown[0][1], back=True), make_cursor(shown[-1][1], back=False)
    has_before = more if back else bool(cursor)
    has_behind = True if back else more
    return Page([row for row, _ in shown], first if has_before else "", last if has_behind else "")
