"""A proposal signed, carried out, sent back, withdrawn, proposed again, or left to others."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy.orm import Session

from ...core.errors import Busy, NotAllowed, OddPairError, OutOfSpace, Refused, Unavailable
from ...core.rights import PERMISSIONS, Permission, who_may
from ...core.sign_off import may_sign
from ...store import proposals as store
from ...store.tables import Proposal, Register, Signature
from ..proposals.gate import close_carried_out, end_proposal, leave_to_all, note, signed_off
from ..transactions import SessionFactory, transaction
from .acts import ACTS, permission_for
from .listing import levels_now

#: Whether the person who asks may do something.
May = Callable[[Permission], bool]
#: What says nothing about the proposal itself.
_PASSING = (Busy, Unavailable, OutOfSpace)


@dataclass(frozen=True, slots=True)
class Signed:
    """What came of a yes: the state of the proposal (waiting for the next yes, carried out, or overtaken), and why it was overtaken."""

    proposal_id: int
    state: str
    reason: str


def sign(
    sessions: SessionFactory, proposal_id: int, *, actor: str, remark: str = "", patience_s: float = 0.0
) -> Signed:
    """Give a yes; the last one that is needed carries the proposal out, in the same transaction. What can no longer be carried out ends
    as overtaken, with the reason.

    Raises NotAllowed where this person may not sign this, Refused where it does not wait any more.
    """
    try:
        with transaction(sessions, patience_s=patience_s) as session:
            proposal = _waiting(session, proposal_id)
            return _sign(session, proposal, actor, remark)
    except CannotBeDone as error:
        with transaction(sessions, patience_s=patience_s) as session:
            proposal = _waiting(session, proposal_id)
            end_proposal(session, proposal, "overtaken", actor=actor, reason=str(error))
            return Signed(proposal.id, proposal.state, proposal.reason)


class CannotBeDone(OddPairError):
    """What was proposed can no longer be carried out; the message says why."""


def _sign(session: Session, proposal: Proposal, actor: str, remark: str) -> Signed:
    before = store.signatures_of(session, [proposal.id])
    why_not = may_sign(
        levels_now(session, proposal), proposal.level, actor, [proposal.proposed_by, *(one.actor for one in before)]
    )
    if why_not:
        raise NotAllowed(why_not)
    summary = f"Signed off ({proposal.level + 1} of {len(proposal.levels)}): {proposal.summary}"
    entry = note(session, proposal, "sign off", actor=actor, summary=summary, remark=remark)
    session.add(Signature(proposal_id=proposal.id, level=proposal.level, actor=actor, remark=remark, journal_id=entry))
    proposal.level += 1
    session.flush()
    if proposal.level >= len(proposal.levels):
        carry_out(session, proposal, actor=actor, signatures=[*(one.journal_id for one in before), entry])
    return Signed(proposal.id, proposal.state, "")


def carry_out(session: Session, proposal: Proposal, *, actor: str, signatures: list[int]) -> None:
    """Do what was proposed, in the name of the one who proposed it; raise CannotBeDone, saying why, where it cannot be done any more."""
    slug = session.get_one(Register, proposal.register_id).slug
    signed_off(session, signatures)
    # What waits with it is open again before it is decided.
    close_carried_out(session, proposal, actor=actor)
    try:
        ACTS[proposal.act](session, slug, proposal.arguments, proposal.proposed_by)
        session.flush()
    except _PASSING:
        raise
    except OddPairError as error:
        raise CannotBeDone(str(error)) from error


def _waiting(session: Session, proposal_id: int) -> Proposal:
    proposal = store.locked(session, proposal_id)
    if proposal.state != store.WAITING:
        by = f" by {proposal.ended_by}" if proposal.ended_by else ""
        raise Refused(f"This was {proposal.state}{by} meanwhile.")
    return proposal


def send_back(session: Session, proposal_id: int, *, reason: str, to_all: bool, actor: str) -> Proposal:
    """Send a proposal back with a reason: to the one who made it, or, what it decides, to everybody (``to_all``).

    Raises Refused without a reason, NotAllowed where this person may not sign it.
    """
    proposal = _waiting(session, proposal_id)
    signed = [one.actor for one in store.signatures_of(session, [proposal.id])]
    why_not = may_sign(levels_now(session, proposal), proposal.level, actor, [proposal.proposed_by, *signed])
    if why_not:
        raise NotAllowed(why_not)
    if not reason.strip():
        raise Refused("Sending back needs a reason, so that it can be mended.")
    proposal.state, proposal.reason, proposal.ended_by, proposal.ended_at = (
        store.SENT_BACK,
        reason,
        actor,
        datetime.now(UTC),
    )
    if to_all:
        leave_to_all(session, proposal)
    else:
        proposal.returned_to = proposal.proposed_by
    session.flush()
    note(session, proposal, "send back", actor=actor, summary=f"Sent back: {proposal.summary}", reason=reason)
    return proposal


def _check_sent_back(proposal: Proposal, actor: str, may: May) -> None:
    """Raise an error unless a proposal was sent back to a person, or to everybody who may do what it proposes."""
    if proposal.state != store.SENT_BACK or proposal.returned_to not in ("", actor):
        raise Refused("Only what was sent back, to you or to everybody, can be dealt with so.")
    needed = permission_for(proposal.act)
    if not may(needed):
        raise NotAllowed(f"Only {who_may(needed)} may {PERMISSIONS[needed]}.")


def withdraw(session: Session, proposal_id: int, *, actor: str, may: May) -> Proposal:
    """Withdraw a proposal of one's own that waits, or let one go that was sent back: what it decided is offered to everybody again."""
    proposal = store.locked(session, proposal_id)
    if proposal.proposed_by != actor:
        if proposal.state == store.WAITING:
            raise Refused(f"Only {proposal.proposed_by} may withdraw this; whoever signs off may send it back.")
        _check_sent_back(proposal, actor, may)
    if proposal.state not in (store.WAITING, store.SENT_BACK):
        raise Refused(f"This was {proposal.state} before.")
    reason = "Withdrawn" if proposal.state == store.WAITING else "Let go after it was sent back"
    end_proposal(session, proposal, "withdrawn", actor=actor, reason=reason)
    return proposal


def propose_again(session: Session, proposal_id: int, *, actor: str, may: May) -> None:
    """Propose what was sent back once more, as it was; raises WaitsForSignOff as it waits again, unless nothing is needed any more."""
    proposal = store.locked(session, proposal_id)
    _check_sent_back(proposal, actor, may)
    slug = session.get_one(Register, proposal.register_id).slug
    ACTS[proposal.act](session, slug, proposal.arguments, actor)
