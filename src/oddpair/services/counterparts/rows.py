"""The rows of a counterpart list: page by page with their candidates, and what a person says of one."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from ...core.counterparts.verdicts import ranked
from ...core.errors import NotFound, Refused
from ...core.plan import parse_plan
from ...store import counterparts as store
from ...store.keyset import Page
from ...store.registers import plan_in_force, register_by_slug
from ...store.tables import CounterpartList, CounterpartRow, CounterpartVerdict, Register, SourceRecord
from ..state.layouts import layout_of
from .lists import list_named
from .look_up import CONFIRMED, NOBODY, REFUSED
from .settings import MATCHED, NONE, OUTCOMES, settings_of


@dataclass(frozen=True, slots=True)
class ShownCandidate:
    """A candidate of a row: the record as a counterpart, with rank, score in bits, probability, reason; ``rejected`` if one said so."""

    of: store.Described
    rank: int
    score: float
    probability: float
    reason: str
    rejected: bool


@dataclass(frozen=True, slots=True)
class ShownRow:
    """A row of the file: its outcome by name, its counterpart, candidates, and who said so ("" for the machine)."""

    number: int
    key: str
    cells: Mapping[str, str]
    outcome: str
    said_by: str
    note: str
    counterpart: store.Described | None
    candidates: Sequence[ShownCandidate]


def rows_page(
    session: Session, slug: str, name: str, *, outcome: str = "", search: str = "", by_hand: bool = False, cursor: str = "",
    limit: int = 100,
) -> Page[ShownRow]:  # fmt: skip
    """Return a page of rows in the order of the file: of one outcome, holding some letters, or those that a person settled."""
    found = list_named(session, slug, name)
    if outcome and outcome not in OUTCOMES:
        raise Refused(f"'{outcome}' is no outcome, only {', '.join(OUTCOMES)}.")
    only = store.RowFilter((OUTCOMES.index(outcome),) if outcome else (), search.strip(), by_hand)
    page = store.rows_page(session, found.id, only, cursor=cursor, limit=limit)
    return Page(_shown(session, found, page.rows), page.before, page.behind)


def _shown(session: Session, found: CounterpartList, rows: Sequence[CounterpartRow]) -> list[ShownRow]:
    candidates = store.candidates_of(session, found.id, [row.row for row in rows])
    records = {one.record_id for one in candidates} | {row.record_id for row in rows if row.record_id is not None}
    described = store.described(session, records)
    said = store.verdicts_of(session, found.id, [row.key for row in rows])
    refused = {(one.key, one.record_id) for one in said if one.verdict == REFUSED}
    of_row: dict[int, list[ShownCandidate]] = {}
    keys = {row.row: row.key for row in rows}
    for one in candidates:
        if one.record_id in described:
            rejected = (keys[one.row], one.record_id) in refused
            of_row.setdefault(one.row, []).append(
                ShownCandidate(described[one.record_id], one.rank, one.score, one.probability, one.reason, rejected)
            )
    return [
        ShownRow(
            row.row, row.key, row.cells, OUTCOMES[row.outcome], row.said_by, row.note,
            described.get(row.record_id) if row.record_id is not None else None, of_row.get(row.row, ()),
        )
        for row in rows
    ]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Said:
    """What a person says of a row: that a record is its counterpart (confirmed) or is not (rejected), or that it has none (nobody)."""

    verdict: str
    record_id: int | None = None
    remark: str = ""


def say(session: Session, slug: str, name: str, key: str, said: Said, *, actor: str) -> list[ShownRow]:
    """Keep what a person says of a row and return the row as it is now; raise NotFound or Refused."""
    found, rows = _row(session, slug, name, key)
    if said.verdict not in (CONFIRMED, REFUSED, NOBODY):
        raise Refused(f"'{said.verdict}' cannot be said of a row, only {CONFIRMED}, {REFUSED} or {NOBODY}.")
    if (said.record_id is None) != (said.verdict == NOBODY):
        raise Refused("A record is named where one is confirmed or rejected, and only there.")
    if said.record_id is not None:
        record = session.get(SourceRecord, said.record_id)
        if record is None or record.register_id != found.register_id or record.state == "withdrawn":
            raise NotFound("record", said.record_id)
    before = store.verdicts_of(session, found.id, [key])
    # A row has one counterpart or none; what was rejected may be confirmed after all.
    overtaken = [
        one for one in before
        if one.record_id == said.record_id or (said.verdict != REFUSED and one.verdict != REFUSED)
    ]  # fmt: skip
    store.withdraw(session, overtaken)
    session.add(
        CounterpartVerdict(
            list_id=found.id, key=key, record_id=said.record_id, verdict=said.verdict, remark=said.remark, actor=actor,
            at=datetime.now(UTC),
        )
    )  # fmt: skip
    return _settled(session, found, rows, key)


def take_back(session: Session, slug: str, name: str, key: str) -> list[ShownRow]:
    """Take back all that people said of a row: it is again as the machine found it."""
    found, rows = _row(session, slug, name, key)
    store.withdraw(session, store.verdicts_of(session, found.id, [key]))
    return _settled(session, found, rows, key)


def _row(session: Session, slug: str, name: str, key: str) -> tuple[CounterpartList, Sequence[CounterpartRow]]:
    found = list_named(session, slug, name)
    rows = store.rows_with_key(session, found.id, key)
    if not key or not rows:
        raise NotFound("row", key)
    return found, rows


def _settled(session: Session, found: CounterpartList, rows: Sequence[CounterpartRow], key: str) -> list[ShownRow]:
    """Settle a row by its candidates and what people say of it, and count the outcomes anew."""
    session.flush()
    said = store.verdicts_of(session, found.id, [key])
    counts: dict[str, Any] = dict(found.counts or {})
    for row in rows:
        counts[OUTCOMES[row.outcome]] = counts.get(OUTCOMES[row.outcome], 0) - 1
        _settle(session, found, row, said)
        counts[OUTCOMES[row.outcome]] = counts.get(OUTCOMES[row.outcome], 0) + 1
    found.counts = counts
    session.flush()
    return _shown(session, found, rows)


def _settle(session: Session, found: CounterpartList, row: CounterpartRow, said: Sequence[CounterpartVerdict]) -> None:
    spoken = next((one for one in reversed(said) if one.verdict != REFUSED), None)
    if spoken is not None:
        row.outcome, row.record_id = (MATCHED, spoken.record_id) if spoken.verdict == CONFIRMED else (NONE, None)
        row.said_by = spoken.actor
        return
    refused = {one.record_id for one in said}
    left = [one for one in store.candidates_of(session, found.id, [row.row]) if one.record_id not in refused]
    register = session.get_one(Register, found.register_id)
    layout = layout_of(register)
    settings = settings_of(found.settings)
    plan = settings.plan(layout, parse_plan(plan_in_force(session, register.id).yaml, layout))
    numbers = np.arange(len(left), dtype=np.int32)
    outcome = ranked(
        np.zeros(len(left), dtype=np.int32), numbers, np.array([one.score for one in left], dtype=np.float64), numbers, count=1,
        limits=settings.limits(plan),
    )  # fmt: skip
    row.outcome = int(outcome.verdicts[0])
    row.record_id = left[int(outcome.records[0])].record_id if len(outcome.records) else None
    row.said_by = said[-1].actor if said else ""


@dataclass(frozen=True, slots=True)
class UnmatchedGolden:
    """A golden record that no matched row means."""

    key: str
    values: Mapping[str, str]
    records: int


def unmatched_golden(
    session: Session, slug: str, name: str, *, cursor: str = "", limit: int = 100
) -> Page[UnmatchedGolden]:
    """Return a page of the golden records that no matched row of a list means."""
    register = register_by_slug(session, slug)
    page = store.unmatched_golden(session, register.id, list_named(session, slug, name).id, cursor=cursor, limit=limit)
    return Page(
        [UnmatchedGolden(row["key"], row["values"], row["size"]) for row in page.rows], page.before, page.behind
    )
