"""Measuring, learning and looking at one pair on the bench, over HTTP: a person decides, the bench tells what that says."""

import csv
import time
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest

from oddpair.core.plan import parse_plan

from .conftest import WorkingClient
from .test_bench_api import BENCH, HOME, files, loaded, settle  # noqa: F401


@pytest.fixture
def bench(loaded: WorkingClient) -> WorkingClient:  # noqa: F811
    settle(loaded)
    return loaded


@pytest.fixture
def truth(files: list[Path]) -> dict[tuple[str, str], str]:  # noqa: F811
    with (files[0].parent / "truth.csv").open(encoding="utf-8", newline="") as file:
        return {(row["source"], row["source_id"]): row["entity"] for row in csv.DictReader(file)}


def is_same(pair: dict[str, Any], truth: dict[tuple[str, str], str]) -> bool:
    one, other = (truth[side["source"], side["source_key"]] for side in (pair["left"], pair["right"]))
    return one == other


def decide(client: WorkingClient, pairs: list[dict[str, Any]], truth: dict[tuple[str, str], str]) -> int:
    """Decide pairs as they truly are; return how many are the same."""
    for pair in pairs:
        body = {
            "left_id": pair["left"]["id"], "right_id": pair["right"]["id"],
            "verdict": "same" if is_same(pair, truth) else "different", "remark": "", "asked": "", "desk": "", "seen_decision": None,
        }  # fmt: skip
        assert client.post(f"{HOME}/decisions", json=body).status_code < 300
    return sum(is_same(pair, truth) for pair in pairs)


def ask(client: WorkingClient, what: str, **body: Any) -> Any:
    # The first time the plan is matched without decisions.
    while (answer := client.post(f"{BENCH}/{what}", json=body)).status_code == 503:
        assert "without decisions" in answer.json()["detail"]
        time.sleep(0.02)
    assert answer.status_code < 300, answer.text
    return answer.json() if answer.content else None


def test_a_fair_sample_is_drawn_decided_and_tells_how_good_the_plan_is(
    bench: WorkingClient, truth: dict[tuple[str, str], str]
) -> None:
    before = ask(bench, "measured")
    assert (before["drawn"], before["decided"], before["known"]) == (0, 0, 0)
    assert before["needed"] > 0
    drawn = ask(bench, "sample", many=40)["drawn"]
    assert 30 <= drawn <= 50
    waiting = ask(bench, "sample/pairs", many=200)
    assert len(waiting) == drawn
    assert len({(pair["left"]["id"], pair["right"]["id"]) for pair in waiting}) == drawn
    same = decide(bench, waiting[:25], truth)
    found = ask(bench, "measured")
    assert (found["drawn"], found["decided"], found["known"]) == (drawn, 25, 0)
    assert sum(one["decided"] for one in found["strata"]) == 25
    assert sum(one["same"] for one in found["strata"]) == same
    assert len(ask(bench, "sample/pairs", many=200)) == drawn - 25
    quality, earlier = found["own"]["quality"], before["own"]["quality"]
    for name in ("precision", "recall", "f1"):
        low, value, high = (quality[name][part] for part in ("low", "value", "high"))
        assert 0 <= low <= value <= high <= 1
        assert high - low < earlier[name]["high"] - earlier[name]["low"]
    limits = [one["limit"] for one in found["along"]]
    assert limits == sorted(limits)
    assert found["own"]["limit"] in limits
    # More of the sample may be drawn; what was drawn stays, and a new one begins anew.
    more = ask(bench, "sample", many=20)["drawn"]
    assert ask(bench, "measured")["drawn"] == drawn + more
    anew = ask(bench, "sample", many=20, anew=True)["drawn"]
    again = ask(bench, "measured")
    assert (again["drawn"], again["decided"], again["known"]) == (anew, 0, 25)


def test_thirty_answers_teach_a_plan_that_can_be_read_and_taken_back(
    bench: WorkingClient, truth: dict[tuple[str, str], str]
) -> None:
    plan = bench.get(f"{HOME}/plan").json()["yaml"]
    asked = ask(bench, "teaching", many=30)
    assert len(asked) == 30
    same = decide(bench, asked, truth)
    assert 5 <= same <= 25
    next_pairs = {(pair["left"]["id"], pair["right"]["id"]) for pair in ask(bench, "teaching", many=30)}
    assert not next_pairs & {(pair["left"]["id"], pair["right"]["id"]) for pair in asked}
    lesson = ask(bench, "learned", yaml=plan, wrong_weighs=2)
    # A pair that its partners tell apart is decided, but teaches nothing.
    taught = lesson["decisions"]
    assert 28 <= taught <= 30
    assert same - (30 - taught) <= lesson["same"] <= same
    assert lesson["held_out"]["decisions"] == taught
    assert lesson["held_out"]["right"]["verdict"] in ("better", "worse", "not shown")
    assert lesson["held_out"]["right"]["low"] <= lesson["held_out"]["right"]["high"]
    assert all(one["same"] + one["different"] > 0 for one in lesson["levels"])
    learned = parse_plan(lesson["yaml"])
    assert learned.learning is not None
    assert learned.learning.decisions == taught
    assert any(rule.learned for rule in learned.comparisons)
    assert learned.limits.same == lesson["same_from"] != lesson["same_before"] == 1.0
    assert {edit["place"][0] for edit in lesson["edits"]} >= {
        "limits",
        "probabilities",
        "learning",
        "comparisons",
    }
    # What it learned is not learned twice, and is taken back without a trace.
    assert ask(bench, "learned", yaml=lesson["yaml"], wrong_weighs=2)["yaml"] == lesson["yaml"]
    back = ask(bench, "unlearned", yaml=lesson["yaml"])
    assert parse_plan(back["yaml"]) == parse_plan(plan)
    # A limit that forbids wrong pairs lies higher.
    assert ask(bench, "learned", yaml=plan, wrong_weighs=50)["same_from"] > lesson["same_from"]


def test_nothing_is_learned_from_nothing(bench: WorkingClient) -> None:
    lesson = ask(bench, "learned")
    assert (lesson["decisions"], lesson["levels"], lesson["held_out"]) == (0, [], None)
    said = parse_plan(bench.get(f"{HOME}/plan").json()["yaml"]).probabilities
    assert (lesson["slope"], lesson["shift"]) == (said.slope, said.shift)
    assert not any(rule.learned for rule in parse_plan(lesson["yaml"]).comparisons)


def test_records_outside_the_blocks_are_looked_for(bench: WorkingClient, truth: dict[tuple[str, str], str]) -> None:
    plan = bench.get(f"{HOME}/plan").json()["yaml"]
    assert ask(bench, "measured")["outside"] is None
    # A plan with a single narrow key misses much; the look finds it.
    head, _, rest = plan.partition("  keys:\n")
    narrow = head.replace("every_pair_up_to: 2000000", "every_pair_up_to: 0") + "  keys:\n    - tax_number\n"
    narrow += rest[rest.index("  narrow_by:") :]
    settle(bench, narrow)
    ask(bench, "outside", yaml=narrow)
    while bench.get(BENCH).json()["running"]:
        pass
    outside = ask(bench, "measured", yaml=narrow)["outside"]
    # So few records are all held against each other: what is found is everything.
    assert outside["drawn"] == outside["records"]
    assert outside["looked_at"] == outside["records"] * (outside["records"] - 1) // 2
    assert outside["found"] > 20
    waiting = ask(bench, "outside/pairs", yaml=narrow, many=10)
    same = decide(bench, waiting, truth)
    again = ask(bench, "measured", yaml=narrow)
    assert (again["outside"]["decided"], again["outside"]["same"]) == (10, same)
    assert again["outside_of_blocks"] == same
    assert len(ask(bench, "outside/pairs", yaml=narrow, many=200)) == min(outside["found"] - 10, 200)


def test_one_pair_is_seen_with_levels_keys_and_where_it_is_lost(bench: WorkingClient) -> None:
    typed = {"name": "Brackwater Chandlery Ltd", "phone": "01632 960123"}
    found = ask(
        bench, "pair", left={"fields": typed}, right={"fields": {**typed, "name": "Brakwater Chandlery Limited"}}
    )
    assert {one["name"]: one["level"] for one in found["levels"]}["phone"] == "equal"
    assert any(key["shared"] for key in found["keys"])
    assert not all(key["shared"] for key in found["keys"])
    assert found["lost_at"] == "nowhere"
    assert found["score"] == pytest.approx(sum(one["bits"] for one in found["evidence"]), abs=0.1)
    assert {"name", "phone"} <= {one["field"].split(".")[0] for one in found["tidy"]}
    pair = ask(bench, "pairs", limit=4.0, many=1)[0]
    picked = ask(bench, "pair", left={"record_id": pair["left"]["id"]}, right={"record_id": pair["right"]["id"]})
    assert picked["by_register"]
    assert picked["score"] == pytest.approx(pair["score"], abs=0.02)
    strangers = ask(bench, "pair", left={"fields": {"name": "Tern"}}, right={"fields": {"name": "Zephyr"}})
    assert strangers["verdict"] == "different"
    assert strangers["says"]


@pytest.mark.parametrize(
    ("side", "told"),
    [
        ({"fields": {}}, "nothing is typed"),
        ({"fields": {"nam": "x"}}, "no field 'nam'"),
        ({"record_id": 999_999}, "999999"),
    ],
)
def test_a_side_that_is_nothing_is_told(bench: WorkingClient, side: dict[str, Any], told: str) -> None:
    answer = bench.post(f"{BENCH}/pair", json={"left": side, "right": {"fields": {"name": "Tern"}}})
    assert answer.status_code in (404, 422)
    assert told in answer.json()["detail"]


def test_the_largest_blocks_of_a_key_are_looked_into(bench: WorkingClient) -> None:
    blocks = ask(bench, "blocks", key="address.country")
    sizes = [block["records"] for block in blocks]
    assert sizes == sorted(sizes, reverse=True)
    assert sizes[0] > 20
    assert all(len(block["examples"]) == min(block["records"], 3) for block in blocks)
    assert all(block["value"] in record["tidy"]["address.country"] for block in blocks for record in block["examples"])
    wrong = bench.post(f"{BENCH}/blocks", json={"key": "adress.country"})
    assert wrong.status_code == 422
    assert "adress.country" in wrong.text


def test_figures_are_told_of_the_plan_that_is_sent_against_the_one_in_force(
    bench: WorkingClient, truth: dict[tuple[str, str], str]
) -> None:
    plan = bench.get(f"{HOME}/plan").json()["yaml"]
    strict = plan.replace("  same: 1.0", "  same: 25.0", 1)
    ask(bench, "sample", many=60)
    decide(bench, ask(bench, "sample/pairs", many=200), truth)
    own, other = ask(bench, "measured", yaml=plan), ask(bench, "measured", yaml=strict)
    assert (own["f1_gained"]["low"], own["f1_gained"]["high"]) == (0, 0)
    assert other["own"]["limit"] == 25.0
    assert other["own"]["quality"]["recall"]["high"] < own["own"]["quality"]["recall"]["low"]
    assert other["f1_gained"]["high"] < 0
    # The curve says of this limit what the plan with this limit is measured at.
    at_this = next(one for one in own["along"] if one["limit"] == 1.0)
    assert at_this["quality"] == own["own"]["quality"]
    recalls = [one["quality"]["recall"]["value"] for one in own["along"]]
    assert all(later <= earlier + 0.02 for earlier, later in pairwise(recalls))


def test_a_learned_plan_goes_in_force_and_teaches_no_more_than_before(
    bench: WorkingClient, truth: dict[tuple[str, str], str]
) -> None:
    decide(bench, ask(bench, "teaching", many=30), truth)
    lesson = ask(bench, "learned")
    saved = bench.put(f"{HOME}/plan", json={"yaml": lesson["yaml"], "note": "learned", "seen_version": 1})
    assert saved.status_code == 200, saved.text
    settle(bench)
    again = ask(bench, "learned")
    # What it is based on is the plan that was in force before it learned.
    assert (again["same_before"], again["decisions"]) == (1.0, lesson["decisions"])
    assert again["same_from"] == pytest.approx(lesson["same_from"], abs=0.3)
    next_pairs = ask(bench, "teaching", many=10)
    assert len(next_pairs) == 10
    back = ask(bench, "unlearned", yaml=lesson["yaml"])
    bench.put(f"{HOME}/plan", json={"yaml": back["yaml"], "note": "back", "seen_version": 2})
    change = bench.post(f"{HOME}/plan/difference", json={"yaml": back["yaml"], "against": 1}).json()
    assert change == []


def test_decisions_have_no_part_in_the_scores_that_they_are_held_against(
    bench: WorkingClient, truth: dict[tuple[str, str], str]
) -> None:
    ask(bench, "sample", many=40)
    decide(bench, ask(bench, "sample/pairs", many=200), truth)
    decide(bench, ask(bench, "teaching", many=30), truth)
    before, lesson = ask(bench, "measured"), ask(bench, "learned")
    # A run and a match on the bench follow the decisions; what they say of the plan stays what it was.
    bench.post(f"{HOME}/runs")
    settle(bench)
    assert ask(bench, "measured")["own"] == before["own"]
    assert ask(bench, "learned")["yaml"] == lesson["yaml"]


@pytest.mark.parametrize("what", ["measured", "sample", "sample/pairs", "outside", "teaching", "learned", "blocks"])
def test_a_cold_bench_says_so(loaded: WorkingClient, what: str) -> None:  # noqa: F811
    answer = loaded.post(f"{BENCH}/{what}", json={"key": "name"} if what == "blocks" else {})
    assert answer.status_code == 503
    assert "not warm" in answer.json()["detail"]


@pytest.mark.parametrize(
    ("what", "body"),
    [
        ("sample", {"many": 0}),
        ("teaching", {"many": 5000}),
        ("learned", {"wrong_weighs": 0}),
        ("pair", {"left": {}}),
        ("blocks", {"key": ""}),
    ],
)
def test_what_is_out_of_bounds_is_refused(bench: WorkingClient, what: str, body: dict[str, Any]) -> None:
    assert bench.post(f"{BENCH}/{what}", json=body).status_code == 422
