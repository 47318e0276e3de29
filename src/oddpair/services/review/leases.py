"""Who has which doubt before them, so that two people never get the same one at once."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from ...store import leases as store
from ...store.registers import register_by_slug


def take(
    session: Session, slug: str, doubts: Sequence[tuple[int, int]], *, actor: str, desk: str
) -> list[tuple[int, int, str]]:
    """Let a desk have doubts, and no other ones any more; return those that another desk has, with who is at it, and
    ("") those that were decided meanwhile."""
    register = register_by_slug(session, slug)
    return store.take_leases(session, register.id, [(min(pair), max(pair)) for pair in doubts], actor=actor, desk=desk)


def leave(session: Session, desk: str) -> None:
    """Give up what a desk has."""
    store.leave_desk(session, desk)
