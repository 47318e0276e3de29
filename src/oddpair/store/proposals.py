"""Proposals as rows: what waits for a second yes, who gave theirs, and which pairs of records wait with it."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from sqlalchemy import ColumnElement, delete, func, select, text
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .bulk import copy_rows
from .tables import Proposal, ProposalPair, Register, Signature

WAITING, SENT_BACK = "waiting", "sent back"
#: So many of those that ended are counted by act and person.
_LATEST = 2_000
#: How a proposal can end.
ENDS = ("carried out", "withdrawn", "overtaken", "closed")


def add_proposal(session: Session, proposal: Proposal, pairs: Collection[tuple[int, int]]) -> Proposal:
    """Write a proposal with the pairs of records that wait with it."""
    session.add(proposal)
    session.flush()
    rows = ((proposal.id, left, right, proposal.register_id) for left, right in sorted(set(pairs)))
    copy_rows(session, "proposal_pairs", ("proposal_id", "left_id", "right_id", "register_id"), rows)
    return proposal


def locked(session: Session, proposal_id: int) -> Proposal:
    """Return a proposal that nobody else signs or ends until the transaction does; raise NotFound."""
    found = session.scalar(select(Proposal).where(Proposal.id == proposal_id).with_for_update())
    if found is None:
        raise NotFound("proposal", proposal_id)
    return found


def proposal_by_id(session: Session, proposal_id: int) -> Proposal:
    """Return a proposal; raise NotFound."""
    found = session.get(Proposal, proposal_id)
    if found is None:
        raise NotFound("proposal", proposal_id)
    return found


def about(session: Session, register_id: int, subject: str, *states: str) -> Sequence[Proposal]:
    """Return the proposals about a subject that are in one of some states, oldest first, locked."""
    query = select(Proposal).where(
        Proposal.register_id == register_id, Proposal.subject == subject, Proposal.state.in_(states)
    )
    return session.scalars(query.order_by(Proposal.id).with_for_update()).all()


def proposal_of_pair(session: Session, left_id: int, right_id: int) -> Proposal | None:
    """Return the proposal with which two records wait, if any."""
    pair = ProposalPair.left_id == left_id, ProposalPair.right_id == right_id
    query = select(Proposal).join(ProposalPair, ProposalPair.proposal_id == Proposal.id).where(*pair)
    return session.scalars(query.order_by(Proposal.id.desc()).limit(1)).first()


def release_pairs(session: Session, proposal_id: int) -> list[int]:
    """Let the pairs of a proposal wait no longer; return their records."""
    freed = delete(ProposalPair).where(ProposalPair.proposal_id == proposal_id)
    rows = session.execute(freed.returning(ProposalPair.left_id, ProposalPair.right_id)).all()
    return sorted({record for row in rows for record in row})


def signatures_of(session: Session, proposal_ids: Collection[int]) -> Sequence[Signature]:
    """Return who signed some proposals, in the order of their levels."""
    query = select(Signature).where(Signature.proposal_id.in_(proposal_ids))
    return session.scalars(query.order_by(Signature.proposal_id, Signature.level)).all()


@dataclass(frozen=True, slots=True)
class ProposalFilter:
    """Which proposals of a register are asked for: in which states, of which act, why, and whose ("" is any)."""

    states: tuple[str, ...] = (WAITING,)
    act: str = ""
    why: str = ""
    proposed_by: str = ""

    def conditions(self, register_id: int) -> list[ColumnElement[bool]]:
        """Return the conditions of a query."""
        found: list[ColumnElement[bool]] = [Proposal.register_id == register_id, Proposal.state.in_(self.states)]
        wanted = (Proposal.act, self.act), (Proposal.why, self.why), (Proposal.proposed_by, self.proposed_by)
        return found + [column == value for column, value in wanted if value]


def proposals(
    session: Session, register_id: int, only: ProposalFilter, *, after: int = 0, newest_first: bool = False, limit: int
) -> Sequence[Proposal]:
    """Return a page of proposals behind the one numbered ``after``, in the order in which they were made or the newest first."""
    query = select(Proposal).where(*only.conditions(register_id))
    if after:
        query = query.where(Proposal.id < after if newest_first else Proposal.id > after)
    return session.scalars(query.order_by(Proposal.id.desc() if newest_first else Proposal.id).limit(limit)).all()


def groups(session: Session, register_id: int, only: ProposalFilter) -> list[tuple[str, str, str, int]]:
    """Return (act, why, whose, how many) of proposals, the most frequent first; of those that ended, of the latest."""
    of = select(Proposal.act, Proposal.why, Proposal.proposed_by).where(*only.conditions(register_id))
    if set(only.states) <= set(ENDS):
        of = of.order_by(Proposal.id.desc()).limit(_LATEST)
    one = of.subquery().c
    query = select(one.act, one.why, one.proposed_by, func.count()).group_by(one.act, one.why, one.proposed_by)
    ordered = query.order_by(func.count().desc(), one.act, one.why, one.proposed_by)
    return [(row[0], row[1], row[2], row[3]) for row in session.execute(ordered)]


def returned_to(session: Session, person: str, limit: int) -> Sequence[tuple[Proposal, str, str]]:
    """Return what was sent back to a person and they have not dealt with, with short name and name of the register, newest first."""
    query = select(Proposal, Register.slug, Register.name).join(Register, Register.id == Proposal.register_id)
    query = query.where(Proposal.state == SENT_BACK, Proposal.returned_to == person)
    return [(row[0], row[1], row[2]) for row in session.execute(query.order_by(Proposal.id.desc()).limit(limit))]


def to_sign(session: Session, register_ids: Collection[int], person: str) -> dict[int, int]:
    """Return how many proposals of some registers wait for a yes that a person may give."""
    rows = session.execute(
        text("""
            SELECT p.register_id, count(*) FROM proposals p
            WHERE p.state = 'waiting' AND p.register_id = ANY(:registers) AND p.proposed_by <> :person
                AND (jsonb_array_length(p.levels->p.level) = 0 OR jsonb_exists(p.levels->p.level, :person))
                AND NOT EXISTS (SELECT FROM proposal_signatures s WHERE s.proposal_id = p.id AND s.actor = :person)
            GROUP BY p.register_id
        """),
        {"registers": sorted(register_ids), "person": person},
    )
    return {row[0]: row[1] for row in rows}


def latest_waiting(session: Session, register_id: int, person: str, acts: Collection[str]) -> Proposal | None:
    """Return the latest proposal of a person, of some acts, that waits."""
    query = select(Proposal).where(
        Proposal.register_id == register_id,
        Proposal.proposed_by == person,
        Proposal.state == WAITING,
        Proposal.act.in_(acts),
    )
    return session.scalars(query.order_by(Proposal.id.desc()).limit(1).with_for_update()).first()


def numbers_of(session: Session, register_id: int, only: ProposalFilter, most: int) -> list[int]:
    """Return the numbers of proposals, at most so many."""
    query = select(Proposal.id).where(*only.conditions(register_id)).order_by(Proposal.id).limit(most)
    return list(session.scalars(query))


def counted_by_state(session: Session, register_id: int) -> dict[str, int]:
    """Return how many proposals of a register wait, and how many were sent back and are left."""
    left = Proposal.register_id == register_id, Proposal.state.in_((WAITING, SENT_BACK))
    query = select(Proposal.state, func.count()).where(*left).group_by(Proposal.state)
    return {row[0]: row[1] for row in session.execute(query)}


#: Acts of the journal that may change any record, and those that change none.
_FAR_REACHING = ("load", "take back", "put back", "recognise", "merge", "undo", "correct", "forget")
_PROPOSING = ("propose", "sign off", "send back", "end proposal")
_CONCERNED = """
    p.act = ANY(:of_all) OR EXISTS (
        SELECT FROM journal j WHERE j.chain = p.register_id AND j.position > p.looked_at AND j.position <= :position
        AND (j.kind = ANY(:far_reaching) OR j.kind <> ALL(:proposing) AND EXISTS (
            SELECT FROM journal_touches t WHERE t.journal_id = j.id
            AND jsonb_build_array(t.what, t.touched) IN (SELECT jsonb_array_elements(p.touches)))))
"""


def waiting_to_look_at(
    session: Session, register_id: int, position: int, acts: Collection[str], *, of_all: Collection[str], limit: int
) -> list[int]:
    """Return proposals that wait, of some acts, and that something done up to a position of the journal may have overtaken since they were
    looked at last; acts ``of_all`` rest on everything. The others need not be looked at again until then."""
    values = {
        "register_id": register_id, "position": position, "acts": sorted(acts), "of_all": sorted(of_all), "limit": limit,
        "far_reaching": list(_FAR_REACHING), "proposing": list(_PROPOSING),
    }  # fmt: skip
    waiting = "p.register_id = :register_id AND p.state = 'waiting' AND p.looked_at < :position"
    session.execute(
        text(f"UPDATE proposals p SET looked_at = :position WHERE {waiting} AND NOT ({_CONCERNED})"), values
    )
    query = (
        f"SELECT p.id FROM proposals p WHERE {waiting} AND p.act = ANY(:acts) ORDER BY p.looked_at, p.id LIMIT :limit"
    )
    return list(session.scalars(text(query), values))
