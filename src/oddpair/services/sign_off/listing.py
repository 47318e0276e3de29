"""What waits for a second yes, what was sent back, and what became of the rest."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from ...core.sign_off import may_sign
from ...store import proposals as store
from ...store.people import still_here
from ...store.proposals import ENDS, SENT_BACK, WAITING, ProposalFilter
from ...store.registers import register_by_slug
from ...store.tables import Proposal, Register, Signature

__all__ = ["ENDS", "SENT_BACK", "WAITING", "ProposalFilter"]


@dataclass(frozen=True, slots=True)
class Yes:
    """A yes that was given."""

    actor: str
    at: datetime
    remark: str


@dataclass(frozen=True, slots=True)
class Shown:
    """A proposal as a person sees it: what it will do line by line, the yeses it has and how many it needs, and why this person may not
    sign it ("" where they may)."""

    id: int
    slug: str
    act: str
    why: str
    summary: str
    shows: list[dict[str, str]]
    leads_to: str
    proposed_by: str
    proposed_at: datetime
    state: str
    reason: str
    returned_to: str
    ended_by: str
    ended_at: datetime | None
    signatures: list[Yes]
    needed: int
    next_by: list[str]
    why_not_you: str


@dataclass(frozen=True, slots=True)
class Page:
    """A page of proposals, and how many there are of each act, reason and person, and in each state."""

    proposals: list[Shown]
    behind: int | None
    groups: list[tuple[str, str, str, int]]
    counts: dict[str, int]


def page(session: Session, slug: str, only: ProposalFilter, *, actor: str, after: int = 0, limit: int = 50) -> Page:
    """Return a page of proposals: those that wait in the order in which they were made, others the newest first."""
    register = register_by_slug(session, slug)
    newest_first = only.states != (WAITING,)
    found = store.proposals(session, register.id, only, after=after, newest_first=newest_first, limit=limit)
    return Page(
        shown_to(session, found, actor), found[-1].id if len(found) == limit else None,
        store.groups(session, register.id, ProposalFilter(only.states)), store.counted_by_state(session, register.id),
    )  # fmt: skip


def one(session: Session, proposal_id: int, *, actor: str) -> Shown:
    """Return a proposal; raise NotFound."""
    return shown_to(session, [store.proposal_by_id(session, proposal_id)], actor)[0]


def shown_to(session: Session, found: Sequence[Proposal], actor: str) -> list[Shown]:
    """Return proposals as a person sees them."""
    signed: dict[int, list[Signature]] = {}
    for signature in store.signatures_of(session, [proposal.id for proposal in found]):
        signed.setdefault(signature.proposal_id, []).append(signature)
    slugs = {number: session.get_one(Register, number).slug for number in {one.register_id for one in found}}
    return [
        _shown(session, proposal, slugs[proposal.register_id], signed.get(proposal.id, []), actor) for proposal in found
    ]


def levels_now(session: Session, proposal: Proposal) -> list[list[str]]:
    """Return who may give each yes; where nobody of those named is still here, it is everybody's who signs off."""
    here = still_here(session, {name for level in proposal.levels for name in level})
    return [[name for name in level if name in here] for level in proposal.levels]


def _shown(session: Session, proposal: Proposal, slug: str, signed: Sequence[Signature], actor: str) -> Shown:
    involved = [proposal.proposed_by, *(one.actor for one in signed)]
    waits = proposal.state == WAITING
    levels = levels_now(session, proposal)
    return Shown(
        proposal.id, slug, proposal.act, proposal.why, proposal.summary, proposal.shows, proposal.leads_to, proposal.proposed_by,
        proposal.proposed_at, proposal.state, proposal.reason, proposal.returned_to, proposal.ended_by or "", proposal.ended_at,
        [Yes(one.actor, one.at, one.remark) for one in signed], len(proposal.levels),
        levels[proposal.level] if waits else [],
        may_sign(levels, proposal.level, actor, involved) if waits else "It does not wait any more.",
    )  # fmt: skip
