"""Fields mended by people: all records that hold a value alike, in one step that can be undone. What was delivered stays."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import cast

from sqlalchemy import ColumnElement, func, select, text, update
from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...store import quality as store
from ...store.record_filter import RecordFilter, RuleFilter
from ...store.records import PRESENT
from ...store.registers import lock_register, register_by_slug, source_by_name
from ...store.tables import Correction, GoldenMember, Register, SourceRecord
from ..bring_in.take_back import tidy_again
from ..state.golden_values import refresh
from ..state.layouts import layout_of

_MOST_AT_ONCE = 50_000
_VALUES_SHOWN = 200

Filter = RecordFilter | RuleFilter


@dataclass(frozen=True, slots=True)
class HeldValue:
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
    condition, values = only.condition(source)
    found: list[ColumnElement[bool]] = [SourceRecord.register_id == register.id, PRESENT]
    if source:
        delivering = source_by_name(session, register.id, source)
        if delivering is None:
            raise NotFound("source", source)
        found.append(SourceRecord.source_id == delivering.id)
    return [*found, cast(ColumnElement[bool], text(condition).bindparams(**values))]


def held_values(session: Session, slug: str, field: str, only: Filter, source: str = "") -> list[HeldValue]:
    """Return the values of a field among the records of a filter, the most frequent first: what can be mended alike."""
    register = register_by_slug(session, slug)
    layout_of(register).field(field)
    held = func.coalesce(SourceRecord.fields[field].astext, "").label("held")
    query = select(held, func.count()).where(*_in_sight(session, register, only, source))
    rows = session.execute(query.group_by(held).order_by(func.count().desc(), held).limit(_VALUES_SHOWN))
    return [HeldValue(row[0], row[1]) for row in rows]


def correct(
    session: Session, slug: str, field: str, was: str, value: str, only: Filter, *, actor: str, source: str = ""
) -> Batch:
    """Put ``value`` in place of ``was`` in the records of a filter that hold it; return the step, which can be undone."""
    register = lock_register(session, register_by_slug(session, slug).id)
    layout_of(register).field(field)
    value = value.strip()
    if value == was:
        raise Refused("The new value is the old one.")
    held = func.coalesce(SourceRecord.fields[field].astext, "")
    chosen = select(SourceRecord.id).where(held == was, *_in_sight(session, register, only, source))
    records = list(session.scalars(chosen.order_by(SourceRecord.id).limit(_MOST_AT_ONCE + 1)))
    if not records:
        raise Refused(f"No record holds '{was}' any more.")
    if len(records) > _MOST_AT_ONCE:
        raise Refused(f"More than {_MOST_AT_ONCE} records hold '{was}'; a tidy step is the way to change so many.")
    batch = store.next_batch(session)
    delivered = _delivered(session, records, field)
    session.add_all(
        Correction(
            register_id=register.id,
            record_id=record,
            field=field,
            was=delivered[record],
            value=value,
            batch=batch,
            actor=actor,
        )
        for record in records
    )
    _settle(session, register, records)
    return Batch(batch, field, was, value, len(records), actor, datetime.now(UTC))


def _delivered(session: Session, records: Sequence[int], field: str) -> dict[int, str]:
    """Return what the sources delivered in a field."""
    query = text("""
        SELECT s.id, coalesce(v.fields->>:field, '') FROM source_records s JOIN record_versions v ON v.id = s.version_id
        WHERE s.id = ANY(:records)
    """)
    return {row[0]: row[1] for row in session.execute(query, {"field": field, "records": list(records)})}


def _settle(session: Session, register: Register, records: Sequence[int]) -> None:
    store.reapply_corrections(session, records)
    tidy_again(session, register, records)
    touched = select(GoldenMember.golden_id).where(GoldenMember.record_id.in_(records))
    refresh(session, register, set(session.scalars(touched)))


def undo(session: Session, slug: str, batch: int) -> int:
    """Withdraw the corrections of a step; what an earlier step said of a field counts again. Returns how many records."""
    register = lock_register(session, register_by_slug(session, slug).id)
    standing = select(Correction.record_id).where(
        Correction.register_id == register.id, Correction.batch == batch, Correction.withdrawn_at.is_(None)
    )
    records = list(session.scalars(standing))
    if not records:
        raise NotFound("correction", batch)
    session.execute(
        update(Correction)
        .where(Correction.batch == batch, Correction.withdrawn_at.is_(None))
        .values(withdrawn_at=datetime.now(UTC))
    )
    _settle(session, register, records)
    return len(records)


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
