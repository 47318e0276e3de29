"""A process that is killed after its work is done, and before it could say so: the work is neither done again nor refused."""

import pytest

from oddpair.core.errors import Unavailable
from oddpair.jobs import tasks

from .conftest import WorkingClient

HOME = "/api/registers/firms"
FILE = b"id,firm,town,phone\n1,Tern Ropes,Oban,01632 960001\n2,Tern Ropes Ltd,Oban,01632 960001\n3,Skua Sails,Mull,01632 960002\n"


@pytest.fixture
def ended_unsaid(client: WorkingClient, monkeypatch: pytest.MonkeyPatch) -> WorkingClient:
    """A client whose work is cut off before its end is noted."""
    monkeypatch.setattr(tasks, "_note_end", lambda *_: None)
    return client


@pytest.fixture
def answer_lost(client: WorkingClient, monkeypatch: pytest.MonkeyPatch) -> WorkingClient:
    """A client whose work is committed by the database, which dies before it can say so."""
    outcome = tasks._outcome

    def lost(kind: str, arguments: tasks.Arguments, context: tasks.Context, job_id: int) -> tasks.Outcome:
        result = outcome(kind, arguments, context, job_id)
        return (tasks._AGAIN, str(Unavailable()), None) if result[0] == "done" else result

    monkeypatch.setattr(tasks, "_outcome", lost)
    return client


@pytest.mark.parametrize("cut", ["ended_unsaid", "answer_lost"])
def test_what_was_done_is_not_done_again(cut: str, request: pytest.FixtureRequest) -> None:
    client: WorkingClient = request.getfixturevalue(cut)
    client.post("/api/registers", json={"name": "Firms", "kind": "organisation"})
    draft = client.post(f"{HOME}/deliveries?file_name=firms.csv", content=FILE).json()["delivery"]
    delivery = f"{HOME}/deliveries/{draft['id']}"
    asked = [
        client.post(f"{delivery}/load", json={"mapping": draft["mapping"], "delivers": "full"}),
        client.post(f"{HOME}/runs"),
        client.post(f"{HOME}/merge", json={"seen": client.get(f"{HOME}/merge").json()["seen"]}),
        client.post(f"{delivery}/take-back"),
        client.post(f"{delivery}/put-back"),
    ]
    results = {}
    for answer in asked:
        assert answer.is_success, answer.text
        job = client.get(f"/api/jobs/{answer.json()['id']}").json()
        assert (job["status"], job["message"]) == ("done", ""), job
        results[job["kind"]] = job["result"]
    assert results["load"]["new"] == results["run"]["records"] == 3
    assert results["merge"]["made"] == 2

    kinds = [entry["kind"] for entry in client.get(f"{HOME}/journal").json()["entries"]]
    for kind in ("load", "run", "merge", "take back", "put back"):
        assert kinds.count(kind) == 1, kinds
