"""Registers, sources and plans."""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .doubts import OPEN_DOUBTS
from .tables import (
    Delivery,
    Plan,
    Register,
    Run,
    Source,
    SourceRecord,
)


def all_registers(session: Session) -> Sequence[Register]:
    """Return all registers in the order in which they were made."""
    return session.scalars(select(Register).order_by(Register.id)).all()


def register_by_slug(session: Session, slug: str) -> Register:
    """Return the register; raise NotFound."""
    register = session.scalar(select(Register).where(Register.slug == slug))
    if register is None:
        raise NotFound("register", slug)
    return register


def lock_register(session: Session, register_id: int) -> Register:
    """Return the register locked until the transaction ends: one writer of golden records at a time."""
    return session.execute(select(Register).where(Register.id == register_id).with_for_update()).scalar_one()


def sources_of(session: Session, register_id: int) -> Sequence[Source]:
    """Return the register's sources, most trusted first."""
    return session.scalars(
        select(Source).where(Source.register_id == register_id).order_by(Source.trust_rank, Source.name)
    ).all()


def source_by_name(session: Session, register_id: int, name: str) -> Source | None:
    """Return the source of that name, or None."""
    return session.scalar(select(Source).where(Source.register_id == register_id, Source.name == name))


def plan_in_force(session: Session, register_id: int) -> Plan:
    """Return the newest version of the register's plan."""
    return session.scalars(
        select(Plan).where(Plan.register_id == register_id).order_by(Plan.version.desc()).limit(1)
    ).one()


def plan_versions(session: Session, register_id: int) -> Sequence[Plan]:
    """Return all versions of the register's plan, newest first."""
    return session.scalars(select(Plan).where(Plan.register_id == register_id).order_by(Plan.version.desc())).all()


def latest_run(session: Session, register_id: int) -> Run | None:
    """Return the register's latest run, or None."""
    return session.scalars(select(Run).where(Run.register_id == register_id).order_by(Run.id.desc()).limit(1)).first()


@dataclass(frozen=True, slots=True)
class StageCounts:
    """What waits at each stage of a register."""

    deliveries: int
    drafts: int
    records: int
    unsure_waiting: int
    put_off: int
    golden: int
    records_without_golden: int


def stage_counts(session: Session, register_id: int) -> StageCounts:
    """Return the counts that the navigation shows."""
    deliveries = (
        select(Delivery.status, func.count())
        .join(Source)
        .where(Source.register_id == register_id)
        .group_by(Delivery.status)
    )
    by_status = {row[0]: row[1] for row in session.execute(deliveries)}
    records = (
        session.scalar(
            select(func.count())
            .select_from(SourceRecord)
            .where(SourceRecord.register_id == register_id, SourceRecord.state != "withdrawn")
        )
        or 0
    )
    run = latest_run(session, register_id)
    waiting = put_off = 0
    if run is not None:
        row = session.execute(
            text(
                f"{OPEN_DOUBTS} SELECT count(*) FILTER (WHERE NOT put_off), count(*) FILTER (WHERE put_off) FROM open_doubts"
            ),
            {"register_id": register_id, "run_id": run.id},
        ).one()
        waiting, put_off = row
    golden, without = session.execute(
        text("""
            SELECT (SELECT count(*) FROM golden_records WHERE register_id = :register_id AND leads_to IS NULL AND withdrawn_at IS NULL),
                   (SELECT count(*) FROM source_records s LEFT JOIN golden_members m ON m.record_id = s.id
                    WHERE s.register_id = :register_id AND s.state <> 'withdrawn' AND m.record_id IS NULL)
        """),
        {"register_id": register_id},
    ).one()
    return StageCounts(
        by_status.get("loaded", 0), by_status.get("draft", 0), records, waiting, put_off, golden, without
    )
