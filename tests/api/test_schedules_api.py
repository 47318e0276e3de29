"""Schedules over the API: made, taken, held, let through."""

import csv
import io
import os
import time
from typing import Any

from .conftest import WorkingClient, client_with, state_by_requests

HOME = "/api/registers/customers"
SCHEDULE = f"{HOME}/schedules/till"


def content(count: int) -> str:
    out = io.StringIO()
    rows = [(f"t{n}", f"Firm{n} Chandlery{n}", f"Town{n % 9}", f"01632 960{n:03d}") for n in range(count)]
    csv.writer(out).writerows([("id", "company", "town", "phone"), *rows])
    return out.getvalue()


@state_by_requests()
def till_recognised(client: WorkingClient) -> None:
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    draft = client.post(f"{HOME}/deliveries", params={"file_name": "till.csv"}, content=content(40)).json()["delivery"]
    client.post(f"{HOME}/deliveries/{draft['id']}/load", json={"mapping": draft["mapping"]})
    client.put(f"{HOME}/recognition", json={"on": True})


till = client_with(till_recognised)


def put_in(client: WorkingClient, name: str, count: int) -> None:
    folder = client.settings.incoming / "customers" / "till"
    folder.mkdir(parents=True, exist_ok=True)
    (folder / name).write_text(content(count), encoding="utf-8")
    settled = time.time() - 60
    os.utime(folder / name, (settled, settled))


def made(client: WorkingClient, **more: Any) -> dict[str, Any]:
    answer = client.put(SCHEDULE, json={"times": "30 2 * * *", "takes": "folder", **more})
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def test_a_schedule_is_made_and_its_turn_takes_what_there_is(till: WorkingClient) -> None:
    schedule = made(till, sends=["golden.csv"])
    assert (schedule["says"], schedule["folder"], schedule["version"]) == (
        "At 02:30 every day",
        "incoming/customers/till",
        1,
    )
    assert schedule["next_at"] is not None
    assert till.get(f"{HOME}/schedules").json() == [schedule]
    assert till.put(SCHEDULE, json={"times": "0 3 * * *", "takes": "folder"}).status_code == 409
    put_in(till, "night.csv", 44)
    assert till.post(f"{SCHEDULE}/turns").status_code == 202
    [turn] = till.get(f"{HOME}/turns").json()
    assert (turn["state"], turn["sent"], turn["missed"]) == ("done", ["golden.csv"], 0)
    told = till.get(f"{HOME}/deliveries/{turn['deliveries'][0]}/outcomes").json()
    assert (told["file_name"], told["counts"]["unchanged"]) == ("night.csv", 40)
    assert "Firm43" in (till.settings.outgoing / "customers" / "golden.csv").read_text(encoding="utf-8")


def test_a_held_turn_waits_under_what_waits_until_it_is_answered(till: WorkingClient) -> None:
    made(till)
    for number, answer in enumerate(("let-through", "give-up")):
        put_in(till, f"few{number}.csv", 6)
        till.post(f"{SCHEDULE}/turns")
        [held] = till.get("/api/turns/held").json()
        assert (held["state"], held["register_slug"], held["source"]) == ("held", "customers", "till")
        assert "6 rows, usually about" in held["why"]
        [waits] = till.get("/api/today").json()["held"]
        assert waits["id"] == held["id"]
        assert till.post(f"{SCHEDULE}/turns").status_code == 422
        assert till.post(f"/api/turns/{held['id']}/{answer}").status_code == 202
        assert till.get("/api/turns/held").json() == []
        assert till.post(f"/api/turns/{held['id']}/{answer}").status_code == 422
    states = [turn["state"] for turn in till.get(f"{HOME}/turns").json()]
    assert states == ["given up", "done"]


def test_wrong_schedules_are_told(till: WorkingClient) -> None:
    for body, status in (
        ({"times": "every night", "takes": "folder"}, 422), ({"times": "0 3 * * *", "takes": "mail"}, 422),
        ({"times": "0 3 * * *", "takes": "folder", "stops": {"least_rows": 7}}, 422),
        ({"times": "0 3 * * *", "takes": "folder", "sends": ["../secrets"]}, 422), ({"times": "0 3 * * *", "takes": "query"}, 422),
    ):  # fmt: skip
        assert till.put(SCHEDULE, json=body).status_code == status
    assert till.put(f"{HOME}/schedules/nobody", json={"times": "0 3 * * *", "takes": "folder"}).status_code == 404
    assert till.post(f"{HOME}/schedules/till/turns").status_code == 404
    assert till.post("/api/turns/999/let-through").status_code == 404
