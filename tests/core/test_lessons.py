"""Learning from decided pairs: what they teach, which pairs to ask about, and what that is worth on others."""

import numpy as np
import numpy.typing as npt
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.compare import comparison
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.learning import (
    EvidenceView,
    JudgedPairs,
    as_untaught,
    groups_of,
    held_out,
    learn_from,
    learned_plan,
    lessons_of,
    next_pairs,
    teach,
    teaching_pairs,
)
from oddpair.core.plan import Limits, MatchPlan, Pass, Probabilities, default_plan, parse_plan, plan_to_yaml
from oddpair.core.scoring.logistic import Prior, fit_logistic

PLAN = default_plan(RegisterKind.ORGANISATION)
PLAIN = PLAN.model_copy(update={"probabilities": Probabilities()})
Flags = npt.NDArray[np.bool_]


def view_of(bits: list[float], seed: int = 1, plan: MatchPlan = PLAIN) -> EvidenceView:
    """Pairs with these scores, at levels drawn by chance."""
    random = np.random.default_rng(seed)
    most = [len(comparison(rule.using).levels) for rule in plan.comparisons]
    levels = np.stack([random.integers(0, many, len(bits)) for many in most]).astype(np.int8)
    return EvidenceView(plan, levels, np.array(bits, dtype=np.float32))


def simulated(count: int, seed: int, phone_worth: float = 0.0) -> tuple[EvidenceView, Flags]:
    """Pairs whose log odds are their scores, and ``phone_worth`` bits more where the phone is the same."""
    random = np.random.default_rng(seed)
    view = view_of(random.normal(0, 4, count).tolist(), seed)
    phone = [rule.name for rule in PLAIN.comparisons].index("phone")
    equal = comparison("phone").level_number("equal")
    odds = view.bits.astype(np.float64) + phone_worth * (view.levels[phone] == equal)
    return view, random.random(count) < 1 / (1 + np.exp2(-odds))


decisions = st.lists(st.tuples(st.floats(-30, 30), st.booleans()), min_size=0, max_size=25)


@given(decisions)
def test_what_is_learned_does_not_hang_on_the_order_of_decisions(decided: list[tuple[float, bool]]) -> None:
    view, same = view_of([bits for bits, _ in decided]), np.array([yes for _, yes in decided], dtype=np.bool_)
    order = np.random.default_rng(len(decided)).permutation(len(decided))
    one, other = teach(view, same), teach(view.at(order), same[order])
    assert np.allclose(one.fitted.values, other.fitted.values, atol=1e-5)


@given(decisions)
def test_a_plan_without_decisions_stays_and_with_them_is_a_plan_that_is_read_back(
    decided: list[tuple[float, bool]],
) -> None:
    view, same = view_of([bits for bits, _ in decided]), np.array([yes for _, yes in decided], dtype=np.bool_)
    taught = teach(view, same)
    learned = learned_plan(PLAIN, 0, taught, len(decided), 1.0)
    assert learned.limits.unsure < learned.limits.same
    assert parse_plan(plan_to_yaml(learned)) == learned
    assert as_untaught(learned) == PLAIN
    if not decided:
        assert (learned.probabilities, learned.limits.same) == (PLAIN.probabilities, 0.0)
        assert learned.comparisons == PLAIN.comparisons


@given(st.floats(-10, 10), st.integers(0, 1000))
def test_one_more_same_never_makes_a_pair_less_likely(bits: float, seed: int) -> None:
    view, same = simulated(12, seed)
    more = EvidenceView(
        view.plan, np.concatenate((view.levels, view.levels[:, :1]), axis=1), np.append(view.bits, np.float32(bits))
    )
    asked = more.at(np.array([12]))
    before = teach(more, np.append(same, False)).odds(asked)
    after = teach(more, np.append(same, True)).odds(asked)
    assert after >= before


def test_it_is_found_what_a_level_is_worth_and_how_sure_scores_are() -> None:
    view, same = simulated(6000, 3, phone_worth=3.0)
    taught = teach(view, same)
    worth = taught.bits_of_levels()
    assert worth["phone", "equal"] == pytest.approx(3.0, abs=0.6)
    assert taught.slope == pytest.approx(1.0, abs=0.15)
    others = [bits for (name, _), bits in worth.items() if name != "phone"]
    assert max(map(abs, others)) < 1.0


def test_a_level_that_no_decision_speaks_of_is_not_moved() -> None:
    view, same = simulated(40, 5)
    seen = {(one.comparison, one.level) for one in lessons_of(teach(view, same), view, same.tolist())}
    worth = teach(view, same).bits_of_levels()
    assert seen
    assert all(bits == 0.0 for column, bits in worth.items() if column not in seen)
    told = lessons_of(teach(view, same), view, same.tolist())
    assert sum(one.same for one in told if one.comparison == "phone") <= int(same.sum())


@pytest.mark.parametrize("weighs", [0.25, 1.0, 4.0, 16.0])
def test_the_limit_lies_where_the_odds_are_what_a_wrong_pair_weighs(weighs: float) -> None:
    view, same = simulated(200, 7)
    plan = learned_plan(PLAIN, 0, teach(view, same), 200, weighs)
    odds = plan.probabilities.slope * plan.limits.same + plan.probabilities.shift
    assert odds == pytest.approx(np.log2(weighs), abs=0.02)


def test_what_a_pass_learned_is_written_into_the_pass_and_taken_back() -> None:
    own = PLAIN.comparisons[:3]
    passes = (
        Pass(title="sure"),
        Pass(title="rest", works_on="unmatched", comparisons=own, further=(PLAIN.comparisons[3],)),
    )
    plan = PLAIN.model_copy(update={"passes": passes})
    view, same = simulated(60, 9)
    second = plan.of_pass(1)
    seen = EvidenceView(second, view.levels[: len(second.comparisons)], view.bits)
    learned = learned_plan(plan, 1, teach(seen, same), 60, 1.0)
    assert learned.comparisons == plan.comparisons
    assert any(rule.learned for rule in learned.passes[1].comparisons or ())
    assert learned.passes[1].limits != plan.limits
    back = as_untaught(learned)
    assert [rule.learned for rule in back.of_pass(1).comparisons] == [{}] * len(second.comparisons)
    assert back.of_pass(1).limits == plan.limits
    assert as_untaught(plan) == plan


def test_pairs_that_teach_are_open_unsure_and_no_two_the_same() -> None:
    view, same = simulated(800, 11)
    weight = np.ones(800, dtype=np.float32)
    still = np.random.default_rng(2).random(800) < 0.7
    taught = teach(view.at(np.arange(0)), same[:0])
    chosen = teaching_pairs(view, weight, still, taught, 30)
    assert len(set(chosen.tolist())) == 30
    assert still[chosen].all()
    assert np.abs(view.bits[chosen]).max() < 8
    # Those that are asked for later are the same whether more or fewer are asked for.
    assert teaching_pairs(view, weight, still, taught, 10).tolist() == chosen[:10].tolist()
    none = np.zeros(800, dtype=np.bool_)
    assert not len(teaching_pairs(view, weight, none, taught, 10))


def test_chosen_pairs_teach_more_than_pairs_by_chance() -> None:
    """Measured by what is left uncertain of all pairs, over several registers."""
    better = 0
    for seed in range(8):
        view, same = simulated(1500, 100 + seed, phone_worth=2.0)
        weight, every = np.ones(1500, dtype=np.float32), np.ones(1500, dtype=np.bool_)
        chosen = teaching_pairs(view, weight, every, teach(view.at(np.arange(0)), same[:0]), 30)
        chance = np.random.default_rng(seed).choice(1500, 30, replace=False)

        def left(rows: npt.NDArray[np.intp], view: EvidenceView = view, same: Flags = same) -> float:
            fitted = teach(view.at(rows), same[rows]).fitted
            design = view.design()
            return float(((design @ np.linalg.inv(fitted.curvature)) * design).sum(axis=1).mean())

        better += left(chosen) < left(chance)
    assert better >= 7


def test_what_learning_is_worth_is_told_on_decisions_set_aside() -> None:
    view, same = simulated(400, 13, phone_worth=4.0)
    apart = np.arange(400)
    told = held_out(view, same, apart, same_from=4.0, wrong_weighs=1.0)
    assert told is not None
    assert told.decisions == 400
    assert told.right.low <= told.right.after - told.right.before <= told.right.high
    assert told.right.verdict == "better"
    assert told.foreseen.before <= told.foreseen.after <= 0
    # Where there is nothing to learn, nothing is claimed.
    view, same = simulated(400, 17)
    plain = held_out(view, same, apart, same_from=0.0, wrong_weighs=1.0)
    assert plain is not None
    assert plain.right.verdict != "better"


def test_too_few_decisions_or_of_one_kind_say_nothing() -> None:
    view, same = simulated(60, 19)
    assert held_out(view, same, np.arange(60) // 10, 0.0, 1.0) is None
    assert held_out(view, np.ones(60, dtype=np.bool_), np.arange(60), 0.0, 1.0) is None


@given(st.lists(st.tuples(st.integers(0, 15), st.integers(0, 15)), min_size=1, max_size=25))
def test_pairs_that_share_a_record_are_never_parted(pairs: list[tuple[int, int]]) -> None:
    left, right = (np.array(side, dtype=np.int32) for side in zip(*pairs, strict=True))
    groups = groups_of(left, right)
    for one, mine in zip(pairs, groups.tolist(), strict=True):
        for other, theirs in zip(pairs, groups.tolist(), strict=True):
            if set(one) & set(other):
                assert mine == theirs


@given(decisions)
def test_a_fit_is_the_best_one_nearby(decided: list[tuple[float, bool]]) -> None:
    bits, same = np.array([bits for bits, _ in decided]), np.array([yes for _, yes in decided], dtype=np.bool_)
    design = np.stack([bits, np.ones(len(decided))], axis=1).reshape(-1, 2)
    prior = Prior(np.array([1.0, 0.0]), np.array([0.3, 2.0]))
    best = fit_logistic(design, same, prior)

    def regret(values: npt.NDArray[np.float64]) -> float:
        odds, off = design @ values, (values - prior.means) / prior.spreads
        return float(np.logaddexp(0.0, odds).sum() - same.astype(float) @ odds + off @ off / 2)

    for step in ((1e-3, 0), (-1e-3, 0), (0, 1e-3), (0, -1e-3)):
        assert regret(best.values) <= regret(best.values + step) + 1e-9
    assert (np.linalg.eigvalsh(best.curvature) > 0).all()


def test_a_plan_says_wrong_learning_with_its_place() -> None:
    learned = learned_plan(PLAIN, 0, teach(*simulated(30, 23)), 30, 1.0)
    assert learned.learning is not None
    wrong = learned.model_copy(update={"learning": learned.learning.model_copy(update={"of_pass": 3})})
    problems = list(wrong.problems(default_layout(RegisterKind.ORGANISATION)))
    assert [problem.place for problem in problems] == [("learning", "of_pass")]
    assert learned.learning.limits == Limits(same=PLAIN.limits.same, unsure=PLAIN.limits.unsure)


def judged(same_of_held: float, seed: int) -> tuple[JudgedPairs, Flags]:
    """Pairs of which the first condition decides a third, ``same_of_held`` of those the same."""
    view, same = simulated(900, seed)
    random = np.random.default_rng(seed)
    condition = np.where(random.random(900) < 1 / 3, 0, -1).astype(np.int8)
    high = EvidenceView(view.plan, view.levels, np.where(condition == 0, 6.0, view.bits).astype(np.float32))
    same = np.where(condition == 0, random.random(900) < same_of_held, same)
    return JudgedPairs(high, condition, np.zeros(900, dtype=np.bool_)), same


@pytest.mark.parametrize(("same_of_held", "dropped"), [(0.97, True), (0.5, False), (0.05, False)])
def test_a_condition_goes_only_where_what_it_holds_back_is_nearly_always_the_same(
    same_of_held: float, dropped: bool
) -> None:
    assert PLAIN.conditions[0].never_same
    pairs, truth = judged(same_of_held, 29)
    weight, still = np.ones(900, dtype=np.float32), np.ones(900, dtype=np.bool_)
    asked = np.zeros(0, dtype=np.intp)
    for _ in range(2):
        course = learn_from(pairs.at(asked), truth[asked], 1.0)
        asked = np.concatenate((asked, next_pairs(pairs, weight, still, course, 30, 1.0)))
        still[asked] = False
    assert len(set(asked.tolist())) == 60
    assert (pairs.condition[asked] == 0).sum() >= 8
    course = learn_from(pairs.at(asked), truth[asked], 1.0)
    assert course.without == ((0,) if dropped else ())
    learned = learned_plan(PLAIN, 0, course.taught, 60, 1.0, course.without)
    assert (PLAIN.conditions[0] in learned.conditions) != dropped
    assert learned.clustering.least_mean < learned.limits.same
    assert parse_plan(plan_to_yaml(learned)) == learned
    assert as_untaught(learned) == PLAIN
    # Who fears wrong pairs more keeps the condition longer.
    careful = learn_from(pairs.at(asked), truth[asked], 100.0)
    assert careful.without == ()


def test_pairs_that_a_kept_condition_or_a_veto_decides_teach_no_weights() -> None:
    pairs, truth = judged(0.3, 31)
    vetoed = np.arange(900) % 5 == 0
    pairs = JudgedPairs(pairs.view, pairs.condition, vetoed)
    course = learn_from(pairs, truth, 1.0)
    assert not (course.learned_from & (vetoed | (pairs.condition == 0))).any()
    turned = np.where(course.learned_from, truth, ~truth)
    lesson = learn_from(pairs, turned, 1e6)
    assert np.allclose(lesson.taught.fitted.values, course.taught.fitted.values)
