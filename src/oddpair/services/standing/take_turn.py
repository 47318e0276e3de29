"""A turn of a schedule: take what there is, load it, recognise it, send out; stop before harm.

Every step is a transaction of its own that notes how far the turn is, so that one that broke off goes on where it stopped, and does
nothing twice. What holds a delivery is found inside the transaction that loads it, which is rolled back.
"""

import logging
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import Busy, Cancelled, OddPairError, Unavailable
from ...files.incoming import Incoming, folder_of, next_file, take_over
from ...files.writers import table_chunks
from ...settings import Settings
from ...store import schedules as store
from ...store.database import SessionFactory
from ...store.deliveries import delivery_by_id
from ...store.registers import register_by_slug
from ...store.tables import Delivery, Register, Schedule, Source, Turn
from ..bring_in import drafts, load_delivery, query_source
from ..golden.send_out import EVERYTHING, out_table
from ..state.layouts import layout_of
from ..state.rule_results import rules_of
from ..state.words import counted
from ..transactions import transaction
from .directories import Directories
from .recognise import TooManyChanges, recognise_register

_log = logging.getLogger(__name__)
Progress = Callable[[str, int, int], None]
AtEnd = Callable[[Session, dict[str, Any]], None]
#: Fewer rows than these say nothing of what is usual.
_LEAST_USUAL = 10


class _HeldError(Exception):
    """Something a person should look at before it goes on."""

    def __init__(self, why: str, at: str) -> None:
        super().__init__(why)
        self.why, self.at = why, at


@dataclass(frozen=True, slots=True)
class _At:
    """What a turn works on."""

    turn: int
    slug: str
    source: str
    takes: str
    stops: Mapping[str, float]
    sends: list[str]
    delivery: int | None
    #: What it had done before it broke off.
    done: tuple[int, ...]
    recognises: bool


def take_turn(
    sessions: SessionFactory, settings: Settings, turn_id: int, progress: Progress, directories: Directories, *,
    actor: str = "Odd Pair", despite: bool = False, at_end: AtEnd | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Make a turn, or go on with one that broke off or was let through ``despite`` what held it; return what came of it.

    The state of the turn says how it ended: done, nothing, held or failed.
    """
    at = _begin(sessions, turn_id)
    told: dict[str, Any] = {}
    try:
        _go_through(sessions, settings, at, progress, directories, told, actor=actor, despite=despite)
        state, why, held_at = "done" if told.get("deliveries") else "nothing", "", ""
    except _HeldError as held:
        state, why, held_at = store.HELD, held.why, held.at
    except (Unavailable, Busy, Cancelled):
        raise
    except OddPairError as error:
        state, why, held_at = "failed", str(error), ""
    except OSError as error:
        _log.exception("turn %s failed", turn_id)
        state, why, held_at = "failed", f"{error.strerror or error}: {error.filename or ''}".rstrip(": "), ""
    with transaction(sessions) as session:
        turn = session.get_one(Turn, turn_id)
        turn.state, turn.why, turn.held_at = state, why, held_at
        turn.ended_at = None if state == store.HELD else datetime.now(UTC)
        turn.told = {**turn.told, **{name: value for name, value in told.items() if name != "files"}}
        outcome = {"state": state, "why": why, **told}
        if at_end:
            at_end(session, outcome)
    return outcome


def _begin(sessions: SessionFactory, turn_id: int) -> _At:
    with transaction(sessions) as session:
        turn = session.get_one(Turn, turn_id)
        schedule = session.get_one(Schedule, turn.schedule_id)
        source = session.get_one(Source, schedule.source_id)
        register = session.get_one(Register, source.register_id)
        turn.state, turn.started_at = "running", turn.started_at or datetime.now(UTC)
        return _At(
            turn.id, register.slug, source.name, schedule.takes, dict(schedule.stops), list(schedule.sends), turn.delivery_id,
            tuple(turn.told.get("deliveries", ())), register.recognises,
        )  # fmt: skip


def _go_through(
    sessions: SessionFactory, settings: Settings, at: _At, progress: Progress, directories: Directories, told: dict[str, Any], *,
    actor: str, despite: bool,
) -> None:  # fmt: skip
    deliveries = list(at.done)
    if deliveries:
        told["deliveries"] = deliveries
    delivery = at.delivery
    while True:
        if delivery is None:
            progress("take what there is", 0, 0)
            delivery = _take(sessions, settings, at)
        if delivery is None:
            break
        _load(sessions, settings, at, delivery, progress, actor=actor, despite=despite)
        _recognise(sessions, settings, at, progress, directories, actor=actor, despite=despite)
        deliveries.append(delivery)
        told["deliveries"] = deliveries
        with transaction(sessions) as session:
            turn = session.get_one(Turn, at.turn)
            turn.delivery_id, turn.told = None, {**turn.told, "deliveries": deliveries}
        # What held this delivery holds no other one.
        delivery, despite = None, False
        if at.takes == "query":
            break
    if deliveries:
        progress("send out", 0, 0)
        told["sent"] = _send_out(sessions, settings, at)


def _take(sessions: SessionFactory, settings: Settings, at: _At) -> int | None:
    """Take what a source has as a draft delivery; return its number, None if there is nothing."""
    if at.takes == "query":
        with transaction(sessions) as session:
            if session.get_one(Turn, at.turn).told.get("asked"):
                # It was asked before this turn broke off.
                return None
            draft = query_source.query_again(session, at.slug, at.source, settings).delivery
            return _note_taken(session, at.turn, draft.id, {"asked": True})
    folder = folder_of(settings.incoming, at.slug, at.source)
    while (file := next_file(folder)) is not None:
        with transaction(sessions) as session:
            if file.mark in session.get_one(Turn, at.turn).told.get("taken", ()):
                number = None
            else:
                number = _receive(session, settings, at, file)
        file.path.unlink(missing_ok=True)
        if number is not None:
            return number
    return None


def _receive(session: Session, settings: Settings, at: _At, file: Incoming) -> int:
    stored = take_over(file, settings.deliveries)
    try:
        draft = drafts.receive(session, at.slug, stored, file.path.name, at.source).delivery
        taken = [*session.get_one(Turn, at.turn).told.get("taken", ()), file.mark]
        return _note_taken(session, at.turn, draft.id, {"taken": taken})
    except BaseException:
        stored.unlink(missing_ok=True)
        raise


def _note_taken(session: Session, turn_id: int, delivery_id: int, told: Mapping[str, Any]) -> int:
    turn = session.get_one(Turn, turn_id)
    turn.delivery_id, turn.told = delivery_id, {**turn.told, **told}
    return delivery_id


def _load(
    sessions: SessionFactory,
    settings: Settings,
    at: _At,
    delivery_id: int,
    progress: Progress,
    *,
    actor: str,
    despite: bool,
) -> None:
    with transaction(sessions) as session:
        delivery = delivery_by_id(session, delivery_id)
        if delivery.status != "draft":
            # Loaded before this turn broke off, or settled by a person.
            return
        source = session.get_one(Source, delivery.source_id)
        if not despite:
            _check_columns(delivery, source)
        counts = load_delivery.load(session, delivery_id, settings.deliveries, progress, actor=actor)
        if not despite:
            _check_rows(session, delivery, at.stops, counts)
            _check_rules(session, at.slug, delivery, at.stops)
    load_delivery.gather_figures(sessions, counts)


def _check_columns(delivery: Delivery, source: Source) -> None:
    known, now = set(source.columns or ()), set(delivery.columns)
    gone, fresh = sorted(known - now), sorted(now - known)
    if known and (gone or fresh):
        parts = [f"{word} {', '.join(names)}" for word, names in (("without", gone), ("with the new", fresh)) if names]
        raise _HeldError(f"{delivery.file_name} comes {' and '.join(parts)}", "columns")


def _check_rows(session: Session, delivery: Delivery, stops: Mapping[str, float], counts: Mapping[str, int]) -> None:
    rows, usual = counts["rows"], store.usual_rows(session, delivery.source_id, delivery.id)
    if delivery.delivers == "full" and usual >= _LEAST_USUAL and rows < stops["least_rows"] * usual:
        raise _HeldError(f"{delivery.file_name} has {counted(rows, 'row')}, usually about {usual:.0f}", "rows")
    if rows and counts["rejected"] > stops["most_aside"] * rows:
        raise _HeldError(
            f"{counts['rejected']} of {counted(rows, 'row')} of {delivery.file_name} would be set aside", "rows"
        )


def _check_rules(session: Session, slug: str, delivery: Delivery, stops: Mapping[str, float]) -> None:
    register = register_by_slug(session, slug)
    words = {rule.key: rule.words(layout_of(register)) for rule in rules_of(session, register)}
    for rule, before, now in store.fallen_rules(session, delivery.source_id, delivery.id):
        if now - before > stops["rule_fall"]:
            says = f"with {delivery.file_name}, {now:.0%} of the records fail the rule '{words.get(rule, rule)}', {before:.0%} before"
            raise _HeldError(says, "rule")


def _recognise(
    sessions: SessionFactory,
    settings: Settings,
    at: _At,
    progress: Progress,
    directories: Directories,
    *,
    actor: str,
    despite: bool,
) -> None:
    if not at.recognises:
        return
    most = None if despite else at.stops["most_golden"]
    try:
        recognise_register(
            sessions,
            at.slug,
            progress,
            directories,
            actor=actor,
            kept=settings.kept,
            most_golden=most,
            of_turn=at.turn,
            made=settings.deliveries,
        )
    except TooManyChanges as error:
        raise _HeldError(str(error), "merge") from error


def _send_out(sessions: SessionFactory, settings: Settings, at: _At) -> list[str]:
    """Write tables into the register's folder of what goes out, each in place of the one before when it is whole."""
    sent = []
    for name in at.sends:
        folder = settings.outgoing / at.slug
        folder.mkdir(parents=True, exist_ok=True)
        table, _, ending = name.partition(".")
        beside = folder / f".{name}.part"
        try:
            with transaction(sessions) as session, beside.open("wb") as out:
                written = out_table(session, at.slug, table, EVERYTHING, ending)
                for chunk in table_chunks(ending, written.columns, written.rows, table):
                    out.write(chunk)
            beside.replace(Path(folder / name))
        finally:
            with suppress(OSError):
                beside.unlink(missing_ok=True)
        sent.append(name)
    return sent
