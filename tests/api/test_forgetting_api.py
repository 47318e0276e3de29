"""A person's data erased on request: nothing of it is left anywhere, everything else is as true as before."""

from typing import Any

from sqlalchemy import text

from oddpair.services.journal.entries import verify
from oddpair.services.state.rebuild import rebuild

from .a_person import HER, HOME, OTHERS, TRACES, deliver, key_of, merge, records_of, she_is_everywhere
from .conftest import WorkingClient, client_with

SIGNING = {"X-Actor": "Sunniva"}


known = client_with(she_is_everywhere)


def traces_in_database(client: WorkingClient) -> dict[str, str]:
    """Return table → a row in which something of her stands."""
    found = {}
    with client.sessions() as session:
        tables = session.scalars(text("SELECT tablename FROM pg_tables WHERE schemaname = 'public'")).all()
        for table in tables:
            for row in session.scalars(text(f'SELECT t::text FROM "{table}" t')):
                if any(trace in row.lower() for trace in TRACES):
                    found[table] = row
    return found


def traces_in_files(client: WorkingClient) -> list[str]:
    files = [file for file in client.settings.data.rglob("*") if file.is_file() and "postgres" not in file.parts]
    return [file.name for file in files if any(trace.encode() in file.read_bytes().lower() for trace in TRACES)]


def forgotten(client: WorkingClient, **whom: Any) -> None:
    asked = client.post(f"{HOME}/forgetting", json={"reason": "request 2026-11", **whom}, headers={"X-Actor": "Maren"})
    assert asked.status_code == 202, asked.text
    number = asked.headers["X-Waits-For-Sign-Off"]
    assert records_of(client), "nothing is erased before it is signed"
    assert client.post(f"/api/proposals/{number}/sign", json={}, headers={"X-Actor": "Maren"}).status_code == 403
    signed = client.post(f"/api/proposals/{number}/sign", json={}, headers=SIGNING)
    assert signed.json()["state"] == "carried out", signed.text
    job = client.get("/api/jobs").json()["jobs"][0]
    assert (job["kind"], job["status"]) == ("forget", "done"), job["message"]


def is_true(client: WorkingClient) -> None:
    with client.sessions() as session:
        assert all(not chain.problems for chain in verify(session))
        assert rebuild(session, "boat-owners").problems == []


def test_nothing_of_a_person_is_left_anywhere(known: WorkingClient) -> None:
    before = set(traces_in_database(known))
    assert {"source_records", "record_versions", "golden_records", "golden_versions", "journal", "rejected_rows", "pins", "decisions",
            "record_words", "golden_words"} <= before  # fmt: skip
    assert len(traces_in_files(known)) >= 2
    kept = known.get(f"{HOME}/forgetting", params={"key": key_of(known)}).json()
    places = {one["what"]: one["count"] for one in kept["places"]}
    assert len(kept["records"]) == 2
    assert places["rejected rows"] == 1
    assert places["pins"] == 1
    assert places["entries of the journal"] >= 2
    assert {file["what"] for file in kept["files"]} == {"delivery of till", "delivery of webshop"}
    golden = known.get(f"{HOME}/golden").json()["total"]
    forgotten(known, key=key_of(known))
    assert traces_in_database(known) == {}
    assert traces_in_files(known) == []
    assert known.get(f"{HOME}/golden").json()["total"] == golden - 1
    is_true(known)
    # The journal says that something stood there, and why it went.
    entries = known.get(f"{HOME}/journal").json()["entries"]
    assert "Erased what was kept of a person: 2 records" in [one["summary"] for one in entries]


def test_she_is_not_brought_in_again_and_the_file_is_not_kept(known: WorkingClient) -> None:
    forgotten(known, key=key_of(known))
    again = deliver(known, "till", [*OTHERS, HER])
    assert again["counts"]["erased"] == 1
    assert (again["counts"]["new"], again["counts"]["unchanged"]) == (0, len(OTHERS))
    assert traces_in_database(known) == {}
    assert traces_in_files(known) == []
    is_true(known)
    for delivery in known.get(f"{HOME}/deliveries").json():
        known.post(f"{HOME}/deliveries/{delivery['id']}/take-back")
        known.post(f"{HOME}/deliveries/{delivery['id']}/put-back")
    assert records_of(known) == []
    is_true(known)


def test_one_of_several_in_a_golden_record_goes_alone(known: WorkingClient) -> None:
    her, hers = records_of(known)
    key = key_of(known)
    other = known.get(f"{HOME}/golden", params={"search": "Solberg"}).json()["golden"][0]["key"]
    member = known.get(f"{HOME}/golden/{other}").json()["members"][0]["id"]
    for record in (her, hers):
        said = {"left_id": member, "right_id": record, "verdict": "same", "seen_decision": None}
        assert known.post(f"{HOME}/decisions", json=said).status_code == 201
    merge(known)
    forgotten(known, record_ids=[her, hers])
    assert traces_in_database(known) == {}
    left = known.get(f"{HOME}/golden/{key}").json()
    assert member in [one["id"] for one in left["members"]]
    assert left["values"]["name.family"] == "Solberg"
    is_true(known)


def test_whom_to_forget_is_named_with_a_reason(known: WorkingClient) -> None:
    nobody = known.post(f"{HOME}/forgetting", json={"reason": "x"})
    assert (nobody.status_code, "Name 1 to" in nobody.text) == (422, True)
    blank = known.post(f"{HOME}/forgetting", json={"reason": " ", "key": key_of(known)})
    assert (blank.status_code, "needs a reason" in blank.text) == (422, True)
    assert known.get(f"{HOME}/forgetting", params={"record_ids": [10**9]}).status_code == 404
