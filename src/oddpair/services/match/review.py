"""The review desk: what waits, two records face to face, and decisions."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...store import matching
from ...store.golden import records_with_sources
from ...store.registers import latest_run, register_by_slug
from ...store.tables import (
    Decision,
    Register,
    Run,
    RunPair,
    Source,
    SourceRecord,
)
from ..state.layouts import layout_of
from .plans import plan_of

VERDICTS = ("same", "different", "later")


@dataclass(frozen=True, slots=True)
class FacedRecord:
    """One side of the desk."""

    id: int
    source: str
    source_key: str
    fields: dict[str, str]
    tidy: dict[str, str]


@dataclass(frozen=True, slots=True)
class FacedPair:
    """Two records face to face with the evidence between them; runs of earlier releases kept no probability."""

    left: FacedRecord
    right: FacedRecord
    score: float
    probability: float | None
    verdict: str
    reason: str
    evidence: list[dict[str, Any]]
    same_from: float
    unsure_from: float
    labels: list[tuple[str, str]]
    decision: Decision | None


#: The score at which a pair is as likely the same as not: the most doubtful there is.
_EVEN_ODDS = 0.0


def queue(
    session: Session, slug: str, *, order: str, search: str, offset: int, limit: int
) -> tuple[int, list[matching.QueuedPair]]:
    """Return (how many pairs wait, a page of them); none before the first run."""
    register = register_by_slug(session, slug)
    run = latest_run(session, register.id)
    if run is None:
        return 0, []
    return matching.review_queue(
        session, run, middle=_EVEN_ODDS, order=order, search=search, offset=offset, limit=limit
    )


def _current_decision(session: Session, left_id: int, right_id: int) -> Decision | None:
    query = select(Decision).where(
        Decision.left_id == left_id, Decision.right_id == right_id, Decision.withdrawn_at.is_(None)
    )
    return session.scalars(query.order_by(Decision.id.desc()).limit(1)).first()


def pair(session: Session, slug: str, left_id: int, right_id: int) -> FacedPair:
    """Return a pair of the latest run; raise NotFound."""
    register = register_by_slug(session, slug)
    run = latest_run(session, register.id)
    row = session.get(RunPair, (run.id, min(left_id, right_id), max(left_id, right_id))) if run else None
    if row is None:
        raise NotFound("pair", f"{left_id} / {right_id}")
    records = records_with_sources(session, [row.left_id, row.right_id])
    _, plan = plan_of(session, slug)
    layout = layout_of(register)
    return FacedPair(
        left=_faced(*records[row.left_id]), right=_faced(*records[row.right_id]), score=row.score,
        probability=row.levels.get("probability"), verdict=row.verdict,
        reason=row.reason, evidence=row.levels["evidence"], same_from=plan.limits.same, unsure_from=plan.limits.unsure,
        labels=[(field.name, field.label) for field in layout.fields],
        decision=_current_decision(session, row.left_id, row.right_id),
    )  # fmt: skip


def _faced(record: SourceRecord, source: Source) -> FacedRecord:
    return FacedRecord(record.id, source.name, record.source_key, dict(record.fields), dict(record.tidy))


def decide(
    session: Session,
    slug: str,
    left_id: int,
    right_id: int,
    *,
    verdict: str,
    remark: str,
    actor: str,
    seen_decision: int | None,
) -> Decision:
    """Keep a decision about a pair of records; raise Conflict if somebody else decided it meanwhile."""
    if left_id == right_id:
        raise Refused("A record cannot be compared with itself.")
    register = register_by_slug(session, slug)
    left, right = (_record(session, register, record_id) for record_id in sorted((left_id, right_id)))
    session.execute(select(SourceRecord.id).where(SourceRecord.id == left.id).with_for_update())
    present = _current_decision(session, left.id, right.id)
    if (present.id if present else None) != seen_decision:
        said = f"decided as '{present.verdict}' by {present.actor}" if present else "withdrawn"
        raise Conflict(f"This pair was {said} meanwhile. Reload to see it.")
    decision = Decision(
        register_id=register.id, left_id=left.id, right_id=right.id, verdict=verdict, remark=remark, actor=actor,
        left_hash=left.content_hash, right_hash=right.content_hash, at=datetime.now(UTC),
    )  # fmt: skip
    session.add(decision)
    session.flush()
    return decision


def _record(session: Session, register: Register, record_id: int) -> SourceRecord:
    record = session.get(SourceRecord, record_id)
    if record is None or record.register_id != register.id:
        raise NotFound("record", record_id)
    return record


def withdraw(session: Session, decision_id: int) -> Decision:
    """Take a decision back; it stays in the account as withdrawn."""
    decision = session.get(Decision, decision_id, with_for_update=True)
    if decision is None:
        raise NotFound("decision", decision_id)
    if decision.withdrawn_at is not None:
        raise Refused("This decision was withdrawn before.")
    decision.withdrawn_at = datetime.now(UTC)
    session.flush()
    return decision


def decisions(session: Session, slug: str, limit: int) -> list[Decision]:
    """Return the latest decisions of a register, newest first."""
    register = register_by_slug(session, slug)
    query = select(Decision).where(Decision.register_id == register.id).order_by(Decision.id.desc()).limit(limit)
    return list(session.scalars(query))


def latest_run_of(session: Session, slug: str) -> Run | None:
    """Return the register's latest run, or None."""
    return latest_run(session, register_by_slug(session, slug).id)
