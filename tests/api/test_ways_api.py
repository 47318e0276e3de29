"""The ways to match beside the standing run, over the API: trials, counterpart lists."""

import csv
import io

from .conftest import WorkingClient, client_with, state_by_requests

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


@state_by_requests()
def loaded_and_run(client: WorkingClient) -> None:
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    draft = client.post(f"{HOME}/deliveries", params={"file_name": "till.csv"}, content=ROWS).json()
    client.post(f"{HOME}/deliveries/{draft['delivery']['id']}/load", json={"mapping": draft["delivery"]["mapping"]})
    client.post(f"{HOME}/runs")


loaded = client_with(loaded_and_run)


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


STAFF = (
    "nr,full name,street,town,phone\n7,Ann Quayle,1 Quay Street,Leith,01632 960001\n8,Bo Eide,2 Quay Street,Leith,\n"
)


@state_by_requests(after=loaded_and_run)
def loaded_with_staff(loaded: WorkingClient) -> None:
    loaded.post("/api/registers", json={"name": "Staff", "kind": "person"})
    draft = loaded.post("/api/registers/staff/deliveries", params={"file_name": "payroll.csv"}, content=STAFF).json()
    loading = f"/api/registers/staff/deliveries/{draft['delivery']['id']}/load"
    loaded.post(loading, json={"mapping": draft["delivery"]["mapping"]})


with_staff = client_with(loaded_with_staff)


def test_findings_are_looked_for_decided_and_reported(with_staff: WorkingClient) -> None:
    made = with_staff.post(f"{HOME}/findings", json={"name": "Staff", "other": "staff"})
    assert made.status_code == 201, made.text
    base = f"{HOME}/findings/Staff"
    assert made.json()["counts"] is None
    assert with_staff.get(f"{base}/report.csv").status_code == 422
    assert with_staff.post(f"{HOME}/findings", json={"name": "Staff", "other": "staff"}).status_code == 409
    assert with_staff.post(f"{HOME}/findings", json={"name": "x", "other": "nowhere"}).status_code == 404
    with_staff.post(f"{base}/run")
    [found] = with_staff.get(f"{base}/rows").json()["rows"]
    assert [thing["title"] for thing in found["things"]] == ["phone"]
    assert (found["one"]["source_key"], found["other"]["source_key"]) == ("1", "7")
    for number, state, remark, status in (
        (1, "explained", "", 422), (2, "open", "", 404), (1, "perhaps", "", 422), (1, "explained", "a cousin", 200),
    ):  # fmt: skip
        said = with_staff.post(f"{base}/rows/{number}", json={"state": state, "remark": remark})
        assert said.status_code == status, said.text
    with_staff.post(f"{base}/run")
    assert with_staff.get(base).json()["counts"] == {"open": 0, "of interest": 0, "explained": 1, "not a finding": 0}
    lines = list(csv.DictReader(io.StringIO(with_staff.get(f"{base}/report.csv").text)))
    assert [(line["state"], line["reason"], line["Staff: name"]) for line in lines] == [
        ("explained", "a cousin", "Ann Quayle")
    ]
    assert with_staff.get(f"{base}/report.xlsx", params={"only": "open"}).status_code == 200
    assert with_staff.put(base, json={"yaml": "title: ["}).status_code == 422
    narrower = "title: x\nshared: [{title: street, using: address, one: address, other: address}]"
    assert with_staff.put(base, json={"yaml": narrower}).json()["plan"]["most_holders"] == 5
    with_staff.post(f"{base}/run")
    assert with_staff.get(f"{base}/rows").json()["rows"] == []
    assert with_staff.delete(base).status_code == 204
    assert with_staff.get(f"{HOME}/findings").json() == []


def test_a_bridge_is_read_counted_and_sent_out(loaded: WorkingClient) -> None:
    shop = "id,company,town,phone\nw1,TERN BOATYARD,Oban,01632 960000\nw2,Nobody's Foundry,Hull,\n"
    draft = loaded.post(f"{HOME}/deliveries", params={"file_name": "shop.csv"}, content=shop).json()
    loaded.post(f"{HOME}/deliveries/{draft['delivery']['id']}/load", json={"mapping": draft["delivery"]["mapping"]})
    loaded.post(f"{HOME}/runs")
    between = {"one": "shop", "other": "till"}
    assert loaded.get(f"{HOME}/bridge/counts", params=between).json() == {
        "known": 0, "several": 0, "proposed": 1, "in doubt": 0, "none": 1,
    }  # fmt: skip
    rows = loaded.get(f"{HOME}/bridge", params=between).json()["rows"]
    assert [(row["source_key"], row["partners"], row["state"]) for row in rows] == [
        ("w1", ["0"], "proposed"),
        ("w2", [], "none"),
    ]
    assert rows[0]["partner_names"] == ["Tern Boatyard"]
    only = loaded.get(f"{HOME}/bridge", params={**between, "state": "none"}).json()
    assert ([row["source_key"] for row in only["rows"]], only["behind"]) == (["w2"], "")
    left, right = sorted((rows[0]["record_id"], rows[0]["partner_ids"][0]))
    decision = {"left_id": left, "right_id": right, "verdict": "same"}
    assert loaded.post(f"{HOME}/decisions", json=decision).status_code == 201
    assert loaded.get(f"{HOME}/bridge", params={**between, "state": "known"}).json()["rows"][0]["source_key"] == "w1"
    lines = list(csv.DictReader(io.StringIO(loaded.get(f"{HOME}/bridge/table.csv", params=between).text)))
    assert lines[:2] == [
        {"shop id": "w1", "till id": "0", "state": "known", "golden_key": ""},
        {"shop id": "w2", "till id": "", "state": "none", "golden_key": ""},
    ]
    assert len([line for line in lines if not line["shop id"]]) == 31
    for wrong, status in (({"one": "shop", "other": "shop"}, 422), ({"one": "shop", "other": "moon"}, 404)):
        assert loaded.get(f"{HOME}/bridge", params=wrong).status_code == status
