"""What is learned of the data, and what plans may say beside the evidence."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.clustering import Decisions
from oddpair.core.errors import PlanInvalid
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.pipeline import MatchResult, run
from oddpair.core.plan import MatchPlan, default_plan, parse_plan, plan_to_yaml
from oddpair.core.plan.text import default_plan_text
from oddpair.core.scoring import Calibration, Scorer, fit_calibration, learn_weights, probability
from oddpair.core.tidying import tidy_records

from .strategies import records

PLAN = default_plan(RegisterKind.ORGANISATION)
TEXT = default_plan_text(RegisterKind.ORGANISATION)
Row = dict[str, str]


def with_conditions(text: str) -> MatchPlan:
    start = TEXT.index("conditions:")
    return parse_plan(TEXT[:start] + text + TEXT[TEXT.index("\n# Two clusters") :])


def matched(*rows: Row, plan: MatchPlan = PLAN, **options: Any) -> MatchResult:
    return run(records([("ab"[place % 2], f"{place:03d}", row) for place, row in enumerate(rows)]), plan, **options)


def firms(count: int, broken_phones: bool) -> list[Row]:
    """Pairs of records of one firm each; their telephones never agree if ``broken_phones``."""
    rows = []
    for number in range(count):
        name = f"{'abcdefghij'[number % 10]}{'klmnopqrst'[number // 10]}ulmar{number} Ropes"
        for copy in (0, 1):
            phone = f"0163296{number:02d}{copy if broken_phones else 0}{number % 7}"
            rows.append({"name": name, "phone": phone, "email": f"info@f{number}.example"})
    return rows


def test_em_learns_how_often_a_field_agrees_but_never_runs_away() -> None:
    expected = default_plan(RegisterKind.ORGANISATION)
    phone = [rule.field for rule in expected.comparisons].index("phone")
    agree, broken = (matched(*firms(90, flag)).scorer.shares[phone].same for flag in (False, True))
    # Levels: missing, equal, close, different.
    assert agree[1] > 0.7 > broken[1]
    start = matched(SKUA, TERN).scorer.shares[phone].same
    for learned in (agree, broken):
        assert learned.sum() == pytest.approx(1)
        assert (learned[1:] / start[1:] < 9).all()
        assert (learned[1:] / start[1:] > 1 / 9).all()


SKUA, TERN = {"name": "Skua Rope Works", "phone": "01632 960001"}, {"name": "Tern Boatyard", "phone": "01632 960002"}


def test_a_file_without_duplicates_keeps_its_expectations() -> None:
    result = matched(*firms(60, False)[::2])
    assert result.pairs.same.sum() == 0
    assert result.scorer.matches_per_record < PLAN.weights.matches_per_record


def test_nothing_is_learned_where_the_plan_says_so_or_nothing_is_compared() -> None:
    fixed = parse_plan(TEXT.replace("estimate: true", "estimate: false"))
    assert matched(*firms(20, True), plan=fixed).scorer.matches_per_record == fixed.weights.matches_per_record
    tidy = tidy_records(default_layout(PLAN.kind), records([("a", "1", SKUA)]))
    scorer, none = Scorer(tidy, PLAN), np.zeros(0, np.int32)
    learn_weights(scorer, none, none, 1.0, records=1)
    assert scorer.matches_per_record == PLAN.weights.matches_per_record


def test_a_score_of_no_bits_is_even_odds() -> None:
    assert probability(np.array([0, 1, -100], np.float32)).tolist() == pytest.approx([0.5, 2 / 3, 0], abs=1e-9)


def test_decided_pairs_teach_and_calibrate() -> None:
    rows = firms(60, True)
    number = {f"{'ab'[n % 2]}{n:03d}": n for n in range(len(rows))}
    order = {name: place for place, name in enumerate(sorted(number))}
    same = np.array([[order[f"a{n:03d}"], order[f"b{n + 1:03d}"]] for n in range(0, 80, 2)], np.int32)
    none = np.zeros((0, 2), np.int32)
    phone = [rule.field for rule in PLAN.comparisons].index("phone")
    untaught, taught = matched(*rows), matched(*rows, decisions=Decisions(same, none))
    assert taught.scorer.shares[phone].same[1] <= untaught.scorer.shares[phone].same[1]
    assert taught.calibration.shift > untaught.calibration.shift
    refused = matched(*rows, decisions=Decisions(none, same)).calibration
    assert (
        refused.probability(np.array([8], np.float32))[0] < taught.calibration.probability(np.array([8], np.float32))[0]
    )


@given(st.lists(st.tuples(st.floats(-20, 20), st.booleans()), max_size=40))
def test_calibrated_probabilities_rise_with_the_score_and_stay_between_bounds(
    decided: list[tuple[float, bool]],
) -> None:
    bits, same = np.array([bits for bits, _ in decided], np.float32), np.array([same for _, same in decided], np.bool_)
    chances = fit_calibration(bits, same).probability(np.linspace(-30, 30, 61, dtype=np.float32))
    assert (np.diff(chances) >= 0).all()
    assert ((chances >= 0) & (chances <= 1)).all()


def test_calibration_finds_how_sure_scores_should_be() -> None:
    random = np.random.default_rng(3)
    bits = random.uniform(-12, 12, 4000).astype(np.float32)
    same = random.random(4000) < 1 / (1 + np.exp2(-(0.6 * bits - 1)))
    found = fit_calibration(bits, same)
    assert found.slope == pytest.approx(0.6, abs=0.06)
    assert found.shift == pytest.approx(-1, abs=0.3)


def test_few_decisions_stay_near_what_the_plan_expects() -> None:
    nothing = np.zeros(0, np.float32), np.zeros(0, np.bool_)
    expected = Calibration(0.75, -0.8)
    assert fit_calibration(*nothing, expected) == expected
    near = fit_calibration(np.array([6], np.float32), np.array([True]), expected)
    assert near.slope == pytest.approx(0.75, abs=0.05)
    assert -0.8 < near.shift < 0


def test_what_the_plan_expects_counts_as_long_as_nothing_is_decided() -> None:
    expected = Calibration(PLAN.probabilities.slope, PLAN.probabilities.shift)
    assert matched(*firms(20, False)).calibration == expected


def test_any_of_several_phones_may_agree_and_a_trading_name_counts() -> None:
    one = {"name": "Skua Ropes Ltd t/a Harbour Cordage", "phone": "01632 960001 / 01632 960444"}
    other = {"name": "Harbour Cordage", "phone": "+44 1632 960444"}
    result = matched(one, other, *firms(20, False))
    names = [rule.field for rule in PLAN.comparisons]
    levels = result.scorer.measure(np.array([0], np.int32), np.array([21], np.int32)).levels
    assert result.records.row(0)["name#2"] == "harbour cordage"
    assert result.labels[0] == result.labels[21]
    assert (levels[names.index("name"), 0], levels[names.index("phone"), 0]) == (1, 1)


def test_conditions_decide_in_order_and_evidence_still_adds_up() -> None:
    by_phone = """
conditions:
  - title: same phone
    when: {any: [{comparison: phone, is: [equal]}, {all: [{comparison: email, is: [equal]}, {not: {comparison: name, is: [different]}}]}]}
    then: same
  - {title: all else, then: different}
"""
    plan = with_conditions(by_phone)
    assert parse_plan(plan_to_yaml(plan)) == plan
    result = matched(SKUA, {**TERN, "phone": SKUA["phone"]}, {"name": "Skua Rope Works"}, plan=plan)
    assert result.labels[0] == result.labels[2]
    assert result.labels[1] not in (result.labels[0],)
    unsure = with_conditions("conditions: [{title: ask always, then: unsure}]\n")
    asked = matched(SKUA, SKUA, plan=unsure)
    assert (len(asked.pairs), asked.pairs.same.sum()) == (1, 0)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        (
            "conditions: [{title: x, when: {comparison: fone, is: [equal]}, then: same}]",
            "'fone' is not compared. Did you mean 'phone'",
        ),
        ("conditions: [{title: x, when: {comparison: phone, is: [equl]}, then: same}]", "Did you mean 'equal'"),
        ("conditions: [{title: x, when: {comparison: phone}, then: same}]", "say exactly one of"),
        ("conditions: [{title: x, when: {}, then: same}]", "say exactly one of"),
        ("conditions: [{title: x, then: perhaps}]", "same"),
    ],
)
def test_a_wrong_condition_is_refused_with_the_reason(text: str, told: str) -> None:
    with pytest.raises(PlanInvalid) as caught:
        with_conditions(text)
    assert told in "; ".join(caught.value.problems)


def test_wrong_options_and_correlated_names_are_refused() -> None:
    wrong = TEXT.replace("using: phone, label", "using: phone, options: {slips: 2}, label").replace(
        "[address, phone]", "[adress, phone]"
    )
    with pytest.raises(PlanInvalid) as caught:
        parse_plan(wrong)
    told = "; ".join(caught.value.problems)
    assert "'phone' has no option 'slips'" in told
    assert "correlated: 'adress' is not compared. Did you mean 'address'" in told


def test_scopes_and_references_say_which_sources_meet() -> None:
    rows = [SKUA] * 4
    assert matched(*rows).compared == 6
    for scope, pairs in (("across sources", 4), ("within sources", 2)):
        plan = parse_plan(TEXT.replace("most_records: 150", f"most_records: 150\n  scope: {scope}"))
        assert matched(*rows, plan=plan).compared == pairs
    assert matched(*rows, references=["a"]).compared == 4
