"""Taking a delivery back, and putting it back again: records become what the other deliveries of their source say."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import Refused
from ...store import deliveries as store
from ...store import journal
from ...store.loading import TakeBackCounts, take_back_counts
from ...store.locks import lock_membership
from ...store.settling import touch_delivery
from ...store.tables import Delivery, Source
from ..state.bring_up_to_date import Progress, RecordChange, bring_up_to_date, nothing


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


def take_back(session: Session, delivery_id: int, *, actor: str, progress: Progress = nothing) -> TakenBack:
    """Take a loaded delivery back; raise Refused if it is not loaded."""
    return _change(session, _in_state(session, delivery_id, "loaded"), "taken back", actor, progress)


def put_back(session: Session, delivery_id: int, *, actor: str, progress: Progress = nothing) -> TakenBack:
    """Put a delivery that was taken back into force again, at its old place in the order of deliveries.

    Records that had left their golden records return to them where these have not changed since.
    """
    return _change(session, _in_state(session, delivery_id, "taken back"), "loaded", actor, progress)


def _change(session: Session, delivery: Delivery, status: str, actor: str, progress: Progress) -> TakenBack:
    source = session.get_one(Source, delivery.source_id)
    register = lock_membership(session, source.register_id)
    session.refresh(delivery)
    _in_state(session, delivery.id, "loaded" if status == "taken back" else "taken back")
    delivery.status, delivery.changed_at = status, datetime.now(UTC)
    session.flush()
    entry_id = journal.reserve(session)
    touch_delivery(session, delivery.id)
    progress("settle records", 0, 0)
    act = RecordChange(deliveries=True, entry_id=entry_id, delivery_id=delivery.id, sources=(source.id,))
    outcome = bring_up_to_date(session, register, act, progress)
    verb = "Took back" if status == "taken back" else "Put back"
    data: dict[str, Any] = {
        "delivery": delivery.id,
        "withdrawn": len(outcome.withdrawn),
        "returned": len(outcome.returned),
    }
    if outcome.moves:
        data["moves"] = outcome.moves
    journal.append(
        session, register.id, "take back" if status == "taken back" else "put back", actor=actor, data=data,
        personal={"summary": f"{verb} the delivery '{delivery.file_name}' of {source.name}"}, entry_id=entry_id,
        touches=[("delivery", delivery.id)],
    )  # fmt: skip
    return TakenBack(len(outcome.withdrawn), len(outcome.returned), outcome.changed, outcome.golden)
