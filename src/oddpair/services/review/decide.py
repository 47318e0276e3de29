"""Decisions about pairs: kept, taken back, listed."""

from collections.abc import Mapping, Sequence
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...core.sign_off import Facts, Matter
from ...store import journal
from ...store.counters import counters_of
from ...store.decisions import decided_since, decision_of_pair, people_of
from ...store.leases import end_lease
from ...store.locks import lock_pair, share_desk
from ...store.registers import register_by_slug
from ...store.tables import Decision, Register, SourceRecord
from ..proposals.gate import Intent, ask_second_yes
from ..state.decisions import basis_of, compared_fields, settle, withdraw_decisions
from ..state.words import name_of
from .proposed import pair_lines

VERDICTS = ("same", "different", "later")


def decide(
    session: Session, slug: str, left_id: int, right_id: int, *, verdict: str, remark: str, actor: str, seen_decision: int | None,
    until: date | None = None, asked: str = "", desk: str = "",
) -> Decision:  # fmt: skip
    """Keep a decision about a pair of records; raise Conflict if somebody else decided it meanwhile, or has it at another desk.

    A *later* may come back on a day, and ask somebody.
    """
    if left_id == right_id:
        raise Refused("A record cannot be compared with itself.")
    check_later(verdict, until, asked)
    register = register_by_slug(session, slug)
    left, right = (_record(session, register, record_id) for record_id in sorted((left_id, right_id)))
    share_desk(session, register.id)
    lock_pair(session, left.id, right.id)
    end_lease(session, left.id, right.id, desk)
    present = decision_of_pair(session, left.id, right.id)
    if (present.id if present else None) != seen_decision:
        state = f"decided as '{present.verdict}' by {present.actor}" if present else "withdrawn"
        raise Conflict(f"This pair was {state} meanwhile. Reload to see it.")
    summary = f"Decided {verdict}: {name_of(left.fields)} and {name_of(right.fields)}"
    # To put a pair off decides nothing, unless it takes the place of what was decided.
    if verdict != "later" or (present and present.verdict != "later"):
        arguments = {
            "left_id": left.id, "right_id": right.id, "verdict": verdict, "remark": remark, "seen_decision": seen_decision,
            "until": until.isoformat() if until else None, "asked": asked,
        }  # fmt: skip
        ask_second_yes(
            session, register, _intent("decide", arguments, summary, left.id, right.id), actor=actor,
            shown=lambda: pair_lines(
                session, register, left.id, right.id, was=present.verdict if present else "", will=verdict, remark=remark
            ),
        )  # fmt: skip
    entry_id = journal.reserve(session)
    decision = Decision(
        register_id=register.id, left_id=left.id, right_id=right.id, verdict=verdict, remark=remark, actor=actor,
        basis=basis_of(compared_fields(session, register), left, right), at=datetime.now(UTC), journal_id=entry_id,
        until=until, asked=asked,
    )  # fmt: skip
    session.add(decision)
    session.flush()
    settle(session, register.id, [left.id, right.id])
    data = {
        "decision": decision.id,
        "left": left.id,
        "right": right.id,
        "verdict": verdict,
        "basis": decision.basis["fields"],
        **({"until": until.isoformat()} if until else {}),
    }
    journal.append(
        session, register.id, "decide", actor=actor, entry_id=entry_id, data=data,
        personal={"summary": summary, "remark": remark, "basis": decision.basis} | ({"asked": asked} if asked else {}),
        touches=[("record", left.id), ("record", right.id)],
    )  # fmt: skip
    return decision


def _intent(act: str, arguments: Mapping[str, Any], summary: str, left_id: int, right_id: int) -> Intent:
    ends = (left_id, right_id)
    return Intent(
        act, arguments, Facts(Matter.DECISION, f"pair {left_id} {right_id}"), summary, pairs=[ends],
        touches=[("record", end) for end in ends], leads_to=f"review/{left_id}/{right_id}",
    )  # fmt: skip


def check_later(verdict: str, until: date | None, asked: str) -> None:
    """Raise Refused where a day or a person is named that a verdict has no place for, or a day that is past."""
    if verdict != "later" and (until or asked):
        raise Refused("Only what is decided later waits for a day or for somebody.")
    if until is not None and until <= datetime.now(UTC).date():
        raise Refused("Choose a day to come.")


def _record(session: Session, register: Register, record_id: int) -> SourceRecord:
    record = session.get(SourceRecord, record_id)
    if record is None or record.register_id != register.id:
        raise NotFound("record", record_id)
    return record


def withdraw(session: Session, decision_id: int, *, actor: str) -> Decision:
    """Take a decision back; it stays in the account as withdrawn, with who did so."""
    decision = session.get(Decision, decision_id)
    if decision is None:
        raise NotFound("decision", decision_id)
    share_desk(session, decision.register_id)
    lock_pair(session, decision.left_id, decision.right_id)
    session.refresh(decision)
    if decision.withdrawn_at is not None:
        raise Refused("This decision was withdrawn before.")
    if decision.verdict != "later":
        register = session.get_one(Register, decision.register_id)
        left, right = (_record(session, register, record) for record in (decision.left_id, decision.right_id))
        told = f"Took back the decision {decision.verdict}: {name_of(left.fields)} and {name_of(right.fields)}"
        ask_second_yes(
            session, register, _intent("withdraw", {"decision_id": decision.id}, told, left.id, right.id), actor=actor,
            shown=lambda: pair_lines(session, register, left.id, right.id, was=decision.verdict, will="not decided"),
        )  # fmt: skip
    withdraw_decisions(session, decision.register_id, [decision], actor=actor)
    journal.append(
        session, decision.register_id, "withdraw", actor=actor, data={"decision": decision.id},
        personal={"summary": f"Took back the decision {decision.verdict}"},
        undoes=(decision.journal_id, 0) if decision.journal_id else None,
        touches=[("record", decision.left_id), ("record", decision.right_id)],
    )  # fmt: skip
    return decision


def decisions(session: Session, slug: str, limit: int, *, actor: str = "") -> Sequence[Decision]:
    """Return the latest decisions of a register, or of one person in it, newest first."""
    register = register_by_slug(session, slug)
    query = select(Decision).where(Decision.register_id == register.id)
    if actor:
        query = query.where(Decision.actor == actor)
    return session.scalars(query.order_by(Decision.id.desc()).limit(limit)).all()


def progress(session: Session, slug: str, *, actor: str, since: datetime) -> tuple[dict[str, int], int]:
    """Return (what a person decided since a moment, by verdict; how many doubts wait)."""
    register = register_by_slug(session, slug)
    return decided_since(session, register.id, actor, since), counters_of(session, register.id).waiting


def people(session: Session, slug: str, *, actor: str) -> list[str]:
    """Return the names under which somebody decided in a register, and one's own."""
    return sorted({*people_of(session, register_by_slug(session, slug).id), actor})
