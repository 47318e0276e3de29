"""Fields corrected by people: all records that hold a value alike, in one step that can be undone. What was delivered stays."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import cast

from sqlalchemy import ColumnElement, func, select, text, update
from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...core.sign_off import Facts, Matter
from ...store import journal
from ...store import quality as store
from ...store.bulk import copy_ids, copy_rows
from ...store.locks import lock_membership
from ...store.record_filter import Filter, chosen
from ...store.records import PRESENT
from ...store.registers import register_by_slug, source_by_name
from ...store.sealing import digest_of
from ...store.settling import delivered_in, touch
from ...store.tables import Correction, Register, SourceRecord
from ..proposals.gate import Intent, ask_second_yes
from ..state.bring_up_to_date import RecordChange, bring_up_to_date
from ..state.layouts import layout_of
from ..state.words import counted

_MOST_AT_ONCE = 50_000
_VALUES_SHOWN = 200
#: An entry names so many of the records that it touches; a batch of corrections names them all.
_MOST_TOUCHES = 1_000


@dataclass(frozen=True, slots=True)
class ValueCount:
    """A value of a field, and how many of the records looked at hold it."""

    value: str
    records: int


@dataclass(frozen=True, slots=True)
class Batch:
    """Corrections made in one step."""

    batch: int
    field: str
    was: str
    value: str
    records: int
    actor: str
    at: datetime


def _in_sight(session: Session, register: Register, only: Filter, source: str) -> list[ColumnElement[bool]]:
    """Return the conditions of the records of a filter, of one source where one is given."""
    condition, values = chosen(session, register.id, only, source=source).condition()
    found: list[ColumnElement[bool]] = [SourceRecord.register_id == register.id, PRESENT]
    if source:
        delivering = source_by_name(session, register.id, source)
        if delivering is None:
            raise NotFound("source", source)
        found.append(SourceRecord.source_id == delivering.id)
    return [*found, cast(ColumnElement[bool], text(condition).bindparams(**values))]


def values_of(session: Session, slug: str, field: str, only: Filter, source: str = "") -> list[ValueCount]:
    """Return the values of a field among the records of a filter, the most frequent first: what can be corrected alike."""
    register = register_by_slug(session, slug)
    layout_of(register).field(field)
    value = func.coalesce(SourceRecord.fields[field].astext, "").label("value")
    query = select(value, func.count()).where(*_in_sight(session, register, only, source))
    rows = session.execute(query.group_by(value).order_by(func.count().desc(), value).limit(_VALUES_SHOWN))
    return [ValueCount(row[0], row[1]) for row in rows]


def correct(
    session: Session, slug: str, field: str, was: str, value: str, only: Filter, *, actor: str, source: str = ""
) -> Batch:
    """Put ``value`` in place of ``was`` in the records of a filter that hold it; return the step, which can be undone."""
    register = lock_membership(session, register_by_slug(session, slug).id)
    layout_of(register).field(field)
    value = value.strip()
    if value == was:
        raise Refused("The new value is the old one.")
    present = func.coalesce(SourceRecord.fields[field].astext, "")
    chosen = select(SourceRecord.id).where(present == was, *_in_sight(session, register, only, source))
    records = list(session.scalars(chosen.order_by(SourceRecord.id).limit(_MOST_AT_ONCE + 1)))
    if not records:
        raise Refused(f"No record holds '{was}' any more.")
    if len(records) > _MOST_AT_ONCE:
        raise Refused(f"More than {_MOST_AT_ONCE} records hold '{was}'; a tidy step is the way to change so many.")
    return _corrected(session, register, field, was, value, records, actor)


def correct_records(
    session: Session, slug: str, field: str, was: str, value: str, records: Sequence[int], *, actor: str
) -> Batch:
    """Put ``value`` in place of ``was`` in exactly these records; raise Conflict where some no longer hold it."""
    register = lock_membership(session, register_by_slug(session, slug).id)
    present = func.coalesce(SourceRecord.fields[field].astext, "")
    copy_ids(session, "asked_records", records)
    hold = select(func.count()).where(
        SourceRecord.id.in_(select(text("id")).select_from(text("asked_records"))), present == was, PRESENT,
        SourceRecord.register_id == register.id,
    )  # fmt: skip
    left = session.scalar(hold) or 0
    if left < len(records):
        raise Conflict(f"{len(records) - left} of {len(records)} records no longer hold '{was}'.")
    return _corrected(session, register, field, was, value, records, actor)


def _corrected(
    session: Session, register: Register, field: str, was: str, value: str, records: Sequence[int], actor: str
) -> Batch:
    label = layout_of(register).field(field).label
    told = f"Corrected {label} of {counted(len(records), 'record')}"
    arguments = {"field": field, "was": was, "value": value, "records": list(records)}
    facts = Facts(Matter.VALUE, f"correct {field} {digest_of([was, list(records)])[:24]}", field, many=len(records) > 1)
    shows = [(label, was, value), ("Records", "", str(len(records)))]
    touches = [("record", record) for record in records[:_MOST_TOUCHES]]
    ask_second_yes(session, register, Intent("correct", arguments, facts, told, shows, touches=touches), actor=actor)
    batch, entry_id = store.next_batch(session), journal.reserve(session)
    delivered = delivered_in(session, records, field)
    columns = ("register_id", "record_id", "field", "was", "value", "batch", "actor", "journal_id")
    rows = ((register.id, record, field, delivered[record], value, batch, actor, entry_id) for record in records)
    copy_rows(session, "corrections", columns, rows)
    touch(session, records)
    bring_up_to_date(session, register, RecordChange())
    journal.append(
        session, register.id, "correct", actor=actor, entry_id=entry_id,
        data={"batch": batch, "field": field, "records": len(records)},
        personal={"summary": told, "was": was, "value": value}, touches=touches,
    )  # fmt: skip
    return Batch(batch, field, was, value, len(records), actor, datetime.now(UTC))


def undo(session: Session, slug: str, batch: int, *, actor: str) -> int:
    """Withdraw the corrections of a step; what an earlier step made of a field counts again. Returns how many records."""
    register = lock_membership(session, register_by_slug(session, slug).id)
    own = (Correction.register_id == register.id, Correction.batch == batch, Correction.withdrawn_at.is_(None))
    standing = session.execute(select(Correction.record_id, Correction.journal_id, Correction.field).where(*own)).all()
    if not standing:
        raise NotFound("correction", batch)
    field, told = standing[0][2], f"Took back a correction of {counted(len(standing), 'record')}"
    touches = [("record", row[0]) for row in standing[:_MOST_TOUCHES]]
    facts = Facts(Matter.VALUE, f"correction {batch}", field, many=len(standing) > 1)
    step = Intent("undo correction", {"batch": batch}, facts, told, touches=touches)
    ask_second_yes(session, register, step, actor=actor)
    session.execute(update(Correction).where(*own).values(withdrawn_at=datetime.now(UTC)))
    touch(session, [row[0] for row in standing])
    bring_up_to_date(session, register, RecordChange())
    made_by = standing[0][1]
    journal.append(
        session, register.id, "undo correction", actor=actor, data={"batch": batch, "records": len(standing)},
        personal={"summary": told}, undoes=(made_by, 1) if made_by else None, touches=touches,
    )  # fmt: skip
    return len(standing)


def batches(session: Session, slug: str, limit: int) -> list[Batch]:
    """Return the steps whose corrections stand, newest first."""
    register = register_by_slug(session, slug)
    query = (
        select(
            Correction.batch, Correction.field, func.min(Correction.was), func.min(Correction.value), func.count(),
            func.min(Correction.actor), func.min(Correction.at),
        )
        .where(Correction.register_id == register.id, Correction.withdrawn_at.is_(None))
        .group_by(Correction.batch, Correction.field)
        .order_by(Correction.batch.desc())
    )  # fmt: skip
    return [Batch(*row) for row in session.execute(query.limit(limit))]
