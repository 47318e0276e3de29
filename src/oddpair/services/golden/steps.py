"""Steps in the history of golden records: parts of journal entries, in words, and which of them can be undone."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from ...store import journal
from ...store.golden import keys_of
from ...store.tables import JournalEntry
from ..state.words import counted

Groups = Mapping[int, Sequence[int]]
#: A part of a journal entry: (entry, part).
Step = tuple[int, int]


@dataclass(frozen=True, slots=True)
class HistoryStep:
    """A step in the history of a golden record: part ``part`` of the journal entry ``id``; part 0 is an entry without moves."""

    id: int
    part: int
    kind: str
    summary: str
    actor: str
    at: datetime
    undone: bool
    undoable: bool


@dataclass(frozen=True, slots=True)
class MembershipStep:
    """A part of an entry that moved records: who was where before and after it, in all golden records it touches."""

    entry_id: int
    part: int
    last_move: int
    before: dict[int, list[int]]
    after: dict[int, list[int]]


def undone_steps(session: Session, steps: Iterable[Step]) -> set[Step]:
    """Return which steps (entry, part) are taken back by a step that is itself still in force."""
    wanted = set(steps)
    taken_back_by: dict[Step, Step] = {}
    asked = wanted
    while asked:
        found = {step: (by, 1) for step, by in journal.undone_parts(session, asked).items()}
        taken_back_by |= found
        asked = {by for by in found.values() if by not in taken_back_by}

    def stands(step: Step) -> bool:
        return step not in taken_back_by or not stands(taken_back_by[step])

    return {step for step in wanted if not stands(step)}


def membership_step(session: Session, entry_id: int, part: int) -> MembershipStep:
    """Return what a part of an entry did to the golden records it touches."""
    moves = journal.moves_of(session, entry_id, part)
    golden = sorted(
        {end for _, _, from_golden, to_golden in moves for end in (from_golden, to_golden) if end is not None}
    )
    steps = journal.steps_touching(session, golden)
    [last] = [last for entry, number, _, last in steps if (entry, number) == (entry_id, part)]
    after = journal.membership_at(session, golden, last)
    before = {key: list(records) for key, records in after.items()}
    for _, record, from_golden, to_golden in moves:
        if to_golden is not None:
            before[to_golden].remove(record)
        if from_golden is not None:
            before[from_golden].append(record)
    return MembershipStep(entry_id, part, last, {key: sorted(records) for key, records in before.items()}, after)


def history_of(session: Session, golden_id: int) -> list[HistoryStep]:
    """Return the history of a golden record, newest first."""
    steps = [(entry, part) for entry, part, _, _ in journal.steps_touching(session, [golden_id])]
    undone = undone_steps(session, steps)
    entries = {entry: journal.entry_by_id(session, entry) for entry, _ in steps}
    found = [
        HistoryStep(
            entry, part, _kind(entries[entry], step), step_in_words(session, entries[entry], step), entries[entry].actor,
            entries[entry].at, (entry, part) in undone, _may_be_undone(entries[entry], step) and (entry, part) not in undone,
        )
        for entry, part in steps
        for step in [membership_step(session, entry, part)]
    ]  # fmt: skip
    moved = {entry for entry, _ in steps}
    found += [
        HistoryStep(entry.id, 0, entry.kind, summary_of(entry), entry.actor, entry.at, False, False)
        for entry in journal.entries_touching(session, "golden", golden_id)
        if entry.id not in moved
    ]
    return sorted(found, key=lambda step: (-step.id, step.part))


def summary_of(entry: JournalEntry) -> str:
    """Return what an entry says of itself; personal words may have been erased."""
    return str((entry.personal or {}).get("summary") or entry.kind)


def _kind(entry: JournalEntry, step: MembershipStep) -> str:
    return merge_kind(_filled(step.before), _filled(step.after)) if entry.kind == "merge" else entry.kind


def _filled(groups: Groups) -> dict[int, list[int]]:
    return {golden: list(records) for golden, records in groups.items() if records}


def merge_kind(before: Groups, after: Groups) -> str:
    """Return what a merge did: made, grown, merged or split."""
    if not before:
        return "made"
    if len(after) > 1:
        return "split"
    return "merged" if len(before) > 1 else "grown"


def step_in_words(session: Session, entry: JournalEntry, step: MembershipStep) -> str:
    """Return what a part of an entry did: of a merge, what it did to the golden records of this part."""
    if entry.kind != "merge":
        return summary_of(entry)
    return merge_in_words(_filled(step.before), _filled(step.after), keys_of(session, [*step.before, *step.after]))


def merge_in_words(before: Groups, after: Groups, keys: Mapping[int, str]) -> str:
    """Return what a part of a merge does to golden records, in words; new ones may lack a key yet."""
    known = {record for records in before.values() for record in records}
    added = sum(record not in known for records in after.values() for record in records)
    kind = merge_kind(before, after)
    if kind == "made":
        return f"Made from {counted(added, 'record')}"
    extra = f" with {counted(added, 'more record')}" if added else ""
    olds = [keys[golden] for golden in sorted(before)]
    if kind == "merged":
        stays = keys[min(after)]
        return f"Merged {', '.join(key for key in olds if key != stays)} into {stays}{extra}"
    if kind == "grown":
        return f"Took in {counted(added, 'more record')}"
    return f"Split {', '.join(olds)} into {counted(len(after), 'golden record')}{extra}"


def _may_be_undone(entry: JournalEntry, step: MembershipStep) -> bool:
    """Whether an entry's part can be undone at all: not what came of deliveries, nor a golden record of a single record."""
    if entry.kind not in ("merge", "split", "undo"):
        return False
    before, after = _filled(step.before), _filled(step.after)
    return bool(before) or any(len(records) > 1 for records in after.values())
