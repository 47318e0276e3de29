"""Leases: what somebody has before them at a desk, so that nobody else gets it."""

from collections.abc import Sequence
from datetime import timedelta

from sqlalchemy import delete, text
from sqlalchemy.orm import Session

from ..core.errors import Conflict
from .locks import lock_leases
from .tables import Lease

#: How long a doubt stays with a desk that says nothing more.
LASTS = timedelta(minutes=3)


def take_leases(
    session: Session, register_id: int, doubts: Sequence[tuple[int, int]], *, actor: str, desk: str
) -> list[tuple[int, int, str]]:
    """Let a desk have doubts, and no other ones any more; return those that another desk has, with who is at it, and ("") those that
    were decided meanwhile."""
    asked = sorted(set(doubts))
    values = {
        "register_id": register_id, "lefts": [left for left, _ in asked], "rights": [right for _, right in asked], "actor": actor,
        "desk": desk, "lasts": LASTS,
    }  # fmt: skip
    # Requests of one desk overtake each other, and desks ask for the same doubts: one at a time, or they wait in circles.
    lock_leases(session, register_id)
    these = "SELECT * FROM unnest(CAST(:lefts AS bigint[]), CAST(:rights AS bigint[]))"
    session.execute(text(f"DELETE FROM leases WHERE desk = :desk AND (left_id, right_id) NOT IN ({these})"), values)
    session.execute(
        text(f"""
            INSERT INTO leases (left_id, right_id, register_id, actor, desk, until)
            SELECT l, r, :register_id, :actor, :desk, now() + :lasts FROM ({these}) asked (l, r) ORDER BY l, r
            ON CONFLICT (left_id, right_id) DO UPDATE SET actor = excluded.actor, desk = excluded.desk, until = excluded.until
            WHERE leases.desk = excluded.desk OR leases.until <= now()
        """),
        values,
    )
    rows = session.execute(
        text(f"""
            SELECT left_id, right_id, actor FROM leases
            WHERE (left_id, right_id) IN ({these}) AND desk <> :desk AND until > now()
            UNION ALL
            SELECT a.l, a.r, '' FROM ({these}) a (l, r) JOIN runs n ON n.register_id = :register_id AND n.state = 'standing'
            WHERE EXISTS (SELECT FROM doubts d WHERE d.run_id = n.id AND d.state IN ('decided', 'proposed')
                AND (d.left_id = a.l AND d.right_id = a.r OR d.one = a.l AND d.what = 'cluster' AND a.l = a.r))
            ORDER BY 1, 2
        """),
        values,
    )
    return [(row[0], row[1], row[2]) for row in rows]


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


def leave_all(session: Session, actor: str) -> None:
    """Give back whatever somebody has before them, at any desk."""
    session.execute(delete(Lease).where(Lease.actor == actor))
