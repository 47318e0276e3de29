"""The journal over HTTP: looked through, in full, taken along, checked; why two records are one; and who may see it."""

import csv
import io
import json
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import text

from oddpair.api.app import create_app
from oddpair.core.rights import Role

from .conftest import HOME, WorkingClient, client_with, fifty_firms, state_by_requests
from .signing_in import as_person


def merge(client: WorkingClient) -> None:
    seen = client.get(f"{HOME}/merge").json()["seen"]
    assert client.post(f"{HOME}/merge", json={"seen": seen}, headers={"X-Actor": "bob"}).status_code == 202


@state_by_requests(after=fifty_firms)
def merged_and_pinned(standing: WorkingClient) -> None:
    """A run, a merge, and a value pinned."""
    standing.post(f"{HOME}/runs")
    merge(standing)
    golden = standing.get(f"{HOME}/golden").json()["golden"][0]
    version = standing.get(f"{HOME}/golden/{golden['key']}").json()["version"]
    body = {"field": "phone", "value": "01632 960999", "reason": "the owner, called", "seen_version": version}
    assert (
        standing.post(f"{HOME}/golden/{golden['key']}/pins", json=body, headers={"X-Actor": "cleo"}).status_code == 201
    )


lived = client_with(merged_and_pinned)


def entries(client: WorkingClient, **query: Any) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = client.get(f"{HOME}/journal", params=query).json()["entries"]
    return found


def test_what_was_done_is_found_by_whom_what_and_which_words(lived: WorkingClient) -> None:
    choices = lived.get(f"{HOME}/journal/choices").json()
    assert {"bob", "cleo"} <= set(choices["people"])
    assert {"load", "run", "merge", "pin"} <= set(choices["kinds"])
    assert [one["kind"] for one in entries(lived, actor="bob")] == ["merge"]
    [pinned] = entries(lived, words="Owner, CALLED")
    full = lived.get(f"{HOME}/journal/entries/{pinned['id']}").json()
    assert full["values"]["value"] == "01632 960999"
    assert full["values"]["was"] != full["values"]["value"]
    assert len(full["golden"]) == 1
    about = entries(lived, golden_key=full["golden"][0])
    assert [one["kind"] for one in about] == ["pin", "merge"]
    [merged] = entries(lived, kind="merge")
    moved = lived.get(f"{HOME}/journal/entries/{merged['id']}").json()
    assert moved["moves"] == 50
    assert {one["source"] for one in moved["moved"]} == {"till"}


WRONG = [
    ("/journal?since=yesterday", 422), ("/journal?limit=0", 422), ("/journal?record=0", 422), ("/journal?golden_key=CU-99999", 404),
    ("/journal?since=2026-02-01T00:00:00Z&until=2026-01-01T00:00:00Z", 422), ("/journal/entries/999999", 404),
    ("/journal/table.exe", 422), ("/journal/table.csv?since=2026-01-01", 422), ("/why?left=1&right=1", 404),
    ("/why?left=1&right=999999", 404), ("/why?left=1", 422), ("/why?left=x&right=2", 422),
]  # fmt: skip


def test_what_is_wrong_is_told(lived: WorkingClient) -> None:
    for path, status in WRONG:
        answer = lived.get(HOME + path)
        assert (path, answer.status_code, "detail" in answer.json()) == (path, status, True)


def test_all_or_what_is_looked_for_is_taken_along_oldest_first(lived: WorkingClient) -> None:
    answer = lived.get(f"{HOME}/journal/table.csv")
    assert 'filename="journal-customers.csv"' in answer.headers["content-disposition"]
    rows = list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))
    assert [int(row["position"]) for row in rows] == list(range(1, len(rows) + 1))
    assert [row["hash"] for row in rows[::-1]] == [one["hash"] for one in entries(lived, limit=500)]
    lines = lived.get(f"{HOME}/journal/table.jsonl", params={"actor": "cleo"}).text.splitlines()
    [pinned] = [json.loads(line) for line in lines]
    assert pinned["by"] == "cleo"
    assert json.loads(pinned["values"])["reason"] == "the owner, called"


def test_the_chain_is_gone_through_in_the_background(lived: WorkingClient) -> None:
    def verified() -> dict[str, Any]:
        job = lived.post(f"{HOME}/journal/verification").json()
        result: dict[str, Any] = lived.get(f"/api/jobs/{job['id']}").json()["result"]
        return result

    found = verified()
    assert found == {"entries": len(entries(lived, limit=500)), "wrong": 0, "problems": []}
    with lived.sessions.begin() as session:
        session.execute(text("ALTER TABLE journal DISABLE TRIGGER USER"))
        session.execute(text("UPDATE journal SET data = '{}' WHERE kind = 'pin'"))
        session.execute(text("DELETE FROM journal WHERE kind = 'run'"))
        session.execute(text("ALTER TABLE journal ENABLE TRIGGER USER"))
    found = verified()
    assert found["wrong"] == 2
    assert "missing" in str(found["problems"]) or "does not follow" in str(found["problems"])


def test_why_two_records_are_one_or_not(lived: WorkingClient) -> None:
    records = lived.get(f"{HOME}/records").json()["records"]
    one, other = records[0]["id"], records[1]["id"]
    apart = lived.get(f"{HOME}/why", params={"left": one, "right": other}).json()
    assert (apart["are_one"], apart["path"]) == (False, [])
    assert apart["left_key"] != apart["right_key"]
    body = {
        "left_id": one,
        "right_id": other,
        "verdict": "same",
        "remark": "one yard, two names",
        "seen_decision": None,
    }
    assert lived.post(f"{HOME}/decisions", json=body, headers={"X-Actor": "bob"}).status_code == 201
    lived.post(f"{HOME}/runs")
    merge(lived)
    told = lived.get(f"{HOME}/why", params={"left": one, "right": other}).json()
    assert told["are_one"]
    assert "person decided" in told["path"][0]["says"]
    said = [(one["what"], one["actor"], one["reason"]) for one in told["happened"]]
    assert ("decided", "bob", "one yard, two names") in said
    assert [what for what, _, _ in said][:2] == ["delivered", "delivered"]


def test_a_clerk_sees_no_journal_and_what_all_share_is_seen_by_who_sees_all(lived: WorkingClient) -> None:
    clerk, steward, auditor = (
        as_person(lived.sessions, role, "customers") for role in (Role.CLERK, Role.STEWARD, Role.AUDITOR)
    )
    house = create_app(lived.settings.model_copy(update={"sign_in": True}), lived.sessions)
    with TestClient(house, base_url="http://127.0.0.1") as client:
        for headers, own in ((clerk, 403), (steward, 200), (auditor, 200)):
            assert client.get(f"{HOME}/journal", headers=headers).status_code == own
            assert client.get("/api/journal", headers=headers).status_code == 403
    told = lived.get("/api/journal").json()["entries"]
    assert {"person", "token"} <= {one["kind"] for one in told}
    assert "auditor in customers" in str(told)
