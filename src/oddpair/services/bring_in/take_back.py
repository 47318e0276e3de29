"""Taking a delivery back, and putting it back again: records become what the other deliveries of their source say."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import Refused
from ...core.tidying import tidy_row
from ...store import deliveries as store
from ...store import golden as golden_store
from ...store.loading import (
    Settled,
    TakeBackCounts,
    forget_pairs,
    records_of_delivery,
    settle,
    take_back_counts,
)
from ...store.quality import corrected_of_source, reapply_corrections
from ...store.registers import lock_register
from ...store.tables import (
    Delivery,
    GoldenMember,
    JournalEntry,
    Register,
    Source,
    SourceRecord,
)
from ..golden.journal_steps import WITHDRAWN, Step, make_steps
from ..state.golden_values import refresh
from ..state.layouts import layout_of
from ..state.recipe_in_force import recipe_of

_RECORDS_AT_ONCE = 20_000


@dataclass(frozen=True, slots=True)
class TakenBack:
    """What taking a delivery back, or putting it back, did: counts of records and golden records."""

    withdrawn: int
    returned: int
    changed: int
    golden: int


def preview_take_back(session: Session, delivery_id: int) -> TakeBackCounts:
    """Return what taking the delivery back would do, without doing it."""
    delivery = _in_state(session, delivery_id, "loaded")
    return take_back_counts(session, delivery.id)


def _in_state(session: Session, delivery_id: int, status: str) -> Delivery:
    delivery = store.delivery_by_id(session, delivery_id)
    if delivery.status != status:
        raise Refused(f"The delivery of '{delivery.file_name}' is {delivery.status}, not {status}.")
    return delivery


def take_back(session: Session, delivery_id: int, *, actor: str) -> TakenBack:
    """Take a loaded delivery back; raise Refused if it is not loaded."""
    return _change(session, _in_state(session, delivery_id, "loaded"), "taken back", actor)


def put_back(session: Session, delivery_id: int, *, actor: str) -> TakenBack:
    """Put a delivery that was taken back into force again, at its old place in the order of deliveries.

    Records that had left their golden records return to them where these have not changed since.
    """
    return _change(session, _in_state(session, delivery_id, "taken back"), "loaded", actor)


def _change(session: Session, delivery: Delivery, status: str, actor: str) -> TakenBack:
    source = session.get_one(Source, delivery.source_id)
    register = lock_register(session, source.register_id)
    delivery.status, delivery.changed_at = status, datetime.now(UTC)
    told = f"the delivery '{delivery.file_name}' of {source.name}"
    settled = settle(session, records_of_delivery(session, delivery.id))
    session.refresh(register)
    corrected = sorted(set(corrected_of_source(session, source.id)) & set(settled.touched))
    reapply_corrections(session, corrected)
    session.refresh(register)
    tidy_again(session, register, sorted({*settled.changed, *corrected}))
    golden = _leave(session, register, settled, actor, f"left with {told}, which was taken back")
    golden += _return(session, register, settled, actor, f"came back with {told}")
    touched = select(GoldenMember.golden_id).where(GoldenMember.record_id.in_(settled.changed))
    refresh(session, register, set(session.scalars(touched)))
    return TakenBack(len(settled.withdrawn), len(settled.returned), len(settled.changed), golden)


def tidy_again(session: Session, register: Register, records: Sequence[int]) -> None:
    """Tidy records whose fields are others now."""
    recipe = recipe_of(session, register)
    for start in range(0, len(records), _RECORDS_AT_ONCE):
        chosen = select(SourceRecord).where(SourceRecord.id.in_(records[start : start + _RECORDS_AT_ONCE]))
        for record in session.scalars(chosen):
            record.tidy = tidy_row(layout_of(register), record.fields, recipe)
        session.flush()


def _count(number: int) -> str:
    return f"{number} record" + ("" if number == 1 else "s")


def _leave(session: Session, register: Register, settled: Settled, actor: str, told: str) -> int:
    """Take withdrawn records out of their golden records; return how many golden records changed."""
    forget_pairs(session, register.id, settled.withdrawn)
    gone = set(settled.withdrawn)
    golden_ids = sorted(set(session.scalars(select(GoldenMember.golden_id).where(GoldenMember.record_id.in_(gone)))))
    before = golden_store.members_of(session, golden_ids)
    steps = []
    for golden_id, members in before.items():
        staying = [member for member in members if member not in gone]
        summary = f"{_count(len(members) - len(staying))} {told}"
        steps.append(Step(WITHDRAWN, summary, {golden_id: members}, {golden_id: staying}, {}))
    make_steps(session, register, steps, actor)
    return len(steps)


def _return(session: Session, register: Register, settled: Settled, actor: str, told: str) -> int:
    """Let records return into the golden records that they left, where those are as they were then."""
    if not settled.returned:
        return 0
    back = set(settled.returned)
    entries = session.scalars(
        select(JournalEntry)
        .where(
            JournalEntry.register_id == register.id, JournalEntry.kind == WITHDRAWN, JournalEntry.undone_by.is_(None)
        )
        .order_by(JournalEntry.id.desc())
    ).all()
    steps, undone = [], []
    for entry in entries:
        [(key, before)], after = entry.before.items(), entry.after
        present = golden_store.members_of(session, [int(key)])[int(key)]
        if set(before) - set(after[key]) <= back and present == sorted(after[key]):
            summary = f"{_count(len(before) - len(present))} {told}"
            steps.append(Step("returned", summary, {int(key): present}, {int(key): sorted(before)}, {}))
            undone.append(entry)
    for entry, made in zip(undone, make_steps(session, register, steps, actor), strict=True):
        entry.undone_by = made
    return len(steps)
