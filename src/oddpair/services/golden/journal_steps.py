"""Changes of membership, written down so that each can be undone."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...store import golden as golden_store
from ...store.bulk import copy_rows
from ...store.registers import lock_register
from ...store.tables import (
    Decision,
    GoldenMember,
    GoldenRecord,
    JournalEntry,
    Register,
    SourceRecord,
)
from ..state.golden_values import refresh

Groups = Mapping[int, Sequence[int]]
#: The kind of entries by which records leave because their delivery was taken back.
WITHDRAWN = "withdrawn"


@dataclass(frozen=True, slots=True)
class Step:
    """A change of golden records to be made: golden id → records before and after, and where retired ones lead."""

    kind: str
    summary: str
    before: Groups
    after: Groups
    retired: Mapping[int, int]


def new_golden(session: Session, register: Register, count: int) -> list[GoldenRecord]:
    """Make ``count`` empty golden records with the next keys."""
    made = [
        GoldenRecord(
            register_id=register.id, number=number, key=f"{register.prefix}-{number:05d}", values={}, origins={}
        )
        for number in golden_store.take_numbers(session, register, count)
    ]
    session.add_all(made)
    session.flush()
    return made


def make_steps(session: Session, register: Register, steps: Sequence[Step], actor: str) -> list[int]:
    """Carry out steps in the open transaction: members, retired keys, values and journal. Returns the entries' ids."""
    touched = sorted({golden for step in steps for golden in (*step.before, *step.after)})
    records = sorted(
        {r for step in steps for groups in (step.before, step.after) for group in groups.values() for r in group}
    )
    for start in range(0, len(records), 5000):
        session.execute(delete(GoldenMember).where(GoldenMember.record_id.in_(records[start : start + 5000])))
    copy_rows(
        session, "golden_members", ("record_id", "golden_id"),
        ((record, golden) for step in steps for golden, group in step.after.items() for record in group),
    )  # fmt: skip
    filled = {golden for step in steps for golden, group in step.after.items() if group}
    leads = {golden: into for step in steps for golden, into in step.retired.items()}
    for golden_id in touched:
        golden = session.get_one(GoldenRecord, golden_id)
        golden.leads_to = None if golden_id in filled else leads.get(golden_id, golden.leads_to)
        stands_for_nothing = golden_id not in filled and golden.leads_to is None
        golden.withdrawn_at = datetime.now(UTC) if stands_for_nothing else None
    refresh(session, register, touched)
    entries = [
        JournalEntry(
            register_id=register.id, golden_id=min(step.after), kind=step.kind, summary=step.summary, actor=actor,
            before=_document(step.before), after=_document(step.after),
        )
        for step in steps
    ]  # fmt: skip
    session.add_all(entries)
    session.flush()
    copy_rows(
        session, "journal_golden", ("journal_id", "golden_id"),
        ((entry.id, golden) for entry, step in zip(entries, steps, strict=True) for golden in sorted({*step.before, *step.after})),
    )  # fmt: skip
    return [entry.id for entry in entries]


def _document(groups: Groups) -> dict[str, list[int]]:
    return {str(golden): list(records) for golden, records in groups.items()}


def _groups(document: Mapping[str, Sequence[int]]) -> dict[int, list[int]]:
    return {int(golden): sorted(records) for golden, records in document.items()}


def keep_apart(
    session: Session, register: Register, groups: Collection[Sequence[int]], *, actor: str, remark: str, journal_id: int
) -> None:
    """Decide *different* for every pair of records of two different groups, so that no later run joins them again."""
    ids = [record for group in groups for record in group]
    records = {record.id: record for record in session.scalars(select(SourceRecord).where(SourceRecord.id.in_(ids)))}
    listed = [list(group) for group in groups]
    for place, one in enumerate(listed):
        for other in listed[place + 1 :]:
            for a in one:
                for b in other:
                    left, right = records[min(a, b)], records[max(a, b)]
                    session.add(
                        Decision(
                            register_id=register.id, left_id=left.id, right_id=right.id, verdict="different", remark=remark, actor=actor,
                            left_hash=left.content_hash, right_hash=right.content_hash, journal_id=journal_id,
                        )
                    )  # fmt: skip


def undo_entry(session: Session, entry_id: int, *, actor: str) -> int:
    """Take a journal entry back; return the id of the entry that records this.

    Records that part company get *different* decisions, so that the next run does not simply join them again; decisions
    that the entry itself had made are withdrawn. Raises Conflict if the golden records have changed since.
    """
    entry = session.get(JournalEntry, entry_id)
    if entry is None:
        raise NotFound("journal entry", entry_id)
    register = lock_register(session, entry.register_id)
    session.refresh(entry)
    if entry.undone_by is not None:
        raise Refused("This step was undone before.")
    if entry.kind == WITHDRAWN:
        raise Refused("These records left with a delivery that was taken back; put the delivery back instead.")
    if entry.kind in ("pinned", "lifted"):
        raise Refused("A pin is taken back by lifting it.")
    before, after = _groups(entry.before), _groups(entry.after)
    present = golden_store.members_of(session, after)
    if present != after:
        raise Conflict("The golden records of this step have changed since; undo the later steps first.")
    target, retired = _restored(session, register, before, after)
    summary = f"Undid: {entry.summary}"
    [undo_id] = make_steps(session, register, [Step("undone", summary, after, target, retired)], actor)
    entry.undone_by = undo_id
    session.execute(
        update(Decision)
        .where(Decision.journal_id == entry.id, Decision.withdrawn_at.is_(None))
        .values(withdrawn_at=datetime.now(UTC))
    )
    for group in after.values():
        parts = [part for records in target.values() if (part := sorted(set(records) & set(group)))]
        if len(parts) > 1:
            keep_apart(session, register, parts, actor=actor, remark=summary, journal_id=undo_id)
    return undo_id


def _restored(
    session: Session, register: Register, before: dict[int, list[int]], after: dict[int, list[int]]
) -> tuple[dict[int, list[int]], dict[int, int]]:
    """Return (golden id → records after undoing, where emptied golden records lead).

    Records that had no golden record before become one each.
    """
    target: dict[int, list[int]] = {golden: list(records) for golden, records in before.items()}
    held = {record for records in before.values() for record in records}
    spare = [golden for golden in sorted(after) if golden not in before]
    loose = sorted({record for records in after.values() for record in records} - held)
    fresh = new_golden(session, register, max(len(loose) - len(spare), 0))
    for golden_id, record in zip([*spare, *(golden.id for golden in fresh)], loose, strict=False):
        target[golden_id] = [record]
    owner = {record: golden for golden, records in target.items() for record in records}
    emptied = [golden for golden in sorted({*target, *spare}) if not target.get(golden)]
    # An emptied record leads to where its records went; one that was empty before leads on as it did.
    retired = {golden: owner[after[golden][0]] for golden in emptied if after.get(golden)}
    return {**target, **{golden: [] for golden in emptied}}, retired
