"""Reading and changing a register's match plan."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from ..core.errors import Conflict, PlanInvalid
from ..core.plan import MatchPlan, parse_plan
from ..store import registers as store
from ..store.tables import Plan


def plan_of(session: Session, slug: str) -> tuple[Plan, MatchPlan]:
    """Return the plan in force, as kept and as read."""
    plan = store.plan_in_force(session, store.register_by_slug(session, slug).id)
    return plan, parse_plan(plan.yaml)


def versions(session: Session, slug: str) -> Sequence[Plan]:
    """Return all versions, newest first."""
    return store.plan_versions(session, store.register_by_slug(session, slug).id)


def save_plan(session: Session, slug: str, *, yaml: str, seen_version: int, note: str, actor: str) -> Plan:
    """Keep a new version of the plan; raise PlanInvalid with every problem, or Conflict if it changed meanwhile."""
    register = store.lock_register(session, store.register_by_slug(session, slug).id)
    plan = parse_plan(yaml)
    if plan.kind.value != register.kind:
        raise PlanInvalid(
            [f"kind: the register holds records of kind {register.kind}, the plan is for {plan.kind.value}"]
        )
    present = store.plan_in_force(session, register.id)
    if present.version != seen_version:
        raise Conflict(
            f"The plan was changed by {present.actor} meanwhile (version {present.version}). Reload to see it."
        )
    saved = Plan(register_id=register.id, version=present.version + 1, yaml=yaml, actor=actor, note=note)
    session.add(saved)
    session.flush()
    return saved
