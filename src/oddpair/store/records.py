"""Source records: pages of them, all of them for a run, and samples."""

from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import Text, and_, cast, func, or_, select, text
from sqlalchemy.orm import Session

from .record_filter import RecordFilter, RuleFilter
from .tables import DeliveryRecord, Source, SourceRecord

#: Records that count: all but those whose deliveries were taken back.
PRESENT = SourceRecord.state != "withdrawn"


def records_page(
    session: Session,
    register_id: int,
    *,
    search: str,
    source: str,
    offset: int,
    limit: int,
    only: RecordFilter | RuleFilter | None = None,
    delivery_id: int = 0,
) -> tuple[int, Sequence[tuple[SourceRecord, str]]]:
    """Return (how many match, one page of records with their source names)."""
    query = select(SourceRecord, Source.name).join(Source, Source.id == SourceRecord.source_id)
    query = query.where(SourceRecord.register_id == register_id, PRESENT)
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
    if delivery_id:
        said = select(DeliveryRecord.record_id).where(
            DeliveryRecord.delivery_id == delivery_id, DeliveryRecord.version_id.is_not(None)
        )
        query = query.where(SourceRecord.id.in_(said))
    if only:
        condition, values = only.condition(source, delivery_id)
        query = query.where(text(condition).bindparams(**values))
    total = session.scalar(select(func.count()).select_from(query.subquery())) or 0
    rows = session.execute(query.order_by(Source.name, SourceRecord.source_key).offset(offset).limit(limit)).all()
    return total, [(record, name) for record, name in rows]


def records_for_run(session: Session, register_id: int) -> Iterable[tuple[int, str, str, dict[str, Any], str]]:
    """Stream (id, source name, source key, fields, content hash) of all records of a register."""
    query = (
        select(SourceRecord.id, Source.name, SourceRecord.source_key, SourceRecord.fields, SourceRecord.content_hash)
        .join(Source, Source.id == SourceRecord.source_id)
        .where(SourceRecord.register_id == register_id, PRESENT)
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
    own = and_(SourceRecord.register_id == register_id, PRESENT)
    total = session.scalar(select(func.count()).select_from(SourceRecord).where(own)) or 0
    query = (
        select(Source.name, SourceRecord.source_key, SourceRecord.tidy)
        .join(Source, Source.id == SourceRecord.source_id)
        .where(own)
        .order_by(func.md5(cast(SourceRecord.id, Text)), SourceRecord.id)
        .limit(size)
    )
    return total, [(row[0], row[1], row[2]) for row in session.execute(query)]
