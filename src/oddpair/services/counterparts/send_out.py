"""A counterpart list as a table: all columns of its file, and beside them the outcome and the candidates of every row."""

from collections.abc import Iterator

from sqlalchemy.orm import Session

from ...core.errors import Refused
from ...store import counterparts as store
from ...store.tables import CounterpartList
from ..golden.send_out import OutTable
from ..offline.counterpart_table import Candidate, CounterpartColumns
from .lists import list_named
from .rows import ShownRow, rows_page
from .settings import OUTCOMES, settings_of

_AT_ONCE = 2_000


def out_table(session: Session, slug: str, name: str, *, outcome: str = "", best: int = 1) -> OutTable:
    """Return the rows of a list in the order of its file, of one outcome where one is named, with ``best`` candidates a row, read as they
    are asked for; raise Refused if the list was not run yet."""
    found = list_named(session, slug, name)
    if found.ran_at is None:
        raise Refused("The rows of this list were not looked up yet. Run it first.")
    if outcome and outcome not in OUTCOMES:
        raise Refused(f"'{outcome}' is no outcome, only {', '.join(OUTCOMES)}.")
    columns = CounterpartColumns.beside(found.columns, settings_of(found.settings).keep)
    return OutTable(found.name, columns.all, _lines(session, slug, found, columns, outcome, best))


def _lines(
    session: Session, slug: str, found: CounterpartList, columns: CounterpartColumns, outcome: str, best: int
) -> Iterator[dict[str, str]]:
    cursor, more = "", True
    while more:
        page = rows_page(session, slug, found.name, outcome=outcome, cursor=cursor, limit=_AT_ONCE)
        for row in page.rows:
            for line in columns.lines(row.cells, row.outcome, _told(row, columns, best)):
                yield {**line, columns.said["reason"]: line.get(columns.said["reason"], "") or row.note}
        session.expire_all()
        cursor, more = page.behind, bool(page.behind)


def _told(row: ShownRow, columns: CounterpartColumns, best: int) -> list[Candidate]:
    """Return the candidates that are sent out: what a person confirmed in front, what one rejected not at all."""
    if row.said_by and row.counterpart is None:
        return []
    shown = [one for one in row.candidates if not one.rejected]
    own = row.counterpart
    told = [
        Candidate(one.rank, one.of.id, one.score, one.probability, one.reason, _kept(one.of, columns)) for one in shown
    ]
    if row.said_by and own is not None:
        by_hand = Candidate(1, own.id, 0.0, 1.0, f"confirmed by {row.said_by}", _kept(own, columns))
        told = [by_hand, *(one for one in told if one.id != own.id)]
    return told[:best]


def _kept(of: store.Described, columns: CounterpartColumns) -> dict[str, str]:
    return {name: value for name, value in of.values.items() if name in columns.kept}
