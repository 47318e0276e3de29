"""The gate: every act that a policy may catch asks here before it changes anything."""

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import Conflict
from ...core.sign_off import Facts, Matter, Policy, policy_from
from ...store import journal
from ...store import proposals as store
from ...store.locks import close_desk, lock_subject, share_desk
from ...store.tables import Proposal, Register
from ..state.decisions import settle
from ..state.layouts import layout_of
from ..transactions import KeptInstead

#: Where a session keeps that what it does was signed off.
_SIGNED = "signed off"
#: More lines of what a proposal will do than anybody reads.
_MOST_SHOWN = 200

#: From so many records on the desk is closed to others for a moment: their doubts are made anew.
_ALONE = 2_000

Pairs = Sequence[tuple[int, int]]
#: (what, was, will): what a proposal shows that it will do.
Line = tuple[str, str, str]


@dataclass(frozen=True, slots=True)
class Intent:
    """An act about to be done: which one with what ``arguments`` (as JSON can say them), what it says and shows of itself as lines of
    (what, was, will), the pairs of records that it decides, what it touches, and where on the screen one sees it."""

    act: str
    arguments: Mapping[str, Any]
    facts: Facts
    summary: str
    shows: Sequence[Line] = ()
    pairs: Pairs = ()
    touches: Sequence[tuple[str, int]] = ()
    leads_to: str = ""


def changed_entries(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[Line]:
    """Return in which entries two settings differ, as lines of what a proposal shows."""
    return [
        (name, _as_text(before.get(name)), _as_text(after.get(name)))
        for name in sorted({*before, *after})
        if before.get(name) != after.get(name)
    ]


def _as_text(value: Any) -> str:
    return value if isinstance(value, str) else "" if value is None else json.dumps(value, ensure_ascii=False)


def policy_of(register: Register) -> Policy:
    """Return what needs a second yes in a register."""
    return policy_from(register.sign_off or {}, [one.name for one in layout_of(register).fields])


def signed_off(session: Session, by: Sequence[int]) -> None:
    """Let what the session does from now on pass: it was signed off by these entries of the journal."""
    session.info[_SIGNED] = tuple(by)
    session.info[journal.RESTS_ON] = tuple(by)


def is_signed(session: Session) -> bool:
    """Whether what the session does was signed off."""
    return _SIGNED in session.info


def ask_second_yes(
    session: Session, register: Register, step: Intent, *, actor: str, shown: Callable[[], Sequence[Line]] | None = None
) -> None:
    """Let an act go on; where it needs a second yes, give it up and keep it as a proposal (raises WaitsForSignOff).

    Asked by every act after it has checked what it was given and before it changes anything. What takes long to tell is asked for by
    ``shown`` only where it needs a second yes. What goes on ends proposals about the same thing: they are overtaken. Raises Conflict where
    a proposal of somebody else about it waits already.
    """
    forgetting = step.facts.matter is Matter.FORGETTING
    if (register.sign_off is None and not forgetting) or is_signed(session):
        return
    why = policy_of(register).why(step.facts)
    if not why:
        for earlier in store.about(session, register.id, step.facts.subject, store.WAITING, store.SENT_BACK):
            end_proposal(
                session, earlier, "overtaken", actor=actor, reason=f"{actor} did this meanwhile: {step.summary}"
            )
        return
    _check_nobody_elses(session, register, step, actor)
    register_id = register.id
    if shown:
        step = replace(step, shows=shown())
    raise KeptInstead(step.summary, why, lambda other: propose(other, register_id, step, why, actor=actor).id)


def _check_nobody_elses(session: Session, register: Register, step: Intent, actor: str) -> None:
    for earlier in store.about(session, register.id, step.facts.subject, store.WAITING):
        if earlier.proposed_by != actor:
            raise Conflict(f"{earlier.proposed_by} proposed something about this already, which waits for sign-off.")


def propose(session: Session, register_id: int, step: Intent, why: str, *, actor: str) -> Proposal:
    """Write a proposal; what the same person proposed about the same before is withdrawn, what was sent back is dealt with.

    Raises Conflict where a proposal of somebody else about it waits.
    """
    register = session.get_one(Register, register_id)
    lock_subject(session, register.id, step.facts.subject)
    _check_nobody_elses(session, register, step, actor)
    for earlier in store.about(session, register.id, step.facts.subject, store.WAITING, store.SENT_BACK):
        state = "withdrawn" if earlier.state == store.WAITING else "closed"
        end_proposal(session, earlier, state, actor=actor, reason=f"Proposed anew by {actor}")
    entry_id = journal.reserve(session)
    shows = [{"what": what, "was": was, "will": will} for what, was, will in step.shows[:_MOST_SHOWN]]
    proposal = Proposal(
        register_id=register.id, act=step.act, arguments=dict(step.arguments), subject=step.facts.subject, why=why, summary=step.summary,
        shows=shows, leads_to=step.leads_to, touches=[list(one) for one in step.touches], proposed_by=actor, journal_id=entry_id,
        levels=[list(level) for level in policy_of(register).levels], looked_at=journal.latest_position(session, register.id),
    )  # fmt: skip
    store.add_proposal(session, proposal, step.pairs)
    settle_held(session, register.id, sorted({record for pair in step.pairs for record in pair}))
    note(session, proposal, "propose", actor=actor, summary=f"Proposed: {step.summary}", entry_id=entry_id, why=why)
    return proposal


def end_proposal(session: Session, proposal: Proposal, state: str, *, actor: str, reason: str) -> None:
    """End a proposal otherwise than by carrying it out: what it held is offered to everybody again."""
    _close(session, proposal, state, actor, reason)
    verb = {"withdrawn": "Withdrew", "overtaken": "Overtaken", "closed": "Dealt with"}[state]
    note(session, proposal, "end proposal", actor=actor, summary=f"{verb}: {proposal.summary}", reason=reason)


def close_carried_out(session: Session, proposal: Proposal, *, actor: str) -> None:
    """Mark a proposal as carried out."""
    _close(session, proposal, "carried out", actor, "")


def _close(session: Session, proposal: Proposal, state: str, actor: str, reason: str) -> None:
    proposal.state, proposal.ended_by, proposal.reason, proposal.ended_at = state, actor, reason, datetime.now(UTC)
    session.flush()
    settle_held(session, proposal.register_id, store.release_pairs(session, proposal.id))


def leave_to_all(session: Session, proposal: Proposal) -> None:
    """Let everybody deal with what was sent back."""
    proposal.returned_to = ""
    session.flush()
    settle_held(session, proposal.register_id, store.release_pairs(session, proposal.id))


def settle_held(session: Session, register_id: int, records: Sequence[int]) -> None:
    """Bring the doubts about records that wait, or wait no longer, up to date."""
    if records:
        (close_desk if len(records) > _ALONE else share_desk)(session, register_id)
        settle(session, register_id, records)


def note(
    session: Session,
    proposal: Proposal,
    kind: str,
    *,
    actor: str,
    summary: str,
    entry_id: int | None = None,
    **more: str,
) -> int:
    """Write what became of a proposal into the journal; return the entry."""
    rests_on = [] if entry_id == proposal.journal_id else [proposal.journal_id]
    entry = journal.append(
        session, proposal.register_id, kind, actor=actor, personal={"summary": summary, **more}, entry_id=entry_id,
        data={"proposal": proposal.id, "act": proposal.act, "state": proposal.state}, rests_on=rests_on,
        touches=[(what, touched) for what, touched in proposal.touches],
    )  # fmt: skip
    return entry.id
