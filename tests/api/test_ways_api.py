"""The ways to match beside the standing run, over the API: trials, counterpart lists."""

import csv
import io

import pytest

from .conftest import WorkingClient

ROWS = "id,company,town,phone\n" + "".join(
    f"{n},{name},{town},01632 9600{n:02d}\n"
    for n, (name, town) in enumerate(
        [
            ("Tern Boatyard", "Oban"),
            ("Skua Rope Works", "Whitby"),
            *((f"Bystander{k} Works{k}", f"Town{k}") for k in range(30)),
        ]
    )
)
ASKED = "nr,who,town,seat\n1,TERN BOATYARD LTD,Oban,12\n2,Skua Rope Works,Whitby,13\n3,Unknown Glass,Leith,14\n4,,,15\n"
HOME = "/api/registers/customers"
MAPPING = [
    {"field": "id", "column": "nr"},
    {"field": "name", "column": "who"},
    {"field": "address.city", "column": "town"},
]


@pytest.fixture
def loaded(client: WorkingClient) -> WorkingClient:
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    draft = client.post(f"{HOME}/deliveries", params={"file_name": "till.csv"}, content=ROWS).json()
    client.post(f"{HOME}/deliveries/{draft['delivery']['id']}/load", json={"mapping": draft["delivery"]["mapping"]})
    client.post(f"{HOME}/runs")
    return client


def test_a_trial_is_listed_beside_the_standing_run_and_cleared_away(loaded: WorkingClient) -> None:
    plan = loaded.get(f"{HOME}/plan").json()
    two = (
        plan["yaml"]
        + "\npasses:\n  - title: strict\n    limits: {same: 30, unsure: 20}\n  - {title: rest, works_on: unmatched}\n"
    )
    job = loaded.post(f"{HOME}/trials", json={"title": "stricter", "yaml": two}).json()
    assert loaded.get(f"/api/jobs/{job['id']}").json()["status"] == "done"
    trial, standing = loaded.get(f"{HOME}/runs").json()
    assert (trial["purpose"], trial["title"], standing["purpose"]) == ("trial", "stricter", "standing")
    passes = trial["report"]["passes"]
    assert [one["title"] for one in passes] == ["strict", "rest"]
    for number, one in enumerate(passes, start=1):
        asked = {"run": trial["id"], "pass": number, "outcome": "left"}
        assert loaded.get(f"{HOME}/records", params=asked).json()["total"] == one["counts"]["left"]
    assert loaded.delete(f"{HOME}/runs/{standing['id']}").status_code == 422
    assert loaded.delete(f"{HOME}/runs/{trial['id']}").status_code == 204
    assert loaded.get(f"{HOME}/records", params=asked).status_code == 404
    wrong = loaded.post(f"{HOME}/trials", json={"yaml": "title: x"})
    assert wrong.status_code == 422


def test_a_file_is_looked_up_settled_by_hand_and_sent_out(loaded: WorkingClient) -> None:
    made = loaded.post(f"{HOME}/counterparts", params={"name": "Guests", "file_name": "guests.csv"}, content=ASKED)
    assert made.status_code == 201
    assert (
        loaded.post(f"{HOME}/counterparts", params={"name": "Guests", "file_name": "g.csv"}, content=ASKED).status_code
        == 409
    )
    base = f"{HOME}/counterparts/Guests"
    assert loaded.get(f"{base}/table.csv").status_code == 422
    known = made.json()
    changed = loaded.put(base, json={"settings": {**known["settings"], "keep": ["phone"]}, "mapping": MAPPING})
    assert changed.status_code == 200, changed.text
    assert loaded.put(base, json={"settings": {"keep": ["fone"]}, "mapping": MAPPING}).status_code == 422
    loaded.post(f"{base}/run")
    assert loaded.get(base).json()["counts"] == {"matched": 2, "several": 0, "unsure": 0, "none": 1, "rejected": 1}
    [none] = loaded.get(f"{base}/rows", params={"outcome": "none"}).json()["rows"]
    record = loaded.get(f"{HOME}/records", params={"search": "bystander3"}).json()["records"][0]
    said = {"key": none["key"], "verdict": "confirmed", "record_id": record["id"]}
    assert loaded.post(f"{base}/rows", json=said).json()[0]["outcome"] == "matched"
    assert loaded.post(f"{base}/rows", json={**said, "key": "no such row"}).status_code == 404
    lines = list(csv.DictReader(io.StringIO(loaded.get(f"{base}/table.csv").text)))
    assert [line["counterpart_outcome"] for line in lines] == ["matched", "matched", "matched", "rejected"]
    assert [line["seat"] for line in lines] == ["12", "13", "14", "15"]
    assert lines[0]["counterpart_phone"]
    assert loaded.delete(f"{base}/rows", params={"key": none["key"]}).json()[0]["outcome"] == "none"
    for form in ("xlsx", "jsonl", "parquet"):
        assert loaded.get(f"{base}/table.{form}").status_code == 200
    newer = loaded.put(
        f"{base}/file", params={"file_name": "newer.csv"}, content=ASKED + "5,Skua Rope Works,Whitby,16\n"
    )
    assert newer.json()["counts"] is None
    loaded.post(f"{base}/run")
    assert loaded.get(base).json()["counts"]["matched"] == 3
    assert loaded.get(f"{base}/unmatched-golden").json()["rows"] == []
    assert loaded.delete(base).status_code == 204
    assert loaded.get(f"{HOME}/counterparts").json() == []


def test_a_list_follows_its_register(loaded: WorkingClient) -> None:
    made = loaded.post(
        f"{HOME}/counterparts", params={"name": "Guests", "file_name": "guests.csv"}, content=ASKED
    ).json()
    base = f"{HOME}/counterparts/Guests"
    loaded.put(base, json={"settings": made["settings"], "mapping": MAPPING, "follows": True})
    loaded.post(f"{base}/run")
    before = loaded.get(base).json()
    more = "id,company,town,phone\n900,Unknown Glass,Leith,01632 960900\n"
    draft = loaded.post(f"{HOME}/deliveries", params={"file_name": "web.csv"}, content=more).json()
    loaded.post(f"{HOME}/deliveries/{draft['delivery']['id']}/load", json={"mapping": draft["delivery"]["mapping"]})
    after = loaded.get(base).json()
    assert after["counts"]["none"] < before["counts"]["none"]
    assert not after["stale"]
