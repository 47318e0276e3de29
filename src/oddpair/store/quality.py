"""How many records fail quality rules, and how that went over time."""

from collections.abc import Sequence

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from .record_filter import RuleFilter, chosen
from .records import PRESENT
from .tables import RuleResult, Source, SourceRecord


def count_failing(session: Session, register_id: int, rule: RuleFilter, source_id: int = 0) -> dict[int, int]:
    """Return source id → how many of its records fail a rule."""
    condition, values = chosen(session, register_id, rule).condition()
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
