"""Decided pairs shown again unmarked: agreement with oneself and with others, as a figure with its margin."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...core.evaluation import Agreement, agreement
from ...store import journal
from ...store import second_looks as store
from ...store.registers import register_by_slug
from ...store.tables import Decision, SecondLook


@dataclass(frozen=True, slots=True)
class Judgement:
    """How one person's judgement agrees with itself and with that of others, where pairs were looked at twice."""

    with_self: Agreement
    with_others: Agreement


def draw(session: Session, slug: str, *, actor: str) -> Decision | None:
    """Return a decided pair for another look, somebody else's or an older one of one's own, or None where there is none."""
    return store.draw(session, register_by_slug(session, slug).id, actor)


def look_again(session: Session, slug: str, left_id: int, right_id: int, *, verdict: str, actor: str) -> SecondLook:
    """Keep what a person says of a decided pair that was shown again; the decision stays as it is."""
    if verdict not in ("same", "different"):
        raise Refused("A second look says same or different.")
    register = register_by_slug(session, slug)
    decision = store.standing(session, register.id, min(left_id, right_id), max(left_id, right_id))
    if decision is None:
        raise NotFound("decided pair", f"{left_id} / {right_id}")
    look = store.write(session, register.id, decision.id, verdict, actor)
    journal.append(
        session, register.id, "look again", actor=actor, data={"decision": decision.id, "look": look.id, "verdict": verdict},
        personal={"summary": f"Looked again at a decided pair: {verdict}"},
    )  # fmt: skip
    return look


def judgement_of(session: Session, slug: str, *, actor: str) -> Judgement:
    """Return how a person's judgement agrees with itself and with that of others."""
    rows = store.judged(session, register_by_slug(session, slug).id, actor)
    own = [(first, again) for first, again, by_self in rows if by_self]
    others = [(first, again) for first, again, by_self in rows if not by_self]
    return Judgement(agreement(own), agreement(others))


def disagreements(session: Session, slug: str, limit: int = 50) -> list[tuple[Decision, SecondLook]]:
    """Return the standing decisions that a second look disagrees with, newest look first."""
    return store.disagreeing(session, register_by_slug(session, slug).id, limit)
