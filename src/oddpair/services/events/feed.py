"""Events as others read them: CloudEvents 1.0 (CNCF, 2019), in their order, from a place on."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import Refused
from ...store import events as store
from ...store.registers import register_by_slug
from ...store.tables import Event
from ..transactions import SessionFactory, transaction

#: What happens, by what it is called in events behind TYPE.
KINDS = (
    "golden.added", "golden.changed", "golden.merged", "golden.split", "golden.ended", "delivery.held", "doubts.waiting"
)  # fmt: skip
TYPE = "odd-pair."
#: So many notes are given their places at a time; whoever merges meanwhile waits for nothing.
_AT_ONCE = 5_000


@dataclass(frozen=True, slots=True)
class Feed:
    """Events, and the place from which to read on."""

    events: Sequence[dict[str, Any]]
    position: int
    more: bool


def check_kinds(kinds: Sequence[str]) -> None:
    """Raise Refused for a kind of event that there is not."""
    for kind in kinds:
        if kind not in KINDS:
            raise Refused(f"There is no event '{kind}'; there are {', '.join(KINDS)}.")


def place_all(sessions: SessionFactory) -> int:
    """Give everything that was noted its place among the events; return how many notes that were."""
    placed = 0
    while True:
        with transaction(sessions) as session:
            here = store.place_noted(session, _AT_ONCE)
        placed += here
        if here < _AT_ONCE:
            return placed


def cloud_event(event: Event, slug: str) -> dict[str, Any]:
    """Return an event in the JSON form of CloudEvents; ``sequence`` is its place, by the extension of that name."""
    return {
        "specversion": "1.0", "id": str(event.id), "source": f"/api/registers/{slug}", "type": TYPE + event.kind,
        **({"subject": event.subject} if event.subject else {}), "time": event.at.astimezone(UTC).isoformat().replace("+00:00", "Z"),
        "datacontenttype": "application/json", "sequence": f"{event.position:020d}", "data": event.data,
    }  # fmt: skip


def feed(session: Session, slug: str, after: int, limit: int, kinds: Sequence[str] = ()) -> Feed:
    """Return what happened in a register beyond a place: up to ``limit`` events, of some kinds only where these are named."""
    check_kinds(kinds)
    register = register_by_slug(session, slug)
    found = store.events_after(session, register.id, after, limit)
    wanted = [cloud_event(event, slug) for event in found if not kinds or event.kind in kinds]
    return Feed(wanted, found[-1].position if found else after, len(found) == limit)
