"""Registers, sources and plans."""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .counters import counters_of
from .database import DriverConnection
from .tables import (
    Delivery,
    Plan,
    Register,
    Run,
    Source,
)


def all_registers(session: Session) -> Sequence[Register]:
    """Return all registers in the order in which they were made."""
    return session.scalars(select(Register).order_by(Register.id)).all()


def all_slugs(session: Session) -> Sequence[str]:
    """Return the short names of all registers in the order in which they were made."""
    return session.scalars(select(Register.slug).order_by(Register.id)).all()


_ANY_PERSONAL = "SELECT EXISTS (SELECT FROM registers WHERE personal <> '{}' AND (%s = '' OR slug = %s))"


def any_personal(connection: DriverConnection, slug: str) -> bool:
    """Whether a register, or any where none is named, has personal fields; asked before requests, so in the driver's words."""
    found = connection.execute(_ANY_PERSONAL, (slug, slug), prepare=True).fetchone()
    return bool(found and found[0])


def register_by_slug(session: Session, slug: str) -> Register:
    """Return the register; raise NotFound."""
    register = session.scalar(select(Register).where(Register.slug == slug))
    if register is None:
        raise NotFound("register", slug)
    return register


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


def plan_of_version(session: Session, register_id: int, version: int) -> Plan | None:
    """Return a version of a register's plan."""
    return session.scalars(select(Plan).where(Plan.register_id == register_id, Plan.version == version)).first()


def plan_versions(session: Session, register_id: int) -> Sequence[Plan]:
    """Return all versions of the register's plan, newest first."""
    return session.scalars(select(Plan).where(Plan.register_id == register_id).order_by(Plan.version.desc())).all()


def standing_run(session: Session, register_id: int) -> Run | None:
    """Return the run that doubts and golden records follow, or None."""
    return session.scalars(select(Run).where(Run.register_id == register_id, Run.state == "standing")).first()


def latest_finished_run(session: Session, register_id: int) -> Run | None:
    """Return the newest run whose results were stored, whether or not it still stands; trials are none."""
    query = select(Run).where(Run.register_id == register_id, Run.state.in_(("standing", "past")))
    return session.scalars(query.order_by(Run.id.desc()).limit(1)).first()


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
    counters = counters_of(session, register_id)
    return StageCounts(
        by_status.get("loaded", 0), by_status.get("draft", 0), counters.records, counters.waiting, counters.put_off,
        counters.golden, counters.without_golden,
    )  # fmt: skip
