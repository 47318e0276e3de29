"""Plans of findings: made, changed, forgotten, and run in the background."""

from collections.abc import Sequence
from datetime import UTC, datetime

import yaml
from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...core.findings import FindingsPlan, parse_findings_plan, usual_plan
from ...store import findings as store
from ...store.locks import lock_settings
from ...store.registers import register_by_slug
from ...store.tables import FindingPlanRow, Job, Register
from .. import work
from ..state.layouts import layout_of

__all__ = [
    "FindingPlanRow",
    "ask_to_run",
    "change",
    "forget",
    "make",
    "other_register",
    "parsed",
    "plan_named",
    "plans",
]


def plans(session: Session, slug: str) -> Sequence[FindingPlanRow]:
    """Return the plans of findings of a register, by name."""
    return store.plans_of(session, register_by_slug(session, slug).id)


def plan_named(session: Session, slug: str, name: str) -> FindingPlanRow:
    """Return a plan of findings; raise NotFound."""
    found = store.plan_by_name(session, register_by_slug(session, slug).id, name)
    if found is None:
        raise NotFound("plan of findings", name)
    return found


def other_register(session: Session, row: FindingPlanRow) -> Register:
    """Return the register that a plan holds its own against."""
    return session.get_one(Register, row.other_id)


def parsed(session: Session, row: FindingPlanRow) -> FindingsPlan:
    """Return a plan as it is understood; raise PlanInvalid where the layouts no longer have what it asks for."""
    one, other = session.get_one(Register, row.register_id), other_register(session, row)
    return parse_findings_plan(row.yaml, layout_of(one), layout_of(other))


def make(session: Session, slug: str, *, name: str, other: str, text: str = "", actor: str) -> FindingPlanRow:
    """Make a plan that holds a register against an ``other`` one: the one written in ``text``, else the usual one for their layouts."""
    own = lock_settings(session, register_by_slug(session, slug).id)
    against = register_by_slug(session, other)
    title = name.strip()
    if not title:
        raise Refused("A plan of findings needs a name.")
    if own.id == against.id:
        raise Refused("A register is held against another one; what is double in it, the match finds.")
    if store.plan_by_name(session, own.id, title):
        raise Conflict(f"There is a plan of findings '{title}' already.")
    one, two = layout_of(own), layout_of(against)
    if not text.strip():
        usual = usual_plan(title, one, two)
        text = yaml.safe_dump(usual.model_dump(), sort_keys=False, allow_unicode=True)
    parse_findings_plan(text, one, two)
    made = FindingPlanRow(
        register_id=own.id, other_id=against.id, name=title, yaml=text, actor=actor, created_at=datetime.now(UTC)
    )
    session.add(made)
    session.flush()
    return made


def change(session: Session, slug: str, name: str, text: str) -> FindingPlanRow:
    """Change what a plan looks for; raise PlanInvalid with every problem."""
    row = plan_named(session, slug, name)
    one, other = session.get_one(Register, row.register_id), other_register(session, row)
    parse_findings_plan(text, layout_of(one), layout_of(other))
    row.yaml = text
    return row


def forget(session: Session, slug: str, name: str) -> None:
    """Remove a plan with its findings and all that was said of them."""
    store.forget_plan(session, plan_named(session, slug, name).id)


def ask_to_run(session: Session, slug: str, name: str, *, actor: str) -> Job:
    """Ask for a plan to be run, in the background."""
    row = plan_named(session, slug, name)
    arguments = {"register": slug, "plan": row.id, "actor": actor}
    return work.ask_for(session, slug, "findings", f"Findings: {row.name}", arguments)
