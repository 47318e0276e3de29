"""Others are told: events as a feed, and web addresses that receive them."""

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from pydantic import AwareDatetime, BaseModel, ConfigDict, Field

from ..services.events import feed as feed_service
from ..services.events import receivers as service
from ..services.transactions import transaction
from .dependencies import Actor, AppState, Slug, SmallId, Text, Transaction

router = APIRouter(tags=["events"], prefix="/registers/{slug}")
Kind = Literal[
    "golden.added", "golden.changed", "golden.merged", "golden.split", "golden.ended", "delivery.held", "doubts.waiting"
]  # fmt: skip
Kinds = Annotated[list[Kind], Field(max_length=20)]


class CloudEventOut(BaseModel):
    """An event as CloudEvents 1.0 writes it; ``sequence`` is its place in the feed.

    ``data`` of a golden record names its golden key, how many ``records`` it holds, which ``fields`` changed, which key it ``leads_to`` or
    ``came_from``.
    """

    specversion: Literal["1.0"]
    id: str
    source: str
    type: str
    subject: str = ""
    time: str
    datacontenttype: Literal["application/json"]
    sequence: str
    data: dict[str, Any]


class FeedOut(BaseModel):
    """Events in their order; ``after`` is the place from which to read on, ``more`` whether there are some at once."""

    events: list[CloudEventOut]
    after: int
    more: bool


class ReceiverIn(BaseModel):
    """A web address to be told events of some kinds, of all where none is named."""

    model_config = ConfigDict(extra="forbid")
    address: Annotated[Text, Field(min_length=1, max_length=2000)]
    kinds: Kinds = []


class ReceiverChange(BaseModel):
    """Which events a receiver is told, and whether it is told any."""

    model_config = ConfigDict(extra="forbid")
    kinds: Kinds = []
    on: bool = True
    seen_version: Annotated[int, Field(ge=1, le=2**31 - 1)]


class TellAgainIn(BaseModel):
    """Since when everything is told again."""

    model_config = ConfigDict(extra="forbid")
    since: AwareDatetime


class ReceiverOut(BaseModel):
    """A receiver: up to which place it was told, how many events wait (10,000 stands for that many or more), and, while it takes none, how
    often it was tried since when, what the last try met, and when the next one comes."""

    id: int
    address: str
    kinds: list[str]
    on: bool
    position: int
    waiting: int
    failures: int
    why: str
    failing_since: datetime | None
    told_at: datetime | None
    next_at: datetime
    version: int
    actor: str


class FreshReceiverOut(BaseModel):
    """A new receiver, and the secret with which events are signed; it is shown this once."""

    receiver: ReceiverOut
    secret: str


def _out(receiver: Any, waiting: int = 0) -> ReceiverOut:
    fields = {name: getattr(receiver, name) for name in ReceiverOut.model_fields if name != "waiting"}
    return ReceiverOut(**fields, waiting=waiting)


@router.get("/events")
def events(
    state: AppState, slug: Slug, after: Annotated[int, Query(ge=0, le=2**62)] = 0,
    limit: Annotated[int, Query(ge=1, le=1000)] = 100, kind: Annotated[list[Kind] | None, Query(max_length=20)] = None,
) -> FeedOut:  # fmt: skip
    """What happened beyond a place, in its order: begin with 0 and read on from ``after`` of the answer."""
    feed_service.place_all(state.sessions)
    with transaction(state.sessions) as session:
        found = feed_service.feed(session, slug, after, limit, kind or [])
    return FeedOut(events=[CloudEventOut(**event) for event in found.events], after=found.position, more=found.more)


@router.get("/receivers")
def list_receivers(session: Transaction, slug: Slug) -> list[ReceiverOut]:
    """The web addresses that are told what happens."""
    return [_out(shown.receiver, shown.waiting) for shown in service.receivers(session, slug)]


@router.post("/receivers", status_code=201)
def add_receiver(state: AppState, slug: Slug, actor: Actor, body: ReceiverIn) -> FreshReceiverOut:
    """Tell an address what happens from now on."""
    feed_service.place_all(state.sessions)
    with transaction(state.sessions) as session:
        receiver = service.add_receiver(session, slug, body.address, body.kinds, actor=actor)
        return FreshReceiverOut(receiver=_out(receiver), secret=receiver.secret)


@router.put("/receivers/{receiver_id}")
def set_receiver(
    session: Transaction, slug: Slug, receiver_id: SmallId, actor: Actor, body: ReceiverChange
) -> ReceiverOut:
    """Change what an address is told, or tell it nothing for a while; what happens meanwhile waits for it."""
    return _out(
        service.set_receiver(
            session, slug, receiver_id, kinds=body.kinds, on=body.on, seen_version=body.seen_version, actor=actor
        )
    )


@router.post("/receivers/{receiver_id}/again")
def tell_again(session: Transaction, slug: Slug, receiver_id: SmallId, actor: Actor, body: TellAgainIn) -> ReceiverOut:
    """Tell an address once more what happened since a moment."""
    return _out(service.tell_again(session, slug, receiver_id, body.since, actor=actor))


@router.delete("/receivers/{receiver_id}", status_code=204)
def remove_receiver(session: Transaction, slug: Slug, receiver_id: SmallId, actor: Actor) -> None:
    """Tell an address nothing any more."""
    service.remove_receiver(session, slug, receiver_id, actor=actor)
