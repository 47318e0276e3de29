"""Schedules: when a source delivers without a person, from where, what holds a delivery, and what is sent out after it."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from datetime import datetime

from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...core.timetable import check_times, next_time, times_between
from ...store import journal
from ...store import schedules as store
from ...store.locks import lock_settings
from ...store.registers import register_by_slug, source_by_name
from ...store.schedules import TurnShown
from ...store.tables import Register, Schedule, Source, Turn
from .. import work

__all__ = [
    "Stops", "TurnShown", "Wished", "begin_due_turns", "begin_turn_here", "give_up", "held_turns", "let_through", "schedules",
    "set_schedule", "take_turn_now", "turns",
]  # fmt: skip
TURN = "turn"
#: A turn that was begun from the command line counts as being worked at so long.
_BEGUN_BY_HAND_S = 3 * 3600
TAKES = ("query", "folder")
#: What can be sent out, by the name of the file that is written.
SENDS = ("golden.csv", "crosswalk.csv", "changes.jsonl")


@dataclass(frozen=True, slots=True)
class Stops:
    """What holds a delivery: fewer than this share of the usual rows; more than this share set aside; a quality rule that this share of the
    records fails more than before; or more than this share of the golden records that would change."""

    least_rows: float = 0.5
    most_aside: float = 0.1
    rule_fall: float = 0.05
    most_golden: float = 0.2


@dataclass(frozen=True, slots=True)
class Wished:
    """A schedule as a person wishes it."""

    times: str
    takes: str
    stops: Stops = field(default_factory=Stops)
    sends: Sequence[str] = ()
    on: bool = True


def set_schedule(
    session: Session, slug: str, source_name: str, wished: Wished, now: datetime, *, actor: str, seen_version: int = 0
) -> Schedule:
    """Make or change the schedule of a source; raise InputError, Refused, or Conflict where somebody changed it meanwhile."""
    register, source = _source(session, slug, source_name)
    times = check_times(wished.times)
    if wished.takes == "query" and not source.query:
        raise Refused(
            f"The source '{source.name}' delivers files; there is no query to ask. Take the files of its folder."
        )
    if not source.mapping:
        raise Refused(
            f"Bring in one delivery of '{source.name}' by hand first, so that it is known which column is what."
        )
    unknown = [name for name in wished.sends if name not in SENDS]
    if unknown:
        raise Refused(f"'{unknown[0]}' cannot be sent out, only {', '.join(SENDS)}.")
    schedule = store.schedule_of(session, source.id)
    if (schedule.version if schedule else 0) != seen_version:
        raise Conflict("The schedule was changed meanwhile. Reload to see it.")
    if schedule is None:
        schedule = Schedule(source_id=source.id, version=0)
        session.add(schedule)
    schedule.times, schedule.takes, schedule.stops = times, wished.takes, asdict(wished.stops)
    schedule.sends, schedule.on = list(wished.sends), wished.on
    schedule.next_at = next_time(times, now) if wished.on else None
    schedule.version += 1
    schedule.actor, schedule.changed_at = actor, now
    session.flush()
    journal.append(
        session, register.id, "schedule", actor=actor,
        data={"source": source.id, "times": times, "takes": wished.takes, "on": wished.on},
        personal={"summary": f"Set when {source.name} delivers by itself" if wished.on else f"{source.name} delivers by hand"},
    )  # fmt: skip
    return schedule


def _source(session: Session, slug: str, name: str) -> tuple[Register, Source]:
    register = lock_settings(session, register_by_slug(session, slug).id)
    source = source_by_name(session, register.id, name)
    if source is None:
        raise NotFound("source", name)
    return register, source


def schedules(session: Session, slug: str) -> Sequence[tuple[Schedule, str]]:
    """Return the schedules of a register, each with the name of its source."""
    return store.schedules_of(session, register_by_slug(session, slug).id)


def begin_due_turns(session: Session, now: datetime) -> int:
    """Ask for the turns that are due; return how many. Of turns that were missed the last one is made, and it tells how many more there
    were; a schedule whose turn before is still under way, or held, waits for it."""
    begun = 0
    for schedule in store.due(session, now):
        due_at = schedule.next_at
        assert due_at is not None
        missed = times_between(schedule.times, due_at.astimezone(now.tzinfo), now)
        schedule.next_at = next_time(schedule.times, now)
        before = _under_way(session, schedule, now)
        if before is not None:
            before.missed += missed + 1
            continue
        _ask_for(session, _written(session, schedule, due_at, missed, "Odd Pair"), "Odd Pair")
        begun += 1
    session.flush()
    return begun


def take_turn_now(session: Session, slug: str, source_name: str, now: datetime, *, actor: str) -> Turn:
    """Ask for a turn of a source's schedule at once; raise Refused if one is under way or held."""
    turn = begin_turn_here(session, slug, source_name, now, actor=actor)
    _ask_for(session, turn, actor)
    return turn


def begin_turn_here(session: Session, slug: str, source_name: str, now: datetime, *, actor: str) -> Turn:
    """Begin a turn of a source's schedule that this very process makes; raise Refused if one is under way or held."""
    _, source = _source(session, slug, source_name)
    schedule = store.schedule_of(session, source.id)
    if schedule is None:
        raise NotFound("schedule of", source_name)
    before = _under_way(session, schedule, now)
    if before is not None:
        raise Refused(
            "A turn of this source is held. Look at it first."
            if before.state == store.HELD
            else "Its turn is under way already."
        )
    return _written(session, schedule, now, 0, actor)


def _under_way(session: Session, schedule: Schedule, now: datetime) -> Turn | None:
    """Return the turn of a schedule that goes on or is held. One that nobody works at any more has failed."""
    turn = store.under_way(session, schedule.id)
    if turn is None or turn.state == store.HELD or store.is_worked_at(session, turn.id, _BEGUN_BY_HAND_S):
        return turn
    turn.state, turn.why, turn.ended_at = "failed", "It broke off, and nobody went on with it.", now
    session.flush()
    return None


def _written(session: Session, schedule: Schedule, due_at: datetime, missed: int, actor: str) -> Turn:
    turn = Turn(schedule_id=schedule.id, due_at=due_at, missed=missed, actor=actor)
    session.add(turn)
    session.flush()
    return turn


def _ask_for(session: Session, turn: Turn, actor: str, *, despite: bool = False) -> None:
    source = session.get_one(Source, session.get_one(Schedule, turn.schedule_id).source_id)
    slug = session.get_one(Register, source.register_id).slug
    arguments = {"register": slug, "turn": turn.id, "actor": actor, **({"despite": True} if despite else {})}
    work.follow_up(session, slug, TURN, f"{source.name} delivers by itself", arguments)


def let_through(session: Session, turn_id: int, *, actor: str) -> Turn:
    """Let a held turn go on in spite of what held it."""
    turn, source = _held(session, turn_id)
    turn.state, turn.actor = "waiting", actor
    session.flush()
    _ask_for(session, turn, actor, despite=True)
    _note(session, source, turn, actor, f"Let through what {source.name} delivered")
    return turn


def give_up(session: Session, turn_id: int, now: datetime, *, actor: str) -> Turn:
    """End a held turn: what it would have brought in stays a draft that a person may load or discard; what it would have merged is merged
    by a person, or goes when the delivery is taken back."""
    turn, source = _held(session, turn_id)
    turn.state, turn.ended_at, turn.actor = "given up", now, actor
    session.flush()
    _note(session, source, turn, actor, f"Gave up what {source.name} delivered by itself")
    return turn


def _note(session: Session, source: Source, turn: Turn, actor: str, summary: str) -> None:
    data = {"turn": turn.id, "state": turn.state, "delivery": turn.delivery_id}
    journal.append(session, source.register_id, "turn", actor=actor, data=data, personal={"summary": summary})


def _held(session: Session, turn_id: int) -> tuple[Turn, Source]:
    turn = session.get(Turn, turn_id, with_for_update=True)
    if turn is None:
        raise NotFound("turn", turn_id)
    if turn.state != store.HELD:
        raise Refused(f"This turn is {turn.state}; there is nothing to let through.")
    source = session.get_one(Source, session.get_one(Schedule, turn.schedule_id).source_id)
    return turn, source


def turns(session: Session, slug: str, limit: int) -> list[TurnShown]:
    """Return the turns of a register's schedules, newest first."""
    return store.turns(session, register_id=register_by_slug(session, slug).id, limit=limit)


def held_turns(session: Session) -> list[TurnShown]:
    """Return the turns of all registers that wait for a person."""
    return store.turns(session, state=store.HELD)
