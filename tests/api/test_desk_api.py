"""The desk over the API: names beyond ASCII, views with a name, what is wrong with a request, the whole day of two people."""

from typing import Any
from urllib.parse import quote

import pytest

from .conftest import WorkingClient, client_with, state_by_requests

BASE = "/api/registers/customers"
ROWS = """id,company,street,town,country,phone
1,Skua Ropes Ltd,14 Harbour Street,Oban,GB,01631 960001
2,SKUA ROPES,,Oban,GB,
3,Skua Ropes Ltd,,Wick,GB,
4,Tern Sails,3 Quay Road,Wick,GB,01955 960002
5,Tern Sails,,Wick,GB,01955 960009
6,Kittiwake Paints,1 Long Road,Leith,GB,0131 960003
7,Kittiwake Paints,,Whitby,GB,
"""


@state_by_requests()
def some_doubts(client: WorkingClient) -> None:
    """A register with some doubts."""
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    draft = client.post(f"{BASE}/deliveries", params={"file_name": "till.csv"}, content=ROWS.encode()).json()
    delivery = draft["delivery"]
    client.post(f"{BASE}/deliveries/{delivery['id']}/load", json={"mapping": delivery["mapping"]})
    client.post(f"{BASE}/runs")
    assert client.get(f"{BASE}/review").json()["waiting"] > 1


desk = client_with(some_doubts)


def ids(client: WorkingClient) -> dict[str, int]:
    """The id of every record by the source's."""
    return {item["source_key"]: item["id"] for item in client.get(f"{BASE}/records").json()["records"]}


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "told"),
    [
        ("GET", f"{BASE}/review?order=loudest", None, 422, "order"),
        ("GET", f"{BASE}/review?sauce=1", None, 422, "sauce"),
        ("GET", f"{BASE}/review?source=nope", None, 404, "source"),
        ("GET", f"{BASE}/pairs/1/1", None, 404, "pair"),
        ("GET", f"{BASE}/pairs/1/99999/neighbours", None, 404, "pair"),
        ("GET", f"{BASE}/pairs/1/99999/context", None, 404, "record"),
        ("GET", f"{BASE}/pairs/1/99999/likes", None, 404, "pair in doubt"),
        ("GET", f"{BASE}/clusters", None, 422, "record"),
        ("GET", f"{BASE}/clusters?record=99999", None, 404, "record"),
        ("POST", f"{BASE}/clusters/golden", {"groups": [[99999]]}, 404, "record"),
        ("POST", f"{BASE}/clusters/golden", {"groups": [[]]}, 422, "groups"),
        ("POST", f"{BASE}/review/leases", {"doubts": [], "desk": "a"}, 422, "doubts"),
        ("POST", f"{BASE}/review/leases", {"doubts": [[1, 2]], "desk": ""}, 422, "desk"),
        ("POST", f"{BASE}/review/take-back", None, 422, "no decision of yours"),
        ("POST", f"{BASE}/group-decisions", {"sides": [[1]], "verdict": "same"}, 422, "2 to"),
        ("POST", f"{BASE}/group-decisions", {"sides": [[1, 2]], "verdict": "unsure"}, 422, "verdict"),
        (
            "POST",
            f"{BASE}/decisions",
            {"left_id": 1, "right_id": 2, "verdict": "same", "until": "2030-01-01"},
            422,
            "later",
        ),
        (
            "POST",
            f"{BASE}/decisions",
            {"left_id": 1, "right_id": 2, "verdict": "later", "until": "2001-01-01"},
            422,
            "to come",
        ),
        ("POST", f"{BASE}/second-looks", {"left_id": 1, "right_id": 2, "verdict": "same"}, 404, "decided pair"),
        ("POST", "/api/decisions/many/1/withdraw", None, 404, "decided many"),
        ("POST", "/api/group-decisions/1/withdraw", None, 404, "group"),
        ("PUT", f"{BASE}/queue-views/%20", {}, 422, "needs a name"),
        ("PUT", f"{BASE}/queue-views/x", {"sauce": 1}, 422, "sauce"),
        ("PUT", f"{BASE}/value-field", {"field": "phone"}, 422, "no numbers"),
    ],
)
def test_what_is_wrong_is_told_and_nothing_changes(
    desk: WorkingClient, method: str, path: str, body: dict[str, Any] | None, status: int, told: str
) -> None:
    before = desk.get(f"{BASE}/review").json(), desk.get(f"{BASE}/decisions").json(), desk.get(f"{BASE}/journal").json()
    answer = desk.request(method, path, json=body) if body is not None else desk.request(method, path)
    assert answer.status_code == status, answer.text
    assert told in answer.text
    after = desk.get(f"{BASE}/review").json(), desk.get(f"{BASE}/decisions").json(), desk.get(f"{BASE}/journal").json()
    assert after == before


@pytest.mark.parametrize("name", ["Zoë Ærø", "山田", "a b%20c", "ann"])
def test_what_is_done_is_kept_under_any_name(desk: WorkingClient, name: str) -> None:
    doubt = desk.get(f"{BASE}/review?what=pair").json()["doubts"][0]
    body = {"left_id": doubt["left_id"], "right_id": doubt["right_id"], "verdict": "different"}
    made = desk.post(f"{BASE}/decisions", json=body, headers={"X-Actor": quote(name)})
    assert made.json()["actor"] == name
    assert name in desk.get(f"{BASE}/review/people").json()
    mine = {"X-Actor": quote(name)}
    progress = desk.get(f"{BASE}/review/progress", headers=mine).json()
    assert (progress["different"], progress["same"]) == (1, 0)
    assert desk.post(f"{BASE}/review/take-back").status_code == 422
    assert desk.post(f"{BASE}/review/take-back", headers=mine).json()["what"] == "pair"
    assert desk.get(f"{BASE}/review/progress", headers=mine).json()["different"] == 0


def test_a_view_of_the_queue_is_kept_replaced_and_removed(desk: WorkingClient) -> None:
    content = {"order": "age", "kind": "name=equal|", "what": "pair"}
    assert (
        desk.put(f"{BASE}/queue-views/Mine", json=content).json()["content"] | content
        == desk.get(f"{BASE}/queue-views").json()[0]["content"]
    )
    desk.put(f"{BASE}/queue-views/Mine", json={"order": "score"})
    [view] = desk.get(f"{BASE}/queue-views").json()
    assert (view["content"]["order"], view["content"]["kind"]) == ("score", "")
    # Views of the list of golden records are something else.
    assert desk.get(f"{BASE}/views").json() == []
    assert desk.delete(f"{BASE}/queue-views/Mine").status_code == 204
    assert desk.get(f"{BASE}/queue-views").json() == []


def test_two_people_share_a_desk_over_the_api(desk: WorkingClient) -> None:
    ann, bob = {"X-Actor": "ann"}, {"X-Actor": "bob"}
    first = desk.get(f"{BASE}/review?what=pair").json()["doubts"][0]
    ends = [first["left_id"], first["right_id"]]
    assert desk.post(f"{BASE}/review/leases", json={"doubts": [ends], "desk": "a"}, headers=ann).json() == []
    [taken] = desk.post(f"{BASE}/review/leases", json={"doubts": [ends], "desk": "b"}, headers=bob).json()
    assert taken["holder"] == "ann"
    body = {"left_id": ends[0], "right_id": ends[1], "verdict": "later", "asked": "bob", "remark": "yours?"}
    assert desk.post(f"{BASE}/decisions", json={**body, "desk": "b"}, headers=bob).status_code == 409
    assert desk.post(f"{BASE}/decisions", json={**body, "desk": "a"}, headers=ann).status_code == 201
    [asked] = desk.get("/api/today", headers=bob).json()["asked"]
    assert (asked["asked_by"], asked["remark"], asked["left_id"]) == ("ann", "yours?", ends[0])
    [listed] = desk.get(f"{BASE}/review?asked=bob").json()["doubts"]
    assert [listed["left_id"], listed["right_id"]] == ends
    assert desk.delete("/api/review/leases/a").status_code == 204


def test_records_are_put_together_by_hand_and_apart_again(desk: WorkingClient) -> None:
    known = ids(desk)
    far = sorted((known["4"], known["7"]))
    pair = desk.get(f"{BASE}/pairs/{far[0]}/{far[1]}").json()
    assert pair["lost_at"]
    assert pair["probability"] is None
    sides = [[known["4"], known["7"]]]
    group = desk.post(f"{BASE}/group-decisions", json={"sides": sides, "verdict": "same"}).json()
    assert group["contradicts"] == []
    answer = desk.post(f"{BASE}/decisions", json={"left_id": far[0], "right_id": far[1], "verdict": "different"}).json()
    assert answer["contradicts"] == []
    table = desk.get(f"{BASE}/clusters", params={"record": far}).json()
    assert {said["verdict"] for said in table["said"]} == {"same", "different"}
    assert [link["decided"] for link in table["links"]] == ["different"]
    assert desk.post(f"/api/group-decisions/{group['id']}/withdraw").json()["withdrawn_at"]
    one, both = desk.post(f"{BASE}/clusters/golden", json={"groups": [[known["4"]], far]}).json()
    assert one["address.line"] == both["address.line"] == "3 Quay Road"


def test_three_decisions_that_cannot_all_be_right_are_told_with_the_last(desk: WorkingClient) -> None:
    known = ids(desk)
    said = []
    for one, other, verdict in (("1", "2", "same"), ("2", "3", "same"), ("1", "3", "different")):
        left, right = sorted((known[one], known[other]))
        said.append(
            desk.post(f"{BASE}/decisions", json={"left_id": left, "right_id": right, "verdict": verdict}).json()
        )
    assert [len(one["contradicts"]) for one in said] == [0, 0, 1]
    [found] = desk.get(f"{BASE}/contradictions").json()
    assert found == said[2]["contradicts"][0]
    assert {link["id"] for link in found["chain"]} == {said[0]["id"], said[1]["id"]}
    desk.post(f"/api/decisions/{said[0]['id']}/withdraw")
    assert desk.get(f"{BASE}/contradictions").json() == []


def test_sixty_records_are_one_table_and_a_split_of_them_is_one_decision(client: WorkingClient) -> None:
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    rows = [f"{number},Skua Ropes Ltd,14 Harbour Street,Oban,GB,01631 960001" for number in range(60)]
    content = "\n".join(["id,company,street,town,country,phone", *rows])
    draft = client.post(f"{BASE}/deliveries", params={"file_name": "till.csv"}, content=content.encode()).json()
    delivery = draft["delivery"]
    client.post(f"{BASE}/deliveries/{delivery['id']}/load", json={"mapping": delivery["mapping"]})
    client.post(f"{BASE}/runs")
    known = ids(client)
    records = client.get(f"{BASE}/clusters/of/{known['0']}").json()
    assert sorted(records) == sorted(known.values())
    table = client.get(f"{BASE}/clusters", params={"record": records}).json()
    assert [len(group) for group in table["alike"]] == [60]
    assert sum(link["holds"] for link in table["links"]) == 59
    sides = [sorted(records)[:30], sorted(records)[30:]]
    group = client.post(
        f"{BASE}/group-decisions", json={"sides": sides, "verdict": "different", "remark": "two owners"}
    ).json()
    assert client.get(f"{BASE}/decisions").json() == []
    client.post(f"{BASE}/merge", json={"seen": client.get(f"{BASE}/merge").json()["seen"]})
    assert [line["records"] for line in client.get(f"{BASE}/golden").json()["golden"]] == [30, 30]
    client.post(f"{BASE}/runs")
    assert client.get(f"{BASE}/clusters/of/{sides[0][0]}").json() == sides[0]
    client.post(f"/api/group-decisions/{group['id']}/withdraw")
    client.post(f"{BASE}/runs")
    assert len(client.get(f"{BASE}/clusters/of/{sides[0][0]}").json()) == 60


def test_how_the_work_goes_is_told_over_some_days_of_a_time_zone(desk: WorkingClient) -> None:
    doubt = desk.get(f"{BASE}/review?what=pair").json()["doubts"][0]
    said = {
        "left_id": doubt["left_id"],
        "right_id": doubt["right_id"],
        "verdict": "later",
        "remark": "",
        "seen_decision": None,
    }
    assert desk.post(f"{BASE}/decisions", json=said | {"asked": "bob"}, headers={"X-Actor": "ann"}).status_code == 201
    told = desk.get(f"{BASE}/watch", params={"days": 7, "zone": "Europe/Oslo"}).json()
    assert [(one["actor"], one["same"], one["different"], one["later"]) for one in told["days"]] == [("ann", 0, 0, 1)]
    assert [(one["name"], one["waiting"], one["late"]) for one in told["asked"]] == [("bob", 1, 0)]
    assert told["agreement"] == {"pairs": 0, "equal": 0, "kappa": None, "margin": None}
    assert told["put_off"] == 1
    for wrong in ({"days": 0}, {"days": 91}, {"zone": "Odd/Pair"}, {"zone": "../../etc/passwd"}, {"zone": ""}):
        assert desk.get(f"{BASE}/watch", params=wrong).status_code == 422, wrong
