"""A disk that fills up: work stops with a clear word while there still is a little room, and nothing is half-written."""

import shutil

import pytest

from oddpair.services.journal.entries import verify
from oddpair.services.state.rebuild import rebuild

from .conftest import WorkingClient

HOME = "/api/registers/firms"
_FULL = "The disk that holds the data is full"


class Disk:
    """A disk whose room a test sets; it is looked at by whoever works."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.looks, self.full_after = 0, 1_000_000
        monkeypatch.setattr(shutil, "disk_usage", self.usage)

    def usage(self, _: object) -> object:
        self.looks += 1
        return type("Usage", (), {"free": 0 if self.looks > self.full_after else 10**12})()

    def fills_up(self, *, after: int = 0) -> None:
        self.full_after = self.looks + after

    def has_room(self) -> None:
        self.full_after = self.looks + 1_000_000


@pytest.fixture
def disk(monkeypatch: pytest.MonkeyPatch) -> Disk:
    return Disk(monkeypatch)


def delivery(number: int) -> bytes:
    rows = "".join(f"{number}-{row},Tern {row} Ropes,Oban,01632 960{row:03}\n" for row in range(200))
    return f"id,firm,town,phone\n{rows}".encode()


def state_of(client: WorkingClient) -> tuple[object, ...]:
    return client.get(f"{HOME}").json()["counts"], client.get(f"{HOME}/golden").json()["total"]


def is_whole(client: WorkingClient) -> None:
    with client.sessions() as session:
        assert rebuild(session, "firms").problems == []
        session.rollback()
        assert all(not chain.problems for chain in verify(session))


def test_work_stops_with_a_word_and_goes_on_when_there_is_room_again(client: WorkingClient, disk: Disk) -> None:
    client.post("/api/registers", json={"name": "Firms", "kind": "organisation"})
    drafts = [
        client.post(f"{HOME}/deliveries?file_name=part{number}.csv", content=delivery(number)).json()["delivery"]
        for number in (1, 2)
    ]

    def load(draft: dict) -> dict:
        body = {"mapping": draft["mapping"], "delivers": "changes"}
        return client.post(f"{HOME}/deliveries/{draft['id']}/load", json=body).json()

    asks = [
        lambda: load(drafts[0]),
        lambda: load(drafts[1]),
        lambda: client.post(f"{HOME}/runs").json(),
        lambda: client.post(f"{HOME}/merge", json={"seen": client.get(f"{HOME}/merge").json()["seen"]}).json(),
        lambda: client.post(f"{HOME}/deliveries/{drafts[1]['id']}/take-back").json(),
    ]
    for place, ask in enumerate(asks):
        before = state_of(client)
        for after in (0, 1, 2):
            disk.fills_up(after=after)
            ended = client.get(f"/api/jobs/{ask()['id']}").json()
            disk.has_room()
            assert ended["status"] == "failed", (place, after, ended)
            assert ended["message"].startswith(_FULL)
            # A merge keeps the parts that were done; here it had not begun one.
            assert state_of(client) == before
        assert client.get(f"/api/jobs/{ask()['id']}").json()["status"] == "done"
    is_whole(client)


def test_a_file_that_finds_no_room_leaves_nothing_and_decisions_are_still_kept(
    client: WorkingClient, disk: Disk
) -> None:
    client.post("/api/registers", json={"name": "Firms", "kind": "organisation"})
    draft = client.post(f"{HOME}/deliveries?file_name=part.csv", content=delivery(1)).json()["delivery"]
    client.post(f"{HOME}/deliveries/{draft['id']}/load", json={"mapping": draft["mapping"], "delivers": "full"})
    files = set(client.settings.deliveries.iterdir())
    disk.fills_up()
    answer = client.post(f"{HOME}/deliveries?file_name=more.csv", content=delivery(2))
    assert answer.status_code == 507
    assert answer.json()["detail"].startswith(_FULL)
    assert set(client.settings.deliveries.iterdir()) == files
    one, other = (record["id"] for record in client.get(f"{HOME}/records?limit=2").json()["records"])
    assert client.post(f"{HOME}/decisions", json={"left_id": one, "right_id": other, "verdict": "same"}).is_success
    is_whole(client)
