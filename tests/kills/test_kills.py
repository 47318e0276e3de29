"""Whatever is killed in the middle of a load, a run or a merge: nothing is lost or doubled, and the work goes on by itself."""

import csv
import io
import random
import time
from typing import Any

import pytest

from ..sizes import size
from .stand import HOME, Stand

pytestmark = pytest.mark.timeout(600)
TARGETS = ("worker", "web", "database process", "database server", "start command")
_ROWS = size(everyday=400, long=1000)
_WORDS = "Tern Skua Eider Gannet Puffin Fulmar Petrel Plover Dunlin Knot Curlew Whimbrel Ruff Godwit Turnstone Sanderling".split()


def delivery(number: int) -> bytes:
    """Return a delivery of made-up firms; about a tenth of them stands in the one before, a letter apart."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(["id", "firm", "street", "town", "phone"])
    for row in range(_ROWS):
        identity = number * _ROWS + row - (_ROWS if row % 10 == 0 and number else 0)
        chance = random.Random(identity)
        name = f"{chance.choice(_WORDS)} {chance.choice(_WORDS)} {identity % 9973}"
        place = f"{chance.randrange(1, 200)} {chance.choice(_WORDS)} Street"
        writer.writerow(
            [f"{number}-{row}", name + ("s" if row % 20 == 0 else ""), place, "Oban", f"01632 96{identity % 10_000:04}"]
        )
    return text.getvalue().encode()


@pytest.mark.parametrize("half", size(everyday=[0], long=[0, 1]))
def test_nothing_is_lost_or_doubled_whatever_is_killed(stand: Stand, half: int) -> None:
    """At the long size everything is killed in every job; every day each is killed once, in one job or another."""
    chance = random.Random(half)
    stand.ask("POST", "/api/registers", json={"name": "Chandlers", "kind": "organisation"})
    left = [target for target in TARGETS for _ in range(size(everyday=1, long=3))]
    number = 0
    while left:
        draft = stand.ask("POST", f"{HOME}/deliveries?file_name=part{number}.csv", content=delivery(number))["delivery"]
        # The same source delivers its next part: what it delivered before stays.
        load = {"mapping": draft["mapping"], "delivers": "changes"}
        job = stand.ask("POST", f"{HOME}/deliveries/{draft['id']}/load", json=load)
        assert killed_in(stand, job, left, chance)["result"]["new"] == _ROWS
        number += 1

        run = killed_in(stand, stand.ask("POST", f"{HOME}/runs"), left, chance)
        assert run["result"]["records"] == _ROWS * number
        *_, one, other = stand.ask("GET", f"{HOME}/records?limit={2 * number}")["records"]
        stand.ask(
            "POST", f"{HOME}/decisions", json={"left_id": one["id"], "right_id": other["id"], "verdict": "different"}
        )
        merge = stand.ask("POST", f"{HOME}/merge", json={"seen": stand.ask("GET", f"{HOME}/merge")["seen"]})
        killed_in(stand, merge, left, chance)
        again = stand.ask("GET", f"{HOME}/merge")
        assert [again[kind] for kind in ("made", "grown", "joined", "split", "records_added")] == [0] * 5

    [register] = stand.ask("GET", "/api/registers")
    assert register["counts"]["records"] == _ROWS * number
    assert len(stand.ask("GET", f"{HOME}/decisions")) == number
    stand.command("journal", "verify")
    stand.command("rebuild", "--check")


def killed_in(stand: Stand, job: dict[str, Any], left: list[str], chance: random.Random) -> dict[str, Any]:
    """Kill the next that is left somewhere in the middle of a job; return the job when it has ended well, by itself."""
    if left:
        time.sleep(chance.uniform(0.0, 0.9))
        stand.kill(left.pop(0))
    ended = stand.end_of(job)
    assert ended["status"] == "done", f"{ended['message']}\n{(stand.folder / 'odd-pair.log').read_text()[-4000:]}"
    return ended
