"""Leases: what somebody has before them at a desk, so that nobody else gets it."""

from datetime import timedelta

from sqlalchemy import text
from sqlalchemy.orm import Session

from ..core.errors import Conflict

#: How long a doubt stays with a desk that says nothing more.
LASTS = timedelta(minutes=3)


def take_lease(session: Session, register_id: int, left_id: int, right_id: int, *, actor: str, desk: str) -> str:
    """Let a desk have a doubt, and no other one any more; return "", or who has it at another desk."""
    values = {
        "register_id": register_id,
        "left": left_id,
        "right": right_id,
        "actor": actor,
        "desk": desk,
        "lasts": LASTS,
    }
    session.execute(text("DELETE FROM leases WHERE desk = :desk AND (left_id, right_id) <> (:left, :right)"), values)
    session.execute(
        text("""
            INSERT INTO leases (left_id, right_id, register_id, actor, desk, until)
            VALUES (:left, :right, :register_id, :actor, :desk, now() + :lasts)
            ON CONFLICT (left_id, right_id) DO UPDATE SET actor = excluded.actor, desk = excluded.desk, until = excluded.until
            WHERE leases.desk = excluded.desk OR leases.until <= now()
        """),
        values,
    )
    return _holder(session, left_id, right_id, desk)


def end_lease(session: Session, left_id: int, right_id: int, desk: str) -> None:
    """Give a doubt up that a desk decides now; raise Conflict if another one has it."""
    holder = _holder(session, left_id, right_id, desk) if desk else ""
    if holder:
        raise Conflict(f"{holder} has this one at another desk just now.")
    session.execute(
        text("DELETE FROM leases WHERE left_id = :left AND right_id = :right"), {"left": left_id, "right": right_id}
    )


def leave_desk(session: Session, desk: str) -> None:
    """Give up what a desk has."""
    session.execute(text("DELETE FROM leases WHERE desk = :desk OR until < now() - interval '1 hour'"), {"desk": desk})


def _holder(session: Session, left_id: int, right_id: int, desk: str) -> str:
    """Return who has a doubt at another desk, or ""."""
    query = "SELECT actor FROM leases WHERE left_id = :left AND right_id = :right AND desk <> :desk AND until > now()"
    return session.scalar(text(query), {"left": left_id, "right": right_id, "desk": desk}) or ""
