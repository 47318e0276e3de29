"""Golden records: looked up, made, listed."""

from collections.abc import Collection, Sequence

from sqlalchemy import and_, select, text
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .tables import GoldenRecord, Pin, Register, Source, SourceRecord

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


def keys_of(session: Session, golden_ids: Collection[int]) -> dict[int, str]:
    """Return golden id → key."""
    query = text("SELECT id, key FROM golden_records WHERE id = ANY(:ids)")
    return {row[0]: row[1] for row in session.execute(query, {"ids": list(golden_ids)})}


def fresh_keys(session: Session, golden_ids: Collection[int]) -> dict[int, str]:
    """Return golden id → key of golden records whose keys were taken in this transaction."""
    query = text("SELECT id, key FROM fresh_golden WHERE id = ANY(:ids)")
    return {row[0]: row[1] for row in session.execute(query, {"ids": list(golden_ids)})}


def records_with_sources(session: Session, record_ids: Collection[int]) -> dict[int, tuple[SourceRecord, Source]]:
    """Return records with their sources, by id; for as many as a person looks at."""
    query = select(SourceRecord, Source).join(Source, Source.id == SourceRecord.source_id)
    chosen = text("source_records.id = ANY(:ids)").bindparams(ids=sorted(set(record_ids)))
    return {record.id: (record, source) for record, source in session.execute(query.where(chosen))}


def take_keys(session: Session, register: Register, count: int) -> list[int]:
    """Take the next keys for golden records, whose numbers are never given twice; return their ids in that order.

    They are written with their values by ``golden_values.write_values``, once their members are known.
    """
    if not count:
        return []
    session.flush()
    last = session.execute(
        text("UPDATE registers SET next_number = next_number + :count WHERE id = :id RETURNING next_number"),
        {"count": count, "id": register.id},
    ).scalar_one()
    session.execute(
        text("CREATE TEMPORARY TABLE IF NOT EXISTS fresh_golden (id bigint PRIMARY KEY, number bigint, key text) ON COMMIT DROP")
    )  # fmt: skip
    taken = text("""
        INSERT INTO fresh_golden (id, number, key)
        SELECT nextval(pg_get_serial_sequence('golden_records', 'id')), n,
               :prefix || '-' || lpad(n::text, greatest(5, length(n::text)), '0')
        FROM generate_series(CAST(:first AS bigint), CAST(:last AS bigint)) n RETURNING id
    """)
    ids = list(session.scalars(taken, {"prefix": register.prefix, "first": last - count, "last": last - 1}))
    session.execute(text("ANALYZE fresh_golden"))
    session.expire(register)
    return ids


def active_ids(session: Session, register_id: int) -> list[int]:
    """Return the ids of all golden records in force, ascending."""
    query = text("""
        SELECT id FROM golden_records WHERE register_id = :id AND leads_to IS NULL AND withdrawn_at IS NULL ORDER BY id
    """)
    return list(session.scalars(query, {"id": register_id}))


def former_keys(session: Session, golden_id: int) -> Sequence[str]:
    """Return the keys of retired golden records that lead straight to one."""
    query = select(GoldenRecord.key).where(GoldenRecord.leads_to == golden_id).order_by(GoldenRecord.number)
    return session.scalars(query).all()


def pin_by_id(session: Session, pin_id: int) -> Pin:
    """Return the pin; raise NotFound."""
    pin = session.get(Pin, pin_id)
    if pin is None:
        raise NotFound("pin", pin_id)
    return pin
