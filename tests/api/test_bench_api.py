"""The plan bench over HTTP, on the records of a made register."""

import time
from pathlib import Path

import pytest

from oddpair.demo import make_demo

from .conftest import WorkingClient, client_with, state_by_requests

HOME = "/api/registers/customers"
BENCH = f"{HOME}/bench"


@state_by_requests()
def small_demo_run(client: WorkingClient) -> None:
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    for file in make_demo(client.site.folder / "demo", scale=0.1, difficulty=2.0):
        if file.register != "Customers":
            continue
        path = file.path
        draft = client.post(f"{HOME}/deliveries", params={"file_name": path.name}, content=path.read_bytes()).json()[
            "delivery"
        ]
        client.post(f"{HOME}/deliveries/{draft['id']}/load", json={"mapping": draft["mapping"]})
    client.post(f"{HOME}/runs")


loaded = client_with(small_demo_run)


@pytest.fixture
def files(loaded: WorkingClient) -> list[Path]:
    """The files that were loaded."""
    folder = loaded.site.folder / "demo" / "customers"
    loaded.site.be_there()
    return sorted(path for path in folder.iterdir() if path.name != "truth.csv")


def settle(client: WorkingClient, yaml: str = "") -> None:
    """Settle a plan on the bench and wait until it is."""
    answer = client.post(f"{BENCH}/settled", json={"yaml": yaml})
    assert answer.status_code == 202, answer.text
    deadline = time.monotonic() + 60
    while (state := client.get(BENCH).json())["running"]:
        assert time.monotonic() < deadline, state
        time.sleep(0.02)
    assert not state["error"], state


def limited(yaml: str, same: float) -> str:
    assert "\n  same: 1.0\n" in yaml
    return yaml.replace("\n  same: 1.0\n", f"\n  same: {same}\n")


def test_the_bench_says_that_it_is_cold_warms_and_shows_what_a_plan_does(loaded: WorkingClient) -> None:
    plan = loaded.get(f"{HOME}/plan").json()["yaml"]
    cold = loaded.post(f"{BENCH}/tried", json={"yaml": plan})
    assert cold.status_code == 503
    assert "not warm" in cold.json()["detail"]
    settle(loaded)
    state = loaded.get(BENCH).json()
    assert state["warm"]
    assert state["pace_decisions"] == 0
    tried = loaded.post(f"{BENCH}/tried", json={"yaml": plan}).json()
    report = loaded.get(f"{HOME}/run").json()["report"]
    assert tried["records"] == report["records"]
    assert (tried["settled"]["same"], tried["settled"]["unsure"]) == (report["pairs_same"], report["pairs_unsure"])
    assert tried["settled"]["clusters"] == report["clusters"]
    assert (tried["gained"], tried["lost"], tried["settled"]["gained"], tried["settled"]["lost"]) == (0, 0, 0, 0)
    curve = tried["curve"]
    pairs = sum(curve["free"]) + sum(curve["capped"]) + curve["fixed_same"] + curve["fixed_unsure"]
    assert pairs + curve["fixed_different"] == tried["standing_for"] == report["compared"]
    assert tried["exact"]


def test_a_looser_limit_gains_pairs_that_are_shown_and_can_be_decided(loaded: WorkingClient) -> None:
    looser = limited(loaded.get(f"{HOME}/plan").json()["yaml"], -2)
    settle(loaded)
    tried = loaded.post(f"{BENCH}/tried", json={"yaml": looser}).json()
    assert tried["gained"] > 0
    assert tried["lost"] == 0
    assert tried["settled"] is None
    asked = {"yaml": looser, "shown": "gained", "limit": -2, "many": 100}
    pairs = loaded.post(f"{BENCH}/pairs", json=asked).json()
    assert len(pairs) == tried["gained"]
    assert all((pair["verdict"], pair["verdict_before"]) == ("same", "unsure") for pair in pairs)
    scores = [pair["score"] for pair in pairs]
    assert scores == sorted(scores, reverse=True)
    for pair in pairs:
        assert sum(one["bits"] for one in pair["evidence"]) == pytest.approx(pair["score"], abs=0.1)
        assert pair["reason"].endswith(".")
    one = pairs[0]
    decided = loaded.post(
        f"{HOME}/decisions",
        json={
            "left_id": one["left"]["id"],
            "right_id": one["right"]["id"],
            "verdict": "same",
            "remark": "",
            "seen_decision": None,
        },
    )
    assert decided.status_code < 300, decided.text
    again = loaded.post(f"{BENCH}/pairs", json=asked).json()
    assert again[0]["decided"]["verdict"] == "same"


def test_a_stricter_limit_loses_pairs_and_cuts_golden_records(loaded: WorkingClient) -> None:
    stricter = limited(loaded.get(f"{HOME}/plan").json()["yaml"], 14)
    settle(loaded, stricter)
    assert loaded.post(f"{BENCH}/tried", json={"yaml": stricter}).json()["settled"]["lost"] is None
    settle(loaded)
    settled = loaded.post(f"{BENCH}/tried", json={"yaml": stricter}).json()["settled"]
    assert settled["lost"] > 0
    changes = loaded.post(f"{BENCH}/clusters", json={"yaml": stricter}).json()
    assert changes["cutting"] == settled["cutting"] > 0
    for change in changes["changes"]:
        assert len(change["records"]) == len(change["before"]) == len(change["after"]) > 1


def test_what_cannot_be_tried_says_why(loaded: WorkingClient) -> None:
    assert loaded.post(f"{BENCH}/settled", json={"yaml": "title: x"}).status_code == 422
    assert loaded.post(f"{BENCH}/tried", json={"against": 77}).status_code == 404
    assert loaded.get("/api/registers/nobody/bench").status_code == 404
    settle(loaded)
    for wrong in ({"decided_by": "nothing"}, {"condition": "nothing"}):
        assert loaded.post(f"{BENCH}/pairs", json={"limit": 0, **wrong}).status_code == 404
    other = limited(loaded.get(f"{HOME}/plan").json()["yaml"], 9)
    assert loaded.post(f"{BENCH}/clusters", json={"yaml": other}).status_code == 404
    assert loaded.delete(f"{BENCH}/settled").status_code == 204
