"""Who has which doubt before them, so that two people never get the same one at once."""

from sqlalchemy.orm import Session

from ...store import leases as store
from ...store.registers import register_by_slug


def take(session: Session, slug: str, left_id: int, right_id: int, *, actor: str, desk: str) -> str:
    """Let a desk have a doubt, and no other one any more; return "", or who has it at another desk."""
    register = register_by_slug(session, slug)
    left_id, right_id = sorted((left_id, right_id))
    return store.take_lease(session, register.id, left_id, right_id, actor=actor, desk=desk)


def leave(session: Session, desk: str) -> None:
    """Give up what a desk has."""
    store.leave_desk(session, desk)
