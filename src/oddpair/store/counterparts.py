"""Counterpart lists in the database: whole results written at once, pages of rows, what people said."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import delete, select, text, update
from sqlalchemy.orm import Session

from .bulk import copy_rows
from .keyset import Page, read_cursor, turned
from .tables import CounterpartCandidate, CounterpartList, CounterpartRow, CounterpartVerdict


def lists_of(session: Session, register_id: int) -> Sequence[CounterpartList]:
    """Return the lists of a register, by name."""
    query = select(CounterpartList).where(CounterpartList.register_id == register_id)
    return session.scalars(query.order_by(CounterpartList.name)).all()


def list_by_name(session: Session, register_id: int, name: str) -> CounterpartList | None:
    """Return a list of a register, or None."""
    query = select(CounterpartList).where(CounterpartList.register_id == register_id, CounterpartList.name == name)
    return session.scalars(query).first()


def forget_results(session: Session, list_id: int) -> None:
    """Drop rows and candidates of a list; what people said stays."""
    for table in (CounterpartCandidate, CounterpartRow):
        session.execute(delete(table).where(table.list_id == list_id))


def forget_list(session: Session, list_id: int) -> None:
    """Drop a list with all that belongs to it."""
    forget_results(session, list_id)
    session.execute(delete(CounterpartVerdict).where(CounterpartVerdict.list_id == list_id))
    session.execute(delete(CounterpartList).where(CounterpartList.id == list_id))


ROW_COLUMNS = ("list_id", "row", "key", "cells", "outcome", "record_id", "said_by", "note")
CANDIDATE_COLUMNS = ("list_id", "row", "rank", "record_id", "score", "probability", "reason")


def write_results(session: Session, rows: Iterable[Sequence[Any]], candidates: Iterable[Sequence[Any]]) -> None:
    """COPY rows (ROW_COLUMNS) and candidates (CANDIDATE_COLUMNS)."""
    copy_rows(session, "counterpart_rows", ROW_COLUMNS, rows)
    copy_rows(session, "counterpart_candidates", CANDIDATE_COLUMNS, candidates)
    session.execute(text("ANALYZE counterpart_rows"))
    session.execute(text("ANALYZE counterpart_candidates"))


def verdicts_of(session: Session, list_id: int, keys: Sequence[str] | None = None) -> Sequence[CounterpartVerdict]:
    """Return what people said of a list's rows (of some, where ``keys`` are given), in the order in which they did."""
    query = select(CounterpartVerdict).where(
        CounterpartVerdict.list_id == list_id, CounterpartVerdict.withdrawn_at.is_(None)
    )
    if keys is not None:
        query = query.where(CounterpartVerdict.key.in_(keys))
    return session.scalars(query.order_by(CounterpartVerdict.id)).all()


def withdraw(session: Session, verdicts: Sequence[CounterpartVerdict]) -> None:
    """Note that what was said no longer holds."""
    ids = [verdict.id for verdict in verdicts]
    session.execute(
        update(CounterpartVerdict).where(CounterpartVerdict.id.in_(ids)).values(withdrawn_at=datetime.now(UTC))
    )


@dataclass(frozen=True, slots=True)
class RowFilter:
    """Which rows are asked for: of some outcomes (none: all), holding some letters, said by a person."""

    outcomes: tuple[int, ...] = ()
    search: str = ""
    by_hand: bool = False

    def condition(self) -> tuple[str, dict[str, Any]]:
        """Return the condition and its parameters."""
        parts, values = ["r.list_id = :list_id"], dict[str, Any]()
        if self.outcomes:
            parts.append("r.outcome = ANY(CAST(:outcomes AS smallint[]))")
            values["outcomes"] = list(self.outcomes)
        if self.search:
            parts.append("strpos(lower(r.cells::text || r.key), :search) > 0")
            values["search"] = self.search.lower()
        if self.by_hand:
            parts.append("r.said_by <> ''")
        return " AND ".join(parts), values


def rows_page(session: Session, list_id: int, only: RowFilter, *, cursor: str = "", limit: int) -> Page[CounterpartRow]:
    """Return a page of rows in the order of the file."""
    condition, values = only.condition()
    back, place = read_cursor(cursor)
    values |= {"list_id": list_id, "limit": limit + 1}
    if place:
        condition += f" AND r.row {'<' if back else '>'} CAST(:place AS integer)"
        values["place"] = place[0]
    order = "DESC" if back else "ASC"
    query = text(f"SELECT * FROM counterpart_rows r WHERE {condition} ORDER BY r.row {order} LIMIT :limit")
    found = session.scalars(select(CounterpartRow).from_statement(query), values).all()
    return turned([(row, (f"{row.row}", "")) for row in found], limit=limit, back=back, cursor=cursor)


def candidates_of(session: Session, list_id: int, rows: Sequence[int]) -> Sequence[CounterpartCandidate]:
    """Return the candidates of some rows, by row and rank."""
    query = select(CounterpartCandidate).where(
        CounterpartCandidate.list_id == list_id, CounterpartCandidate.row.in_(rows)
    )
    return session.scalars(query.order_by(CounterpartCandidate.row, CounterpartCandidate.rank)).all()


def rows_with_key(session: Session, list_id: int, key: str) -> Sequence[CounterpartRow]:
    """Return the rows that a key stands for: one, in most lists."""
    query = select(CounterpartRow).where(CounterpartRow.list_id == list_id, CounterpartRow.key == key)
    return session.scalars(query.order_by(CounterpartRow.row)).all()


def count_outcomes(session: Session, list_id: int) -> dict[int, int]:
    """Return how many rows came to each outcome."""
    query = text("SELECT outcome, count(*) FROM counterpart_rows WHERE list_id = :list_id GROUP BY 1")
    return {int(outcome): int(count) for outcome, count in session.execute(query, {"list_id": list_id})}


_DESCRIBED = """
    SELECT s.id, o.name, s.source_key, s.fields, g.key, g.values, s.state
    FROM source_records s JOIN sources o ON o.id = s.source_id
    LEFT JOIN golden_members m ON m.record_id = s.id LEFT JOIN golden_records g ON g.id = m.golden_id
    WHERE s.id = ANY(CAST(:records AS bigint[]))
"""


@dataclass(frozen=True, slots=True)
class Described:
    """A record of the register as a counterpart: its golden key ("" if it is in no golden record), its source and id there, and the values
    of the golden record, else its own fields; ``gone`` if it is no longer in the register."""

    record_id: int
    golden_key: str
    source: str
    source_key: str
    values: Mapping[str, str]
    gone: bool

    @property
    def id(self) -> str:
        """Return what it is known by: its golden key, else source and id."""
        return self.golden_key or f"{self.source} {self.source_key}"


def described(session: Session, records: Iterable[int]) -> dict[int, Described]:
    """Return records as counterparts, by id."""
    wanted = sorted(set(records))
    rows = session.execute(text(_DESCRIBED), {"records": wanted}) if wanted else ()
    return {
        record: Described(record, key or "", source, source_key, values if key else fields, state == "withdrawn")
        for record, source, source_key, fields, key, values, state in rows
    }


def unmatched_golden(
    session: Session, register_id: int, list_id: int, *, cursor: str = "", limit: int
) -> Page[Mapping[str, Any]]:
    """Return a page of the golden records in force that no matched row of a list means, by number."""
    back, place = read_cursor(cursor)
    values: dict[str, Any] = {"register_id": register_id, "list_id": list_id, "limit": limit + 1}
    condition = ""
    if place:
        condition = f"AND g.number {'<' if back else '>'} CAST(:place AS bigint)"
        values["place"] = place[0]
    query = text(f"""
        SELECT g.key, g.number, g.values, g.size FROM golden_records g
        WHERE g.register_id = :register_id AND g.leads_to IS NULL AND g.withdrawn_at IS NULL {condition}
        AND NOT EXISTS (
            SELECT FROM golden_members m JOIN counterpart_rows r ON r.record_id = m.record_id
            WHERE m.golden_id = g.id AND r.list_id = :list_id AND r.outcome = 0
        )
        ORDER BY g.number {"DESC" if back else "ASC"} LIMIT :limit
    """)
    found = session.execute(query, values).mappings().all()
    return turned([(dict(row), (f"{row['number']}", "")) for row in found], limit=limit, back=back, cursor=cursor)
