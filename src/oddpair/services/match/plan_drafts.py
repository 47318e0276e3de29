"""Drafts of a register's plan: kept as they are typed, valid or not, and told apart where two people work on one."""

from collections.abc import Sequence
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound
from ...core.plan.places import PlacedProblem, placed_problems
from ...store.registers import register_by_slug
from ...store.tables import PlanDraft
from ..state.layouts import layout_of

__all__ = ["PlacedProblem", "PlanDraft", "check", "drafts", "keep", "make", "throw_away"]


def drafts(session: Session, slug: str) -> Sequence[PlanDraft]:
    """Return the drafts of a register, those changed last first."""
    register = register_by_slug(session, slug)
    query = select(PlanDraft).where(PlanDraft.register_id == register.id)
    return session.scalars(query.order_by(PlanDraft.changed_at.desc(), PlanDraft.id.desc())).all()


def make(session: Session, slug: str, *, title: str, yaml: str, based_on: int, actor: str) -> PlanDraft:
    """Keep a new draft, made from a version of the plan."""
    register = register_by_slug(session, slug)
    draft = PlanDraft(
        register_id=register.id, title=title, yaml=yaml, based_on=based_on, version=1, actor=actor, changed_by=actor,
        changed_at=datetime.now(UTC),
    )  # fmt: skip
    session.add(draft)
    session.flush()
    return draft


def keep(
    session: Session, slug: str, draft_id: int, *, title: str, yaml: str, seen_version: int, actor: str
) -> PlanDraft:
    """Keep a draft as it is typed now; raise Conflict if somebody changed it since, in another window or elsewhere."""
    draft = _draft(session, slug, draft_id)
    session.refresh(draft, with_for_update=True)
    if draft.version != seen_version:
        raise Conflict(
            f"{draft.changed_by} changed this draft meanwhile. Look at theirs, or keep yours as another draft."
        )
    draft.title, draft.yaml, draft.version = title, yaml, seen_version + 1
    draft.changed_by, draft.changed_at = actor, datetime.now(UTC)
    return draft


def throw_away(session: Session, slug: str, draft_id: int) -> None:
    """Throw a draft away."""
    session.delete(_draft(session, slug, draft_id))


def _draft(session: Session, slug: str, draft_id: int) -> PlanDraft:
    draft = session.get(PlanDraft, draft_id)
    if draft is None or draft.register_id != register_by_slug(session, slug).id:
        raise NotFound("draft", draft_id)
    return draft


def check(session: Session, slug: str, yaml: str) -> list[PlacedProblem]:
    """Return every problem of a plan given as text, with the line at which it stands."""
    return placed_problems(yaml, layout_of(register_by_slug(session, slug)))
