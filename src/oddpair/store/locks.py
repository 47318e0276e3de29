"""Who waits for whom: locks of a register that last until the transaction ends.

Taken in this order. *Membership*: one writer at a time of what belongs to which golden record. *Golden*: the rows of golden
records whose values are being computed; who pins a value takes that one row without membership, so that a pin waits for a merge
only where that is changing this very golden record. *Desk*: people who decide share it; who makes doubts anew takes it alone, at
the very end of the work. *Chain*: one entry of the journal at a time, the last thing before the commit. None of them is in the
way of foreign keys, so a long job never holds what a person's decision needs for longer than it takes to commit.
"""

from enum import IntEnum

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .tables import Register


class _Lock(IntEnum):
    MEMBERSHIP = 1
    DESK = 2
    CHAIN = 3
    LEASES = 4


def _take(session: Session, lock: _Lock, register_id: int, *, shared: bool = False) -> None:
    # Two-part keys of the server's advisory locks: what is locked in the upper bits, the register in the others.
    name = "pg_advisory_xact_lock_shared" if shared else "pg_advisory_xact_lock"
    session.execute(text(f"SELECT {name}(:lock, :register)"), {"lock": int(lock), "register": register_id})


def lock_membership(session: Session, register_id: int) -> Register:
    """Return the register; nobody else changes what belongs to which of its golden records until the transaction ends."""
    _take(session, _Lock.MEMBERSHIP, register_id)
    return session.execute(
        select(Register).where(Register.id == register_id).execution_options(populate_existing=True)
    ).scalar_one()


def lock_golden(session: Session, table: str) -> None:
    """Be the only one who computes the values of the golden records in a temporary table; always in the order of their ids."""
    session.execute(
        text(f"SELECT g.id FROM golden_records g JOIN {table} t ON t.id = g.id ORDER BY g.id FOR NO KEY UPDATE OF g")
    )


def lock_settings(session: Session, register_id: int) -> Register:
    """Return the register's row locked: one writer of its rules, layout and sources at a time; foreign keys pass."""
    query = select(Register).where(Register.id == register_id).with_for_update(key_share=True)
    return session.execute(query.execution_options(populate_existing=True)).scalar_one()


def share_desk(session: Session, register_id: int) -> None:
    """Take part in deciding: doubts are not made anew meanwhile."""
    _take(session, _Lock.DESK, register_id, shared=True)


def close_desk(session: Session, register_id: int) -> None:
    """Keep deciding waiting while doubts are made anew; to be followed by the commit soon."""
    _take(session, _Lock.DESK, register_id)


def lock_leases(session: Session, register_id: int) -> None:
    """Be the only one who hands doubts out to desks; to be followed by the commit at once."""
    _take(session, _Lock.LEASES, register_id)


def lock_chain(session: Session, chain: int) -> None:
    """Be the only one who appends to a chain of the journal."""
    _take(session, _Lock.CHAIN, chain)


def lock_pair(session: Session, left_id: int, right_id: int) -> None:
    """Be the only one who decides a pair of records."""
    session.execute(
        text("SELECT pg_advisory_xact_lock(hashtextextended(:pair, 0))"), {"pair": f"pair {left_id} {right_id}"}
    )


def lock_subject(session: Session, register_id: int, subject: str) -> None:
    """Let one proposal at a time be made about a subject; before the desk."""
    session.execute(
        text("SELECT pg_advisory_xact_lock(hashtextextended(:subject, :register))"),
        {"subject": subject, "register": register_id},
    )


def wait_at_most(session: Session, seconds: float) -> None:
    """Give up after so many seconds of waiting for a lock, in this transaction."""
    session.execute(text(f"SET LOCAL lock_timeout = {int(seconds * 1000)}"))
