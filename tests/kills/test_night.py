"""A night in which sources deliver by themselves, killed anywhere: it ends once and only once, and nobody who is told misses anything."""

import csv
import os
import random
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import uvicorn

from oddpair.simulated.receiver import Heard, create_receiver

from ..sizes import size
from ..waiting import until
from .stand import HOME, Stand

pytestmark = pytest.mark.timeout(600)
#: What is not killed here every day is killed in the middle of other work.
TARGETS = size(
    everyday=("worker", "index"),
    long=("worker", "index", "web", "database process", "database server", "start command"),
)
WORDS = "Tern Skua Eider Gannet Puffin Fulmar Petrel Plover Dunlin Knot".split()
TRADES = "Ropes Sails Charts Engines Paints Locks Moorings Anchors Canvas Lamps".split()
ROWS = 300


def firms(night: int) -> list[list[str]]:
    """Return what the till delivers: all firms before, every tenth with another phone, and thirty new ones."""
    count = ROWS + 30 * night
    return [
        [f"t{n}", f"{WORDS[n % 10]} {TRADES[n // 10 % 10]} {n // 100}", f"Port{n % 40}", f"01632 96{n + (1000 * night if n % 10 == night else 0):04}"]
        for n in range(count)
    ]  # fmt: skip


def write(path: Path, night: int) -> None:
    with path.open("w", encoding="utf-8", newline="") as out:
        csv.writer(out).writerows([["id", "company", "town", "phone"], *firms(night)])
    os.utime(path, (time.time() - 60,) * 2)


@pytest.fixture
def told(stand: Stand) -> Iterator[Heard]:
    """What a receiver hears of the register."""
    stand.ask("POST", "/api/registers", json={"name": "Chandlers", "kind": "organisation"})
    # The address has to be known before its secret is: the receiver is made with it afterwards.
    server = uvicorn.Server(uvicorn.Config(_later, host="127.0.0.1", port=0, log_level="warning"))
    thread = threading.Thread(target=server.run)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    address = f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}/"
    made = stand.ask("POST", f"{HOME}/receivers", json={"address": address})
    _receiver.clear()
    _receiver.append(create_receiver(made["secret"]))
    yield _receiver[0].state.heard
    server.should_exit = True
    thread.join()


_receiver: list[Any] = []


async def _later(scope: Any, receive: Any, send: Any) -> None:
    if scope["type"] == "http":
        await _receiver[0](scope, receive, send)


def turns_of(stand: Stand) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = stand.ask("GET", f"{HOME}/turns")
    return found


def known_by(events: list[dict[str, Any]]) -> dict[str, int]:
    """Return what somebody knows who heard the events: keys in force, with how many records each holds."""
    known: dict[str, int] = {}
    for event in events:
        kind = event["type"].removeprefix("odd-pair.golden.")
        if kind in ("added", "split", "changed"):
            known[event["subject"]] = event["data"]["records"]
        elif kind in ("merged", "ended"):
            known.pop(event["subject"], None)
    return known


def test_a_night_ends_once_and_only_once_whatever_is_killed(stand: Stand, told: Heard, tmp_path: Path) -> None:
    chance = random.Random(7)
    write(tmp_path / "till.csv", 0)
    draft = stand.ask("POST", f"{HOME}/deliveries?file_name=till.csv", content=(tmp_path / "till.csv").read_bytes())
    load = {"mapping": draft["delivery"]["mapping"], "delivers": "full"}
    stand.ask("PUT", f"{HOME}/recognition", json={"on": True})
    stand.end_of(stand.ask("POST", f"{HOME}/deliveries/{draft['delivery']['id']}/load", json=load))
    schedule = {"times": "0 3 1 1 *", "takes": "folder", "sends": ["golden.csv"], "seen_version": 0}
    stand.ask("PUT", f"{HOME}/schedules/till", json=schedule)
    folder = stand.folder / "incoming" / "chandlers" / "till"
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o777)
    for night, target in enumerate(TARGETS, start=1):
        write(folder / f"night-{night}.csv", night)
        (folder / f"night-{night}.csv").chmod(0o666)
        stand.ask("POST", f"{HOME}/schedules/till/turns")
        time.sleep(chance.uniform(0.0, 1.5))
        stand.kill(target)
        until(lambda: turns_of(stand)[0]["state"] not in ("waiting", "running"), 120)
        turns = turns_of(stand)
        assert (turns[0]["state"], len(turns), len(turns[0]["deliveries"])) == ("done", night, 1), turns[0]
        assert list(folder.iterdir()) == []
    rows = stand.ask("GET", HOME)["counts"]
    assert rows["records"] == ROWS + 30 * len(TARGETS)
    assert rows["records_without_golden"] == 0
    loaded = [one for one in stand.ask("GET", f"{HOME}/deliveries") if one["status"] == "loaded"]
    assert len(loaded) == len(TARGETS) + 1
    sent = (stand.folder / "outgoing" / "chandlers" / "golden.csv").read_text(encoding="utf-8-sig").splitlines()
    assert len(sent) == rows["golden"] + 1
    # Whoever is told knows everything, in order; what came twice had the same id.
    feed: list[dict[str, Any]] = []
    after, more = 0, True
    while more:
        page = stand.ask("GET", f"{HOME}/events?after={after}&limit=1000")
        feed, after, more = feed + page["events"], page["after"], page["more"]
    until(lambda: len(told.events) >= len(feed), 90)
    assert list(told.events.values()) == feed
    assert (told.out_of_order, told.unsigned) == (0, 0)
    known = known_by(feed)
    assert len(known) == rows["golden"]
    assert sum(known.values()) == rows["records"]
    stand.command("journal", "verify")
    stand.command("rebuild", "--check")
