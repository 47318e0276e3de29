"""Golden records, their members, pins and the journal."""

from collections.abc import Collection, Sequence
from typing import Any

from sqlalchemy import and_, func, select, text
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .tables import (
    GoldenMember,
    GoldenRecord,
    JournalEntry,
    JournalGolden,
    Pin,
    Register,
    Source,
    SourceRecord,
)

#: Golden records that stand for something now.
IN_FORCE = and_(GoldenRecord.leads_to.is_(None), GoldenRecord.withdrawn_at.is_(None))


def golden_by_key(session: Session, register_id: int, key: str) -> GoldenRecord:
    """Return the golden record of that key, retired ones too; raise NotFound."""
    golden = session.scalar(
        select(GoldenRecord).where(GoldenRecord.register_id == register_id, GoldenRecord.key == key)
    )
    if golden is None:
        raise NotFound("golden record", key)
    return golden


def follow(session: Session, golden: GoldenRecord) -> GoldenRecord:
    """Return the record that a retired key leads to in the end."""
    while golden.leads_to is not None:
        golden = session.get_one(GoldenRecord, golden.leads_to)
    return golden


def members_of(session: Session, golden_ids: Collection[int]) -> dict[int, list[int]]:
    """Return member record ids, ascending, by golden id."""
    members: dict[int, list[int]] = {golden_id: [] for golden_id in golden_ids}
    query = select(GoldenMember).where(GoldenMember.golden_id.in_(golden_ids)).order_by(GoldenMember.record_id)
    for member in session.scalars(query):
        members[member.golden_id].append(member.record_id)
    return members


def membership(session: Session, register_id: int) -> dict[int, int]:
    """Return record id → golden id of a register."""
    query = select(GoldenMember.record_id, GoldenMember.golden_id).join(
        SourceRecord, SourceRecord.id == GoldenMember.record_id
    )
    return {row[0]: row[1] for row in session.execute(query.where(SourceRecord.register_id == register_id))}


def records_with_sources(session: Session, record_ids: Collection[int]) -> dict[int, tuple[SourceRecord, Source]]:
    """Return records with their sources, by id."""
    found: dict[int, tuple[SourceRecord, Source]] = {}
    ids = sorted(record_ids)
    for start in range(0, len(ids), 5000):
        query = select(SourceRecord, Source).join(Source, Source.id == SourceRecord.source_id)
        for record, source in session.execute(query.where(SourceRecord.id.in_(ids[start : start + 5000]))):
            found[record.id] = (record, source)
    return found


def pins_of(session: Session, golden_ids: Collection[int]) -> dict[int, list[Pin]]:
    """Return the pins in force by golden id, in the order in which they were set."""
    pins: dict[int, list[Pin]] = {}
    for pin in session.scalars(
        select(Pin).where(Pin.golden_id.in_(golden_ids), Pin.lifted_at.is_(None)).order_by(Pin.id)
    ):
        pins.setdefault(pin.golden_id, []).append(pin)
    return pins


def take_numbers(session: Session, register: Register, count: int) -> list[int]:
    """Take the next golden numbers of a register; numbers are never given twice."""
    first = session.execute(
        text("UPDATE registers SET next_number = next_number + :count WHERE id = :id RETURNING next_number"),
        {"count": count, "id": register.id},
    ).scalar_one()
    return list(range(first - count, first))


def history_of(session: Session, golden_id: int) -> Sequence[JournalEntry]:
    """Return the journal of a golden record, newest first."""
    query = select(JournalEntry).join(JournalGolden, JournalGolden.journal_id == JournalEntry.id)
    return session.scalars(query.where(JournalGolden.golden_id == golden_id).order_by(JournalEntry.id.desc())).all()


def golden_page(
    session: Session, register_id: int, *, search: str, order: str, offset: int, limit: int
) -> tuple[int, Sequence[tuple[GoldenRecord, int]]]:
    """Return (how many match, one page of golden records with their member counts)."""
    size = (
        select(func.count()).where(GoldenMember.golden_id == GoldenRecord.id).correlate(GoldenRecord).scalar_subquery()
    )
    query = select(GoldenRecord, size).where(GoldenRecord.register_id == register_id, IN_FORCE)
    if search:
        query = query.where(
            text(
                "strpos(lower(golden_records.key || ' ' || golden_records.values::text), lower(:search)) > 0"
            ).bindparams(search=search)
        )
    total = session.scalar(select(func.count()).select_from(query.subquery())) or 0
    orders: dict[str, tuple[Any, ...]] = {
        "members": (size.desc(), GoldenRecord.number),
        "key": (GoldenRecord.number,),
        "changed": (GoldenRecord.updated_at.desc(), GoldenRecord.number),
        "name": (func.lower(GoldenRecord.values["name"].astext), GoldenRecord.number),
    }
    rows = session.execute(query.order_by(*orders[order]).offset(offset).limit(limit)).all()
    return total, [(golden, count) for golden, count in rows]


def all_active(session: Session, register_id: int) -> Sequence[GoldenRecord]:
    """Return all golden records that are in force, by number."""
    query = select(GoldenRecord).where(GoldenRecord.register_id == register_id, IN_FORCE)
    return session.scalars(query.order_by(GoldenRecord.number)).all()


def crosswalk_rows(session: Session, register_id: int) -> Sequence[tuple[str, str, str]]:
    """Return (source, source id, golden key) of every record that has a golden record."""
    query = (
        select(Source.name, SourceRecord.source_key, GoldenRecord.key)
        .join(SourceRecord, SourceRecord.source_id == Source.id)
        .join(GoldenMember, GoldenMember.record_id == SourceRecord.id)
        .join(GoldenRecord, GoldenRecord.id == GoldenMember.golden_id)
        .where(SourceRecord.register_id == register_id)
        .order_by(Source.name, SourceRecord.source_key)
    )
    return [(source, record, key) for source, record, key in session.execute(query)]
