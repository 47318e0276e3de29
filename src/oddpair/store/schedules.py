"""Schedules and their turns."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .tables import Register, Schedule, Source, Turn

#: A turn that waits for a person.
HELD = "held"


def schedule_of(session: Session, source_id: int) -> Schedule | None:
    """Return the schedule of a source, or None."""
    return session.scalars(select(Schedule).where(Schedule.source_id == source_id)).first()


def schedules_of(session: Session, register_id: int) -> Sequence[tuple[Schedule, str]]:
    """Return the schedules of a register, each with the name of its source, by name."""
    query = select(Schedule, Source.name).join(Source, Source.id == Schedule.source_id)
    return [
        (row[0], row[1])
        for row in session.execute(query.where(Source.register_id == register_id).order_by(Source.name))
    ]


def due(session: Session, now: datetime) -> Sequence[Schedule]:
    """Return the schedules whose turn has come, locked, without those that another process sees to."""
    query = select(Schedule).where(Schedule.on, Schedule.next_at <= now).order_by(Schedule.next_at)
    return session.scalars(query.with_for_update(skip_locked=True)).all()


def under_way(session: Session, schedule_id: int) -> Turn | None:
    """Return the turn of a schedule that waits, goes on, or is held; None if there is none."""
    query = select(Turn).where(Turn.schedule_id == schedule_id, Turn.state.in_(("waiting", "running", HELD)))
    return session.scalars(query.order_by(Turn.id).limit(1)).first()


def is_worked_at(session: Session, turn_id: int, by_hand_s: float) -> bool:
    """Whether work on a turn waits or goes on: as a job, or, where there never was one, begun within so many seconds."""
    query = text("""
        SELECT coalesce(
            (SELECT bool_or(j.status IN ('queued', 'running')) FROM jobs j
             WHERE j.kind = 'turn' AND (j.arguments->>'turn')::bigint = :turn_id),
            (SELECT coalesce(t.started_at, t.due_at) > now() - make_interval(secs => :by_hand_s) FROM turns t WHERE t.id = :turn_id)
        )
    """)
    return bool(session.scalar(query, {"turn_id": turn_id, "by_hand_s": by_hand_s}))


@dataclass(frozen=True, slots=True)
class TurnShown:
    """A turn with the short name and name of its register, and the name of its source."""

    turn: Turn
    slug: str
    register_name: str
    source: str


def turns(session: Session, *, register_id: int | None = None, state: str = "", limit: int = 100) -> list[TurnShown]:
    """Return turns, newest first: of one register or of all, in one state or in any."""
    query = (
        select(Turn, Register.slug, Register.name, Source.name)
        .join(Schedule, Schedule.id == Turn.schedule_id)
        .join(Source, Source.id == Schedule.source_id)
        .join(Register, Register.id == Source.register_id)
    )
    if register_id is not None:
        query = query.where(Register.id == register_id)
    if state:
        query = query.where(Turn.state == state)
    return [TurnShown(*row) for row in session.execute(query.order_by(Turn.id.desc()).limit(limit))]


def merge_held(session: Session, register_id: int, but_for: int) -> str:
    """Return why nothing is merged in a register without a person, "" if nothing holds it ``but_for`` one turn."""
    query = text("""
        SELECT t.why FROM turns t JOIN schedules s ON s.id = t.schedule_id JOIN sources o ON o.id = s.source_id
        WHERE o.register_id = :register_id AND t.state = 'held' AND t.held_at = 'merge' AND t.id <> :but_for ORDER BY t.id LIMIT 1
    """)
    return session.scalar(query, {"register_id": register_id, "but_for": but_for}) or ""


def usual_rows(session: Session, source_id: int, delivery_id: int) -> float:
    """Return the median of the rows of a source's full deliveries before one, 0 if there were none."""
    query = text("""
        SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY rows) FROM (
            SELECT (counts->>'rows')::float8 AS rows FROM deliveries
            WHERE source_id = :source_id AND status = 'loaded' AND delivers = 'full' AND id <> :delivery_id ORDER BY id DESC LIMIT 10
        ) latest
    """)
    return float(session.scalar(query, {"source_id": source_id, "delivery_id": delivery_id}) or 0)


def fallen_rules(session: Session, source_id: int, delivery_id: int) -> list[tuple[str, float, float]]:
    """Return (rule, share of records that failed it before, share that fails it now) of the rules noted with a delivery."""
    query = text("""
        SELECT n.rule, b.failing::float8 / greatest(b.records, 1), n.failing::float8 / greatest(n.records, 1)
        FROM rule_results n JOIN LATERAL (
            SELECT records, failing FROM rule_results o
            WHERE o.source_id = n.source_id AND o.rule = n.rule AND o.id < n.id AND o.delivery_id IS DISTINCT FROM n.delivery_id
            ORDER BY o.id DESC LIMIT 1
        ) b ON true
        WHERE n.source_id = :source_id AND n.delivery_id = :delivery_id ORDER BY n.rule
    """)
    return [
        (row[0], row[1], row[2]) for row in session.execute(query, {"source_id": source_id, "delivery_id": delivery_id})
    ]
