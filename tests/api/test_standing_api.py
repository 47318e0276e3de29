"""Recognition over the API: switched on, deliveries find their place by themselves, and every count opens its records."""

import csv
import io

from .conftest import WorkingClient, client_with, state_by_requests

HOME = "/api/registers/customers"
HEAD = ["id", "company", "town", "phone", "email"]
FIRMS = [(f"Firm{n} Chandlery{n}", f"Town{n % 9}", f"01632 960{n:03d}", f"info@firm{n}.example") for n in range(60)]


def rows(prefix: str, firms: list[tuple[str, str, str, str]]) -> bytes:
    out = io.StringIO()
    csv.writer(out).writerows([HEAD, *([f"{prefix}{n}", *firm] for n, firm in enumerate(firms))])
    return out.getvalue().encode()


def deliver(client: WorkingClient, name: str, content: bytes, delivers: str = "full") -> int:
    draft = client.post(f"{HOME}/deliveries", params={"file_name": name}, content=content).json()["delivery"]
    asked = {"mapping": draft["mapping"], "delivers": delivers}
    assert client.post(f"{HOME}/deliveries/{draft['id']}/load", json=asked).status_code == 202
    return int(draft["id"])


@state_by_requests()
def sixty_firms_recognised(client: WorkingClient) -> None:
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    deliver(client, "till.csv", rows("t", FIRMS))
    before = client.get(f"{HOME}/recognition").json()
    assert before == {
        "on": False,
        "hindrance": "nothing was matched yet",
        "changed": 60,
        "learned_from": 0,
        "learned_at": None,
        "only_field": "",
        "only_values": [],
        "parents": "tell",
        "parent_field": "",
    }
    after = client.put(f"{HOME}/recognition", json={"on": True}).json()
    assert after["on"]


standing = client_with(sixty_firms_recognised)


def test_switched_on_a_register_matches_and_merges_by_itself(standing: WorkingClient) -> None:
    register = standing.get(HOME).json()
    assert register["counts"]["golden"] == 60
    assert register["counts"]["records_without_golden"] == 0
    recognition = standing.get(f"{HOME}/recognition").json()
    assert (recognition["hindrance"], recognition["changed"], recognition["learned_from"]) == ("", 0, 60)
    spoilt = [(name.upper(), town, phone, email) for name, town, phone, email in FIRMS[:20]]
    names = ("Kestrel Rope Walk", "Marram Sail Loft", "Tern Paints", "Skua Engines", "Eider Charts")
    strangers = [(name, f"Port{n}", f"01632 96{n}777", f"s@{name[:4]}.example") for n, name in enumerate(names)]
    number = deliver(standing, "webshop.csv", rows("w", spoilt + strangers))
    told = standing.get(f"{HOME}/deliveries/{number}/outcomes").json()
    assert told == {
        "source": "webshop",
        "file_name": "webshop.csv",
        "counts": {"added": 5, "recognised": 20},
        "fields": {},
    }
    [listed] = [item for item in standing.get(f"{HOME}/deliveries").json() if item["id"] == number]
    assert listed["outcomes"] == {"added": 5, "recognised": 20}
    page = standing.get(f"{HOME}/deliveries/{number}/outcomes/recognised", params={"limit": 12}).json()
    rest = standing.get(f"{HOME}/deliveries/{number}/outcomes/recognised", params={"after": page[-1]["id"]}).json()
    assert sorted(item["source_key"] for item in page + rest) == sorted(f"w{n}" for n in range(20))
    assert all(item["golden_key"].startswith("CU") for item in page + rest)
    assert standing.get(HOME).json()["counts"]["golden"] == 65
    assert standing.get(HOME).json()["run_due"] == []


def test_a_later_delivery_tells_which_fields_changed_and_what_ended(standing: WorkingClient) -> None:
    changed = [
        (name, town, "01632 962000" if n < 3 else phone, email)
        for n, (name, town, phone, email) in enumerate(FIRMS[:50])
    ]
    draft = standing.post(f"{HOME}/deliveries", params={"file_name": "till.csv"}, content=rows("t", changed)).json()
    number = draft["delivery"]["id"]
    asked = {"mapping": draft["delivery"]["mapping"], "delivers": "full", "gone": "end"}
    standing.post(f"{HOME}/deliveries/{number}/load", json=asked)
    told = standing.get(f"{HOME}/deliveries/{number}/outcomes").json()
    assert told["counts"] == {"ended": 10, "unchanged": 47, "updated": 3}
    assert told["fields"] == {"phone": 3}
    [first, *_] = standing.get(f"{HOME}/deliveries/{number}/outcomes/updated").json()
    assert first["changed"] == ["phone"]
    golden = standing.get(f"{HOME}/golden/{first['golden_key']}").json()
    assert "962000" in str(golden)


def test_what_cannot_be_told_is_refused(standing: WorkingClient) -> None:
    assert standing.get(f"{HOME}/deliveries/999/outcomes").status_code == 404
    [first] = standing.get(f"{HOME}/deliveries").json()
    # Brought in before anybody recognised anything.
    assert first["outcomes"] is None
    assert standing.get(f"{HOME}/deliveries/{first['id']}/outcomes").status_code == 404
    assert standing.get(f"{HOME}/deliveries/{first['id']}/outcomes/mislaid").status_code == 422
    assert standing.post(f"{HOME}/recognition").status_code == 202
    assert standing.put(f"{HOME}/recognition", json={"on": False}).json()["on"] is False
    number = deliver(standing, "webshop.csv", rows("w", FIRMS[:4]))
    assert [item["outcomes"] for item in standing.get(f"{HOME}/deliveries").json() if item["id"] == number] == [None]


def test_which_golden_records_are_recognised_and_what_becomes_of_orphans_is_set(standing: WorkingClient) -> None:
    asked = {"on": True, "only": {"field": "address.country", "values": ["GB", " "]}, "parents": "aside"}
    told = standing.put(f"{HOME}/recognition", json=asked).json()
    assert (told["only_field"], told["only_values"], told["parents"]) == ("address.country", ["GB"], "aside")
    assert standing.put(f"{HOME}/recognition", json={"on": True}).json() == told
    assert standing.put(f"{HOME}/recognition", json={"on": True, "parents": "none"}).status_code == 422
    assert standing.put(f"{HOME}/recognition", json={"on": True, "only": {"field": "colour"}}).status_code == 404
    cleared = standing.put(f"{HOME}/recognition", json={"on": True, "only": {}}).json()
    assert (cleared["only_field"], cleared["only_values"]) == ("", [])
