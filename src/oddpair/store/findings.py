"""Findings in the database: whole results written at once, pages of them, what people said."""

from collections.abc import Iterable, Sequence
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import delete, select, text, update
from sqlalchemy.orm import Session

from .bulk import copy_rows
from .keyset import Page, read_cursor, turned
from .tables import Finding, FindingPlanRow, FindingVerdict

COLUMNS = ("plan_id", "place", "one_record", "other_record", "score", "things", "state", "said_by", "remark", "again")


def plans_of(session: Session, register_id: int) -> Sequence[FindingPlanRow]:
    """Return the plans of findings of a register, by name."""
    query = select(FindingPlanRow).where(FindingPlanRow.register_id == register_id)
    return session.scalars(query.order_by(FindingPlanRow.name)).all()


def plan_by_name(session: Session, register_id: int, name: str) -> FindingPlanRow | None:
    """Return a plan of findings, or None."""
    query = select(FindingPlanRow).where(FindingPlanRow.register_id == register_id, FindingPlanRow.name == name)
    return session.scalars(query).first()


def forget_plan(session: Session, plan_id: int) -> None:
    """Drop a plan with all that belongs to it."""
    session.execute(delete(Finding).where(Finding.plan_id == plan_id))
    session.execute(delete(FindingVerdict).where(FindingVerdict.plan_id == plan_id))
    session.execute(delete(FindingPlanRow).where(FindingPlanRow.id == plan_id))


def write_findings(session: Session, plan_id: int, rows: Iterable[Sequence[Any]]) -> None:
    """Write all findings of a plan (COLUMNS) in place of those before."""
    session.execute(delete(Finding).where(Finding.plan_id == plan_id))
    copy_rows(session, "findings", COLUMNS, rows)
    session.execute(text("ANALYZE findings"))


def count_states(session: Session, plan_id: int) -> dict[str, int]:
    """Return how many findings of a plan stand in each state."""
    query = text("SELECT state, count(*) FROM findings WHERE plan_id = :plan_id GROUP BY 1")
    return {state: int(count) for state, count in session.execute(query, {"plan_id": plan_id})}


def page(session: Session, plan_id: int, *, state: str = "", cursor: str = "", limit: int) -> Page[Finding]:
    """Return a page of findings in their order, those of one state where one is named."""
    back, place = read_cursor(cursor)
    query = select(Finding).where(Finding.plan_id == plan_id)
    if state:
        query = query.where(Finding.state == state)
    if place:
        at = int(place[0])
        query = query.where(Finding.place < at if back else Finding.place > at)
    order = Finding.place.desc() if back else Finding.place
    found = session.scalars(query.order_by(order).limit(limit + 1)).all()
    return turned([(one, (f"{one.place}", "")) for one in found], limit=limit, back=back, cursor=cursor)


def verdicts_of(session: Session, plan_id: int) -> Sequence[FindingVerdict]:
    """Return what people said of a plan's findings and did not take back, in the order in which they did."""
    query = select(FindingVerdict).where(FindingVerdict.plan_id == plan_id, FindingVerdict.withdrawn_at.is_(None))
    return session.scalars(query.order_by(FindingVerdict.id)).all()


def withdraw(session: Session, ids: Sequence[int]) -> None:
    """Note that what was said no longer holds."""
    session.execute(update(FindingVerdict).where(FindingVerdict.id.in_(ids)).values(withdrawn_at=datetime.now(UTC)))
