"""Schedules: when sources deliver without a person, their turns, and what a person does about a turn that is held."""

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel, ConfigDict, Field

from ..core.rights import Permission
from ..core.timetable import times_in_words
from ..services.standing import schedules as service
from .dependencies import Actor, Asker, RecordId, Slug, Text, Transaction

router = APIRouter(tags=["schedules"])
Share = Annotated[float, Field(ge=0, le=1)]
SendOut = Literal["golden.csv", "crosswalk.csv", "changes.jsonl"]


class StopsModel(BaseModel):
    """What holds a delivery: fewer than this share of the usual rows; more than this share set aside; a quality rule that this share of the
    records fails more than before; more than this share of the golden records that would change."""

    model_config = ConfigDict(extra="forbid")
    least_rows: Share = 0.5
    most_aside: Share = 0.1
    rule_fall: Share = 0.05
    most_golden: Share = 0.2


class ScheduleIn(BaseModel):
    """When a source delivers, as five fields of cron; from where; what holds a delivery; what is sent out after it. ``seen_version`` is 0
    for a schedule that is not there yet."""

    model_config = ConfigDict(extra="forbid")
    times: Annotated[Text, Field(min_length=1, max_length=120)]
    takes: Literal["query", "folder"]
    stops: StopsModel = StopsModel()
    sends: Annotated[list[SendOut], Field(max_length=3)] = []
    on: bool = True
    seen_version: Annotated[int, Field(ge=0, le=2**31 - 1)] = 0


class ScheduleOut(BaseModel):
    """A schedule; ``says`` its times in words, ``folder`` where files are taken from, below the folder of the data."""

    source: str
    times: str
    says: str
    takes: Literal["query", "folder"]
    folder: str
    stops: StopsModel
    sends: list[SendOut]
    on: bool
    next_at: datetime | None
    version: int
    actor: str


class TurnOut(BaseModel):
    """A turn of a schedule: when it was due, began and ended, what came of it, why it is held, which delivery it is at, which it brought,
    and how many turns before it were missed."""

    id: int
    register_slug: str
    register_name: str
    source: str
    due_at: datetime
    started_at: datetime | None
    ended_at: datetime | None
    state: str
    why: str
    held_at: str
    delivery_id: int | None
    deliveries: list[int]
    sent: list[str]
    missed: int


def _schedule(slug: str, schedule: Any, source: str) -> ScheduleOut:
    return ScheduleOut(
        source=source, times=schedule.times, says=times_in_words(schedule.times), takes=schedule.takes,
        folder=f"incoming/{slug}/{source}", stops=StopsModel(**schedule.stops), sends=schedule.sends, on=schedule.on,
        next_at=schedule.next_at, version=schedule.version, actor=schedule.actor,
    )  # fmt: skip


def turn_out(shown: Any) -> TurnOut:
    """Return a turn as it is sent."""
    turn = shown.turn
    return TurnOut(
        id=turn.id, register_slug=shown.slug, register_name=shown.register_name, source=shown.source, due_at=turn.due_at,
        started_at=turn.started_at, ended_at=turn.ended_at, state=turn.state, why=turn.why, held_at=turn.held_at,
        delivery_id=turn.delivery_id, deliveries=turn.told.get("deliveries", []), sent=turn.told.get("sent", []), missed=turn.missed,
    )  # fmt: skip


@router.get("/registers/{slug}/schedules")
def list_schedules(session: Transaction, slug: Slug) -> list[ScheduleOut]:
    """When the sources of a register deliver without a person."""
    return [_schedule(slug, schedule, source) for schedule, source in service.schedules(session, slug)]


@router.put("/registers/{slug}/schedules/{source}")
def set_schedule(session: Transaction, slug: Slug, source: Text, actor: Actor, body: ScheduleIn) -> ScheduleOut:
    """Make or change the schedule of a source."""
    stops = service.Stops(**body.stops.model_dump())
    wished = service.Wished(body.times, body.takes, stops, tuple(body.sends), body.on)
    now = datetime.now().astimezone()
    schedule = service.set_schedule(session, slug, source, wished, now, actor=actor, seen_version=body.seen_version)
    return _schedule(slug, schedule, source)


@router.get("/registers/{slug}/turns")
def list_turns(session: Transaction, slug: Slug, limit: Annotated[int, Query(ge=1, le=500)] = 100) -> list[TurnOut]:
    """What ran unattended, newest first."""
    return [turn_out(shown) for shown in service.turns(session, slug, limit)]


@router.post("/registers/{slug}/schedules/{source}/turns", status_code=202)
def take_turn_now(session: Transaction, slug: Slug, source: Text, actor: Actor) -> None:
    """Let a source deliver at once."""
    service.take_turn_now(session, slug, source, datetime.now().astimezone(), actor=actor)


@router.get("/turns/held")
def held_turns(session: Transaction, asker: Asker) -> list[TurnOut]:
    """The turns of all registers that wait for a person."""
    found = service.held_turns(session)
    return [turn_out(shown) for shown in found if asker.may(Permission.SEE, shown.slug)]


@router.post("/turns/{turn_id}/{answer}", status_code=202)
def answer_turn(
    session: Transaction, turn_id: RecordId, answer: Literal["let-through", "give-up"], actor: Actor
) -> None:
    """Let a held turn go on in spite of what held it, or give it up."""
    if answer == "let-through":
        service.let_through(session, turn_id, actor=actor)
    else:
        service.give_up(session, turn_id, datetime.now().astimezone(), actor=actor)
