"""Undoing steps of the journal, with the later steps that rest on them or not at all, as the person chooses."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from ...core.errors import Conflict, Refused
from ...core.sign_off import Facts, Matter
from ...store import journal
from ...store.counters import add_to, count_waiting
from ...store.decisions import standing_of_entry
from ...store.locks import lock_membership, share_desk
from ...store.membership import members_of
from ...store.tables import JournalEntry, Register
from ..proposals.gate import Intent, ask_second_yes
from ..state.decisions import keep_apart, withdraw_decisions
from ..state.golden_values import refresh
from ..state.membership import make_moves, moves_between, new_golden
from .steps import MembershipStep, Step, membership_step, step_in_words, undone_steps

_MOST_TAKEN_ALONG = 200


@dataclass(frozen=True, slots=True)
class LaterStep:
    """A step that rests on one that is to be undone."""

    entry_id: int
    part: int
    summary: str
    actor: str
    at: datetime


def later_steps(session: Session, step: MembershipStep) -> list[LaterStep]:
    """Return the steps in force that moved records of the same golden records, or of those they led to, newest first."""
    golden, found = {*step.before, *step.after}, dict[Step, int]()
    while True:
        steps = journal.steps_touching(session, sorted(golden), after_move=step.last_move)
        known = {(entry, part): last for entry, part, _, last in steps}
        undone = undone_steps(session, known)
        fresh = {
            key: last for key, last in known.items()
            if key not in undone and key not in found and not _takes_back(session, key, undone)
        }  # fmt: skip
        if not fresh:
            break
        found |= fresh
        # What a later step did to further golden records has to be undone before it, too.
        for entry, part in fresh:
            for _, _, from_golden, to_golden in journal.moves_of(session, entry, part):
                golden |= {end for end in (from_golden, to_golden) if end is not None}
    return [_later(session, *key) for key in sorted(found, key=lambda key: -found[key])]


def _later(session: Session, entry_id: int, part: int) -> LaterStep:
    entry, step = journal.entry_by_id(session, entry_id), membership_step(session, entry_id, part)
    return LaterStep(entry_id, part, step_in_words(session, entry, step), entry.actor, entry.at)


def _takes_back(session: Session, step: Step, undone: set[Step]) -> bool:
    """Whether a step takes back another of the later ones: then neither of the two counts."""
    entry = journal.entry_by_id(session, step[0])
    return entry.undoes is not None and (entry.undoes, entry.undoes_part) in undone


def undo_step(session: Session, entry_id: int, part: int = 1, *, actor: str, with_later: bool = False) -> int:
    """Take a part of a journal entry back; return the entry that records this.

    Records that part company get *different* decisions, so that the next run does not simply join them again; decisions
    that the entry itself had made are withdrawn. Where later steps rest on it, they are taken back first if ``with_later``;
    else Conflict names them.
    """
    entry = journal.entry_by_id(session, entry_id)
    register = lock_membership(session, entry.chain)
    _check_undoable(entry)
    if undone_steps(session, [(entry_id, part)]):
        raise Refused("This step was undone before.")
    step = membership_step(session, entry_id, part)
    arguments = {"entry_id": entry_id, "part": part, "with_later": with_later}
    told = f"Undid: {step_in_words(session, entry, step)}"
    asked = Intent(
        "undo", arguments, Facts(Matter.MEMBERSHIP, f"undo {entry_id} {part}"), told,
        touches=[("golden", golden) for golden in step.after],
    )  # fmt: skip
    ask_second_yes(session, register, asked, actor=actor)
    if members_of(session, step.after) != step.after:
        later = later_steps(session, step)
        if not later:
            raise Conflict("The golden records of this step have changed since.")
        if not with_later:
            named = "; ".join(f"{item.summary} ({item.actor})" for item in later[:5])
            raise Conflict(f"Later steps rest on this one: {named}. Undo them first, or take them along.")
        if len(later) > _MOST_TAKEN_ALONG:
            raise Refused(f"{len(later)} later steps rest on this one; undo some of them first.")
        for item in later:
            _undo(session, register, membership_step(session, item.entry_id, item.part), actor, rests_on=entry_id)
        if members_of(session, step.after) != step.after:
            raise Conflict("A later step that cannot be taken along (a delivery taken back, say) rests on this one.")
    return _undo(session, register, step, actor)


def _check_undoable(entry: JournalEntry) -> None:
    ways = {
        "take back": "These records left with a delivery that was taken back; put the delivery back instead.",
        "put back": "These records came with a delivery that was put back; take the delivery back instead.",
        "leave": "These records left with a delivery that was taken back; put the delivery back instead.",
        "return": "These records came with a delivery that was put back; take the delivery back instead.",
        "pin": "A pin is taken back by lifting it.", "lift": "Pin the value again instead.",
        "decide": "A decision is taken back at the desk.", "correct": "A correction is undone where values are corrected.",
    }  # fmt: skip
    if entry.kind not in ("merge", "split", "undo"):
        raise Refused(ways.get(entry.kind, f"A step of the kind '{entry.kind}' is changed where it was made."))


def _undo(session: Session, register: Register, step: MembershipStep, actor: str, rests_on: int | None = None) -> int:
    entry = journal.entry_by_id(session, step.entry_id)
    if entry.kind not in ("merge", "split", "undo"):
        _check_undoable(entry)
    if members_of(session, step.after) != step.after:
        raise Conflict("The golden records of a step that rests on this one have changed since.")
    undo_id = journal.reserve(session)
    target = _restored(session, register, step.before, step.after)
    moves = moves_between(1, step.after, target)
    about = make_moves(session, undo_id, moves)
    summary = f"Undid: {step_in_words(session, entry, step)}"
    refresh(session, register, [*step.before, *step.after, *target])
    share_desk(session, register.id)
    withdraw_decisions(session, register.id, standing_of_entry(session, entry.id), actor=actor)
    apart = _parted(target, step.after)
    for parts in apart:
        keep_apart(session, register, parts, actor=actor, remark=summary, journal_id=undo_id)
    add_to(
        session,
        register.id,
        golden=_filled(target) - _filled(step.after),
        without_golden=_held(step.after) - _held(target),
    )
    count_waiting(session, register.id)
    journal.append(
        session, register.id, "undo", actor=actor, data={"moves": about, "apart": apart}, personal={"summary": summary},
        entry_id=undo_id, undoes=(step.entry_id, step.part), rests_on=[rests_on] if rests_on else [],
    )  # fmt: skip
    return undo_id


def _filled(groups: Mapping[int, Sequence[int]]) -> int:
    return sum(1 for records in groups.values() if records)


def _held(groups: Mapping[int, Sequence[int]]) -> int:
    return sum(len(records) for records in groups.values())


def _parted(target: Mapping[int, Sequence[int]], after: Mapping[int, Sequence[int]]) -> list[list[list[int]]]:
    """Return the groups of records that were together and are not any more."""
    found = []
    for group in after.values():
        parts = [part for records in target.values() if (part := sorted(set(records) & set(group)))]
        if len(parts) > 1:
            found.append(parts)
    return found


def _restored(
    session: Session, register: Register, before: Mapping[int, Collection[int]], after: Mapping[int, Collection[int]]
) -> dict[int, list[int]]:
    """Return golden id → records after undoing. Records that had no golden record before become one each."""
    target = {golden: sorted(records) for golden, records in before.items()}
    known = {record for records in before.values() for record in records}
    spare = [golden for golden in sorted(after) if not before.get(golden) and after[golden]]
    loose = sorted({record for records in after.values() for record in records} - known)
    fresh = new_golden(session, register, max(len(loose) - len(spare), 0))
    for golden, record in zip([*spare, *fresh], loose, strict=False):
        target[golden] = [record]
    return target
