"""Sources that deliver without a person: each turn once and only once, and nothing harmful without somebody who looked."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import select

from oddpair.core.errors import Conflict, InputError, Refused
from oddpair.core.timetable import check_times, next_time, times_between, times_in_words
from oddpair.services.standing import schedules, take_turn
from oddpair.services.standing.schedules import Stops, Wished
from oddpair.services.tidy import quality
from oddpair.settings import Settings
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Delivery, GoldenRecord, Job, Turn

from .nights import HEAD, NOON, few, go_on, make_turn, rows, write


def golden(sessions: SessionFactory) -> int:
    with sessions() as session:
        return len(session.scalars(select(GoldenRecord.id)).all())


def test_a_night_takes_loads_recognises_merges_and_sends_out(
    sessions: SessionFactory, settings: Settings, till: Path
) -> None:
    write(
        till / "till-2026-11-27.csv",
        [*rows(phone="01632 961{n:03d}")[:3], *rows()[3:], ("t99", "Wombat Locks", "Inland", "", "")],
    )
    (till / "half.csv.part").write_text("id,company", encoding="utf-8")
    (till / "just-now.csv").write_text("id,company", encoding="utf-8")
    turn = make_turn(sessions, settings)
    assert (turn.state, turn.why, turn.missed) == ("done", "", 0)
    assert turn.ended_at is not None
    with sessions() as session:
        delivery = session.get_one(Delivery, turn.told["deliveries"][0])
        assert delivery.file_name == "till-2026-11-27.csv"
        assert {name: count for name, count in (delivery.outcomes or {}).items() if name != "at"} == {
            "added": 1, "updated": 3, "unchanged": 21
        }  # fmt: skip
    assert golden(sessions) == 25
    assert sorted(path.name for path in till.iterdir()) == ["half.csv.part", "just-now.csv"]
    sent = settings.outgoing / "customers"
    assert sorted(path.name for path in sent.iterdir()) == ["crosswalk.csv", "golden.csv"]
    assert "Wombat Locks" in (sent / "golden.csv").read_text(encoding="utf-8")
    # Nothing is there at the next turn, and none is due before it.
    with sessions.begin() as session:
        assert schedules.begin_due_turns(session, NOON + timedelta(hours=5)) == 0
    assert make_turn(sessions, settings, NOON + timedelta(days=1)).state == "nothing"


def other_columns(folder: Path) -> None:
    write(folder / "a.csv", [(*row[:4], row[0], "1") for row in rows()], (*HEAD[:4], "mail address", "colour"))


def set_aside(folder: Path) -> None:
    write(folder / "a.csv", [row if n > 4 else ("", *row[1:]) for n, row in enumerate(rows())])


def fallen(folder: Path) -> None:
    write(folder / "a.csv", rows(email=""))


def all_renamed(folder: Path) -> None:
    """Every second firm becomes the one before it."""
    given = rows()
    write(folder / "a.csv", [(f"t{n}", *given[n - n % 2][1:]) for n in range(len(given))])


@pytest.mark.parametrize(
    ("harm", "at", "why"),
    [
        (few, "rows", "a.csv has 9 rows, usually about 24"),
        (other_columns, "columns", "without email and with the new colour, mail address"),
        (set_aside, "rows", "of 24 rows of a.csv would be set aside"),
        (fallen, "rule", "100% of the records fail the rule"),
        (all_renamed, "merge", "golden records of 24 would change"),
    ],
)
def test_what_could_do_harm_is_held_until_somebody_says_so(
    harm: Callable[[Path], None], at: str, why: str, sessions: SessionFactory, settings: Settings, till: Path
) -> None:
    with sessions.begin() as session:
        quality.save_rules(session, "customers", [{"kind": "required", "field": "email"}], actor="ann")
    write(till / "0.csv", rows())
    with sessions.begin() as session:
        number = schedules.take_turn_now(session, "customers", "till", NOON, actor="ann").id
    assert go_on(sessions, settings, number).state == "done"
    before = golden(sessions)
    harm(till)
    turn = make_turn(sessions, settings)
    assert (turn.state, turn.held_at) == ("held", at)
    assert why in turn.why
    assert golden(sessions) == before
    with sessions() as session:
        delivery = session.get_one(Delivery, turn.delivery_id)
        assert delivery.status == ("loaded" if at == "merge" else "draft")
        [shown] = schedules.held_turns(session)
        assert (shown.slug, shown.source, shown.turn.id) == ("customers", "till", turn.id)
    # The next night waits for it, and tells that it was missed.
    with sessions.begin() as session:
        assert schedules.begin_due_turns(session, NOON + timedelta(days=2)) == 0
        with pytest.raises(Refused, match="held"):
            schedules.take_turn_now(session, "customers", "till", NOON, actor="ann")
    with sessions.begin() as session:
        schedules.let_through(session, turn.id, actor="ann")
        job = session.scalars(select(Job).where(Job.kind == "turn").order_by(Job.id.desc())).first()
        assert job is not None
        assert job.arguments["despite"] is True
    after = go_on(sessions, settings, turn.id, despite=True)
    assert (after.state, after.why) == ("done", "")
    assert after.missed >= 2
    with sessions() as session:
        assert session.get_one(Delivery, turn.delivery_id).status == "loaded"
        assert schedules.held_turns(session) == []


def test_a_held_turn_is_given_up_and_the_draft_stays(sessions: SessionFactory, settings: Settings, till: Path) -> None:
    few(till)
    turn = make_turn(sessions, settings)
    with sessions.begin() as session:
        schedules.give_up(session, turn.id, NOON, actor="ann")
    with sessions.begin() as session:
        assert session.get_one(Delivery, turn.delivery_id).status == "draft"
        with pytest.raises(Refused, match="given up"):
            schedules.let_through(session, turn.id, actor="ann")
    write(till / "b.csv", rows())
    assert make_turn(sessions, settings, NOON + timedelta(days=1)).state == "done"


@pytest.mark.parametrize("step", ["_load", "_recognise", "_send_out"])
def test_a_turn_that_breaks_off_goes_on_where_it_stopped(
    step: str, sessions: SessionFactory, settings: Settings, till: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    write(till / "a.csv", [*rows(), ("t99", "Wombat Locks", "Inland", "", "")])
    write(
        till / "b.csv", [*rows(), ("t98", "Quokka Hire", "Inland", "", ""), ("t99", "Wombat Locks", "Inland", "", "")]
    )

    class KilledError(BaseException):
        pass

    def killed(*_: Any, **__: Any) -> None:
        raise KilledError

    monkeypatch.setattr(take_turn, step, killed)
    with pytest.raises(KilledError):
        make_turn(sessions, settings)
    monkeypatch.undo()
    with sessions() as session:
        number = session.scalars(select(Turn.id).order_by(Turn.id.desc())).first() or 0
    turn = go_on(sessions, settings, number)
    assert (turn.state, len(turn.told["deliveries"])) == ("done", 2)
    sent = (settings.outgoing / "customers" / "golden.csv").read_text(encoding="utf-8-sig").splitlines()
    assert len(sent) == 1 + 26
    with sessions() as session:
        brought = session.scalars(select(Delivery).where(Delivery.status == "loaded").order_by(Delivery.id)).all()
        assert [delivery.file_name for delivery in brought] == ["till.csv", "a.csv", "b.csv"]
        assert not session.scalars(select(Delivery).where(Delivery.status == "draft")).all()
    assert golden(sessions) == 26
    assert list(till.iterdir()) == []


def test_what_is_asked_of_a_schedule_is_checked(sessions: SessionFactory, settings: Settings, till: Path) -> None:
    def change(wished: Wished, seen: int = 1) -> None:
        with sessions.begin() as session:
            schedules.set_schedule(session, "customers", "till", wished, NOON, actor="ann", seen_version=seen)

    for times in ("", "every night", "61 * * * *", "0 0 31 2 *", "* * * *"):
        with pytest.raises(InputError, match="says no times"):
            change(Wished(times, "folder"))
    with pytest.raises(Refused, match="no query to ask"):
        change(Wished("0 12 * * *", "query"))
    with pytest.raises(Refused, match="cannot be sent out"):
        change(Wished("0 12 * * *", "folder", sends=("secrets.csv",)))
    with pytest.raises(Conflict):
        change(Wished("0 12 * * *", "folder"), seen=7)
    change(Wished("0 12 * * *", "folder", stops=Stops(least_rows=0.1), on=False))
    with sessions.begin() as session:
        assert schedules.begin_due_turns(session, NOON + timedelta(days=9)) == 0
        [(schedule, name)] = schedules.schedules(session, "customers")
        assert (name, schedule.on, schedule.next_at, schedule.stops["least_rows"]) == ("till", False, None, 0.1)


def test_times_are_told_in_words_and_missed_ones_counted() -> None:
    assert check_times("  30  2 * * * ") == "30 2 * * *"
    assert times_in_words("30 2 * * *") == "At 02:30 every day"
    assert next_time("30 2 * * *", NOON) == datetime(2026, 11, 28, 2, 30, tzinfo=UTC)
    assert times_between("0 * * * *", NOON, NOON + timedelta(hours=7)) == 7
    assert times_between("* * * * *", NOON, NOON + timedelta(days=30)) == 1000


def test_a_turn_that_nobody_works_at_has_failed_and_the_next_one_is_made(
    sessions: SessionFactory, settings: Settings, till: Path
) -> None:
    with sessions.begin() as session:
        schedules.take_turn_now(session, "customers", "till", NOON, actor="ann")
    with sessions.begin() as session:
        [job] = session.scalars(select(Job).where(Job.kind == "turn")).all()
        job.status = "failed"
    write(till / "a.csv", rows())
    assert make_turn(sessions, settings).state == "done"
    with sessions() as session:
        states = [(shown.turn.state, shown.turn.why) for shown in schedules.turns(session, "customers", 10)]
    assert states == [("done", ""), ("failed", "It broke off, and nobody went on with it.")]


def test_a_folder_that_cannot_be_written_to_is_told(sessions: SessionFactory, settings: Settings, till: Path) -> None:
    write(till / "a.csv", rows())
    settings.outgoing.write_text("a file where a folder should be", encoding="utf-8")
    turn = make_turn(sessions, settings)
    assert turn.state == "failed"
    assert "outgoing" in turn.why
    assert turn.told["deliveries"]
