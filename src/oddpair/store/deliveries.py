"""Deliveries and the source records they bring."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Text, cast, func, or_, select, text
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .bulk import copy_rows
from .tables import Delivery, RejectedRow, Source, SourceRecord


def delivery_by_id(session: Session, delivery_id: int) -> Delivery:
    """Return the delivery; raise NotFound."""
    delivery = session.get(Delivery, delivery_id)
    if delivery is None:
        raise NotFound("delivery", delivery_id)
    return delivery


def deliveries_of(session: Session, register_id: int) -> Sequence[tuple[Delivery, Source]]:
    """Return the register's deliveries with their sources, newest first."""
    query = select(Delivery, Source).join(Source).where(Source.register_id == register_id).order_by(Delivery.id.desc())
    return [(delivery, source) for delivery, source in session.execute(query)]


def rejected_rows(session: Session, delivery_id: int) -> Sequence[RejectedRow]:
    """Return the rows set aside, in the order of the file."""
    return session.scalars(
        select(RejectedRow)
        .where(RejectedRow.delivery_id == delivery_id)
        .order_by(RejectedRow.row_number, RejectedRow.id)
    ).all()


@dataclass(frozen=True, slots=True)
class Incoming:
    """A row on its way into source records."""

    source_key: str
    delivered: dict[str, str]
    fields: dict[str, str]
    tidy: dict[str, str]
    content_hash: str


@dataclass(frozen=True, slots=True)
class LoadCounts:
    """What a load did to the source records of its source."""

    new: int
    changed: int
    unchanged: int
    gone: int


def stage_incoming(session: Session, rows: Iterable[Incoming]) -> int:
    """COPY rows into a temporary table of the transaction; return how many."""
    session.execute(text("DROP TABLE IF EXISTS pg_temp.incoming"))
    session.execute(
        text("""
            CREATE TEMPORARY TABLE incoming (
                source_key text, delivered jsonb, fields jsonb, tidy jsonb, content_hash text
            ) ON COMMIT DROP
        """)
    )
    columns = ("source_key", "delivered", "fields", "tidy", "content_hash")
    return copy_rows(
        session, "incoming", columns, ((r.source_key, r.delivered, r.fields, r.tidy, r.content_hash) for r in rows)
    )


def load_incoming(session: Session, register_id: int, source_id: int, delivery_id: int) -> LoadCounts:
    """Turn the staged rows into source records and versions; nothing is duplicated by loading the same rows twice."""
    values = {"register_id": register_id, "source_id": source_id, "delivery_id": delivery_id}
    counts = session.execute(
        text("""
            SELECT count(*) FILTER (WHERE s.id IS NULL),
                   count(*) FILTER (WHERE s.id IS NOT NULL AND i.source_key IS NOT NULL AND s.content_hash <> i.content_hash),
                   count(*) FILTER (WHERE s.content_hash = i.content_hash),
                   count(*) FILTER (WHERE i.source_key IS NULL)
            FROM incoming i
            FULL JOIN (SELECT * FROM source_records WHERE source_id = :source_id) s ON s.source_key = i.source_key
        """),
        values,
    ).one()
    session.execute(
        text("""
            INSERT INTO source_records (register_id, source_id, source_key, delivery_id, delivered, fields, tidy, content_hash)
            SELECT :register_id, :source_id, source_key, :delivery_id, delivered, fields, tidy, content_hash FROM incoming
            ORDER BY source_key
            ON CONFLICT (source_id, source_key) DO UPDATE
            SET delivery_id = excluded.delivery_id, delivered = excluded.delivered, fields = excluded.fields,
                tidy = excluded.tidy, content_hash = excluded.content_hash
            WHERE source_records.content_hash <> excluded.content_hash
        """),
        values,
    )
    session.execute(
        text("""
            INSERT INTO record_versions (record_id, delivery_id, delivered, fields, content_hash)
            SELECT id, delivery_id, delivered, fields, content_hash FROM source_records WHERE delivery_id = :delivery_id
        """),
        values,
    )
    return LoadCounts(*counts)


def records_page(
    session: Session, register_id: int, *, search: str, source: str, offset: int, limit: int
) -> tuple[int, Sequence[tuple[SourceRecord, str]]]:
    """Return (how many match, one page of records with their source names)."""
    query = select(SourceRecord, Source.name).join(Source, Source.id == SourceRecord.source_id)
    query = query.where(SourceRecord.register_id == register_id)
    if source:
        query = query.where(Source.name == source)
    if search:
        # Only values are searched: names of columns stand in every record.
        held = text(
            "EXISTS (SELECT FROM jsonb_each_text(source_records.delivered) v WHERE strpos(lower(v.value), lower(:search)) > 0)"
        )
        query = query.where(
            or_(held.bindparams(search=search), SourceRecord.source_key.icontains(search, autoescape=True))
        )
    total = session.scalar(select(func.count()).select_from(query.subquery())) or 0
    rows = session.execute(query.order_by(Source.name, SourceRecord.source_key).offset(offset).limit(limit)).all()
    return total, [(record, name) for record, name in rows]


def records_for_run(session: Session, register_id: int) -> Iterable[tuple[int, str, str, dict[str, Any], str]]:
    """Stream (id, source name, source key, fields, content hash) of all records of a register."""
    query = (
        select(SourceRecord.id, Source.name, SourceRecord.source_key, SourceRecord.fields, SourceRecord.content_hash)
        .join(Source, Source.id == SourceRecord.source_id)
        .where(SourceRecord.register_id == register_id)
        .execution_options(yield_per=5000)
    )
    for row in session.execute(query):
        yield (row[0], row[1], row[2], row[3], row[4])


def sample_of_tidy(
    session: Session, register_id: int, size: int
) -> tuple[int, Sequence[tuple[str, str, dict[str, Any]]]]:
    """Return (how many records a register has; source name, source key and tidy values of at most ``size`` of them).

    They are drawn at random, and the same as long as the records are.
    """
    own = SourceRecord.register_id == register_id
    total = session.scalar(select(func.count()).select_from(SourceRecord).where(own)) or 0
    query = (
        select(Source.name, SourceRecord.source_key, SourceRecord.tidy)
        .join(Source, Source.id == SourceRecord.source_id)
        .where(own)
        .order_by(func.md5(cast(SourceRecord.id, Text)), SourceRecord.id)
        .limit(size)
    )
    return total, [(row[0], row[1], row[2]) for row in session.execute(query)]
