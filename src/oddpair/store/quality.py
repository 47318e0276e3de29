"""How many records fail quality rules, and how that went over time."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from .record_filter import RuleFilter
from .records import PRESENT
from .tables import RuleResult, Source, SourceRecord


def count_failing(session: Session, register_id: int, rule: RuleFilter, source_id: int = 0) -> dict[int, int]:
    """Return source id → how many of its records fail a rule."""
    condition, values = rule.condition()
    query = select(SourceRecord.source_id, func.count()).where(SourceRecord.register_id == register_id, PRESENT)
    if source_id:
        query = query.where(SourceRecord.source_id == source_id)
    rows = session.execute(query.where(text(condition).bindparams(**values)).group_by(SourceRecord.source_id))
    return {row[0]: row[1] for row in rows}


def records_by_source(session: Session, register_id: int) -> Sequence[tuple[int, str, int]]:
    """Return (source id, name, how many records it has) by rank."""
    query = (
        select(Source.id, Source.name, func.count(SourceRecord.id).filter(PRESENT))
        .outerjoin(SourceRecord, SourceRecord.source_id == Source.id)
        .where(Source.register_id == register_id)
        .group_by(Source.id)
        .order_by(Source.trust_rank, Source.name)
    )
    return [(row[0], row[1], row[2]) for row in session.execute(query)]


def history(session: Session, register_id: int, limit: int) -> Sequence[tuple[RuleResult, str]]:
    """Return (result, source name) of the latest results, oldest first."""
    query = select(RuleResult, Source.name).join(Source).where(RuleResult.register_id == register_id)
    rows = session.execute(query.order_by(RuleResult.id.desc()).limit(limit)).all()
    return [(row[0], row[1]) for row in reversed(rows)]


def next_batch(session: Session) -> int:
    """Return a number for corrections that are made in one step."""
    return int(session.execute(text("SELECT nextval(pg_get_serial_sequence('corrections', 'id'))")).scalar_one())


#: Put standing corrections into the fields again; of several corrections of a field the latest counts.
_REAPPLY = """
UPDATE source_records s SET fields = (
    SELECT coalesce(jsonb_object_agg(key, value) FILTER (WHERE value <> ''), '{}') FROM (
        SELECT DISTINCT ON (key) key, value FROM (
            SELECT key, value, 0 AS made FROM jsonb_each_text(v.fields)
            UNION ALL
            SELECT field, value, id FROM corrections c WHERE c.record_id = s.id AND c.withdrawn_at IS NULL
        ) said ORDER BY key, made DESC
    ) latest)
FROM record_versions v
WHERE v.id = s.version_id AND s.id = ANY(:records)
"""
_SUPERSEDED = """
UPDATE corrections c SET withdrawn_at = now()
FROM source_records s JOIN record_versions v ON v.id = s.version_id
WHERE c.record_id = s.id AND c.withdrawn_at IS NULL AND s.id = ANY(:records) AND coalesce(v.fields->>c.field, '') <> c.was
"""


def reapply_corrections(session: Session, records: Sequence[int]) -> None:
    """Make fields what the versions of records and the standing corrections say; tidy values are left as they were.

    A correction is superseded where the source delivers another value than the one that was mended.
    """
    session.flush()
    values: dict[str, Any] = {"records": list(records)}
    session.execute(text(_SUPERSEDED), values)
    session.execute(text(_REAPPLY), values)
    session.expire_all()


def corrected_of_source(session: Session, source_id: int) -> list[int]:
    """Return the ids of a source's records with standing corrections."""
    query = text("""
        SELECT DISTINCT c.record_id FROM corrections c JOIN source_records s ON s.id = c.record_id
        WHERE s.source_id = :source_id AND c.withdrawn_at IS NULL ORDER BY 1
    """)
    return list(session.scalars(query, {"source_id": source_id}))
