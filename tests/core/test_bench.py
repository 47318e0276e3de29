"""The bench: what it tells at once agrees with what a whole match finds."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddpair.core.bench import (
    Bench,
    BenchInput,
    Wanted,
    around,
    cluster_changes,
    condition_counts,
    counted_same,
    curve_of,
    wanted_pairs,
)
from oddpair.core.bench.curve import JOINING_FROM, score_bins
from oddpair.core.clustering import Decisions
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.pair_sample import PairSampling, lots
from oddpair.core.pipeline import MatchResult, run
from oddpair.core.plan import MatchPlan, Pass, default_plan
from oddpair.core.records import RecordSet
from oddpair.core.tidying import tidy_records
from oddpair.core.workshop import KeepingWorkshop
from oddpair.demo import make_demo
from oddpair.services.offline.read_files import read_files
from tests.sizes import size

from .strategies import record_sets, records

PLAN = default_plan(RegisterKind.ORGANISATION)
Rows = list[tuple[str, str, dict[str, str]]]


def edited(**parts: object) -> MatchPlan:
    return PLAN.model_copy(update=parts)


def comparison_edited(name: str, **parts: object) -> MatchPlan:
    rules = tuple(rule.model_copy(update=parts) if rule.name == name else rule for rule in PLAN.comparisons)
    return edited(comparisons=rules)


EDITS = [
    PLAN,
    edited(limits=PLAN.limits.model_copy(update={"same": 7.0, "unsure": 1.0})),
    edited(conditions=PLAN.conditions[1:]),
    edited(vetoes=()),
    edited(weights=PLAN.weights.model_copy(update={"contest": "none"})),
    edited(correlated=()),
    comparison_edited("phone", bits={"equal": 9.0}),
    comparison_edited("name", learned={"equal": 1.5, "different": -2.0}),
    comparison_edited("address", strength=0.5),
    edited(blocking=PLAN.blocking.model_copy(update={"keys": ("phone.end", "name|first 6"), "every_pair_up_to": 0})),
    edited(
        passes=(
            Pass(title="sure", limits=PLAN.limits.model_copy(update={"same": 12.0})),
            Pass(title="rest", works_on="unmatched"),
        )
    ),
]


def tidy_of(rows: Rows) -> RecordSet:
    return tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))


def told(result: MatchResult) -> tuple:
    pairs = result.pairs
    return (
        pairs.left.tolist(), pairs.right.tolist(), pairs.scored.bits.tolist(), pairs.same.tolist(), result.labels.tolist(),
        [one.bands for one in result.passes],
    )  # fmt: skip


def bench_of(tidy: RecordSet, decisions: Decisions | None = None) -> Bench:
    return Bench(BenchInput(tidy, decisions or Decisions.none(), (), None))


@settings(max_examples=size(everyday=8, long=60))
@given(record_sets(most=14), st.permutations(EDITS))
def test_plan_after_plan_settles_on_the_bench_as_in_a_run_of_its_own(rows: Rows, plans: list[MatchPlan]) -> None:
    tidy = tidy_of(rows)
    bench = bench_of(tidy)
    for plan in plans[:4]:
        assert told(bench.settle(plan)) == told(run(tidy, plan, are_tidy=True))


@settings(max_examples=size(everyday=15, long=100))
@given(record_sets(most=14))
def test_a_settled_plan_is_redrawn_as_it_was_settled(rows: Rows) -> None:
    bench = bench_of(tidy_of(rows))
    settled = bench.settle(PLAN)
    redrawn = bench.redraw(PLAN)
    known = {
        (a, b): bits
        for a, b, bits in zip(
            *(
                part.tolist()
                for part in (settled.first.settled.left, settled.first.settled.right, settled.first.settled.scored.bits)
            ),
            strict=True,
        )
    }
    held = redrawn.held
    for a, b, bits in zip(held.left.tolist(), held.right.tolist(), redrawn.rescored.scored.bits.tolist(), strict=True):
        if (a, b) in known:
            assert bits == pytest.approx(known[a, b], abs=1e-3)
    assert held.are_all
    assert redrawn.rescored.measured_again == () or len(redrawn.rescored.measured_again) == len(PLAN.comparisons)
    assert not redrawn.others_blocks


#: Edits whose effect hangs on nothing that only a whole match can learn anew.
AT_ONCE = [EDITS[1], EDITS[2], EDITS[3]]


@settings(max_examples=size(everyday=10, long=60))
@given(record_sets(most=14), st.sampled_from(AT_ONCE))
def test_limits_conditions_and_vetoes_are_redrawn_exactly(rows: Rows, plan: MatchPlan) -> None:
    without_contest = PLAN.weights.model_copy(update={"contest": "none", "wording": "told"})
    base, plan = (one.model_copy(update={"weights": without_contest}) for one in (PLAN, plan))
    tidy = tidy_of(rows)
    bench = bench_of(tidy)
    bench.settle(base)
    redrawn = bench.redraw(plan)
    found = run(tidy, plan, are_tidy=True).first
    assert int(redrawn.rescored.same.sum()) == found.bands["same"]
    assert int(redrawn.rescored.unsure.sum()) == found.bands["unsure"]
    curve = curve_of(redrawn.held, redrawn.rescored, len(tidy))
    assert counted_same(curve, plan.limits.same).value == found.bands["same"]
    assert counted_same(curve, plan.limits.same).margin == 0.0
    total = curve.free.sum() + curve.capped.sum() + sum(curve.fixed.values())
    assert total == found.compared


@settings(max_examples=size(everyday=15, long=100))
@given(record_sets(most=14))
def test_the_curve_joins_as_many_groups_as_following_every_link_would(rows: Rows) -> None:
    tidy = tidy_of(rows)
    bench = bench_of(tidy)
    bench.settle(PLAN)
    redrawn = bench.redraw(edited(conditions=()))
    curve = curve_of(redrawn.held, redrawn.rescored, len(tidy))
    bins = score_bins(redrawn.rescored.scored.bits)
    for limit in range(80, len(curve.joining), 37):
        parents = list(range(len(tidy)))

        def root(of: int, parents: list[int] = parents) -> int:
            while parents[of] != of:
                of = parents[of]
            return of

        linked = np.flatnonzero(
            (bins >= limit) & ~redrawn.rescored.scored.vetoed & (redrawn.rescored.scored.bits >= JOINING_FROM)
        )
        for pair in linked.tolist():
            parents[root(int(redrawn.held.left[pair]))] = root(int(redrawn.held.right[pair]))
        groups = len({root(record) for record in range(len(tidy))})
        assert len(tidy) - curve.joining[limit:].sum() - curve.always_joined == groups


labels = st.lists(st.integers(0, 4), min_size=1, max_size=12)


@given(labels, st.data())
def test_changed_clusters_are_those_whose_members_are_others(before: list[int], data: st.DataObject) -> None:
    after = data.draw(st.lists(st.integers(0, 4), min_size=len(before), max_size=len(before)))

    def members(of: list[int], record: int) -> set[int]:
        return {other for other in range(len(of)) if of[other] == of[record]}

    changed = {record for record in range(len(before)) if members(before, record) != members(after, record)}
    changes, joining, cutting = cluster_changes(np.array(before, dtype=np.int32), np.array(after, dtype=np.int32), 100)
    assert {record for change in changes for record in change.records} == changed
    assert sum(len(change.records) for change in changes) == len(changed)
    assert joining == sum(change.joins for change in changes)
    assert cutting == sum(change.cuts for change in changes)
    assert all(change.joins or change.cuts for change in changes)
    back, *_ = cluster_changes(np.array(after, dtype=np.int32), np.array(before, dtype=np.int32), 100)
    assert [change.records for change in back] == [change.records for change in changes]


def test_conditions_are_counted_in_their_place_and_by_what_they_hold(generated: RecordSet) -> None:
    bench = bench_of(generated)
    bench.settle(PLAN)
    redrawn = bench.redraw(PLAN)
    counts = condition_counts(redrawn.held, redrawn.rescored)
    assert [count.title for count in counts] == [condition.title for condition in PLAN.conditions]
    assert all(0 < count.decides <= count.holds for count in counts)
    # Where one condition stands before all, it decides all that it holds for.
    assert counts[0].decides == counts[0].holds
    assert sorted(count.best_place for count in counts) == list(range(1, len(counts) + 1))
    assert max(counts, key=lambda count: count.holds).best_place == 1


def test_the_border_is_walked_from_both_sides_and_filters_hold(generated: RecordSet) -> None:
    bench = bench_of(generated)
    bench.settle(PLAN)
    before = bench.redraw(PLAN).rescored.same
    looser = edited(limits=PLAN.limits.model_copy(update={"same": 0.0}))
    redrawn = bench.redraw(looser)
    flags = wanted_pairs(Wanted(), redrawn.rescored, before)
    places = around(redrawn.held, redrawn.rescored, flags, 0.0, 20)
    bits = redrawn.rescored.scored.bits[places]
    assert (np.diff(bits) <= 0).all()
    assert (bits[:20] >= 0).all()
    assert (bits[20:] < 0).all()
    gained = wanted_pairs(Wanted(shown="gained"), redrawn.rescored, before)
    assert gained.any()
    assert (redrawn.rescored.same & ~before)[gained].all()
    assert not wanted_pairs(Wanted(shown="lost"), redrawn.rescored, before).any()
    by_phone = wanted_pairs(Wanted(decided_by="phone"), redrawn.rescored, before)
    assert 0 < by_phone.sum() < len(by_phone)
    condition = PLAN.conditions[1].title
    held_by = wanted_pairs(Wanted(condition=condition), redrawn.rescored, before)
    assert (redrawn.rescored.scored.condition[held_by] == 1).all()


def test_figures_of_a_part_of_the_pairs_are_as_good_as_their_margin_says(generated: RecordSet) -> None:
    """The far pairs of a plan that counts little are lifted by one that counts more: their number is told from a part of them."""
    alone = PLAN.weights.model_copy(update={"contest": "none", "wording": "told"})
    strict = edited(weights=alone, limits=PLAN.limits.model_copy(update={"same": 30.0, "unsure": 28.0}))
    loose = edited(weights=alone, limits=PLAN.limits.model_copy(update={"same": -22.0, "unsure": -23.0}), conditions=())
    full = run(generated, loose, are_tidy=True).first.bands["same"]
    off = []
    for far in (300, 1000, 3000):
        found = run(generated, strict, are_tidy=True, workshop=KeepingWorkshop(10**8), sampling=PairSampling(12.0, far))
        assert not (found.first.sample.weight == 1).all()
        bench = bench_of(generated)
        bench._hold(found)
        redrawn = bench.redraw(loose)
        counted = counted_same(curve_of(redrawn.held, redrawn.rescored, len(generated)), loose.limits.same)
        assert counted.margin > 0
        off.append(abs(counted.value - full) / counted.margin)
    assert sum(one <= 1.0 for one in off) >= 2, off


@given(st.integers(-150, 230).filter(bool))
def test_a_score_just_below_a_limit_is_counted_below_it(quarters: int) -> None:
    limit = np.float32(quarters / 4)
    scores = np.array([np.nextafter(limit, np.float32(-100)), limit], dtype=np.float32)
    below, at = score_bins(scores).tolist()
    assert below == at - 1


@given(st.lists(st.tuples(st.integers(0, 2**31 - 1), st.integers(0, 2**31 - 1)), min_size=1, max_size=30))
def test_a_lot_hangs_on_the_pair_alone(pairs: list[tuple[int, int]]) -> None:
    left, right = (np.array(side, dtype=np.int32) for side in zip(*pairs, strict=True))
    drawn = lots(left, right)
    assert ((drawn >= 0) & (drawn < 1)).all()
    assert lots(left[::-1], right[::-1])[::-1].tolist() == drawn.tolist()


def test_lots_are_spread_evenly() -> None:
    left = np.arange(100_000, dtype=np.int32) % 317
    right = np.arange(100_000, dtype=np.int32)
    counts = np.histogram(lots(left, right), 10, (0, 1))[0]
    assert (np.abs(counts - 10_000) < 500).all()


@pytest.fixture(scope="module")
def generated(tmp_path_factory: pytest.TempPathFactory) -> RecordSet:
    """The tidy records of a made register, small enough to be matched again and again."""
    files = make_demo(tmp_path_factory.mktemp("demo"), scale=0.25, difficulty=1.5)
    own = [file.path for file in files if file.register == "Customers"]
    return tidy_records(default_layout(RegisterKind.ORGANISATION), read_files(own, RegisterKind.ORGANISATION).records)


def test_a_plan_is_redrawn_with_what_its_own_match_settled_whichever_plan_is_held(generated: RecordSet) -> None:
    lists = edited(
        weights=PLAN.weights.model_copy(update={"contest": "found"}), comparisons=PLAN.comparisons[:2], conditions=()
    )
    other = lists.model_copy(
        update={"limits": lists.limits.model_copy(update={"same": 1.0}), "correlated": (), "vetoes": ()}
    )
    lists = lists.model_copy(update={"correlated": (), "vetoes": ()})
    bench = bench_of(generated)
    bench.settle(lists)
    own = bench.redraw(lists)
    known = {
        (int(a), int(b)): float(bits)
        for a, b, bits in zip(own.held.left, own.held.right, own.rescored.scored.bits, strict=True)
    }
    bench.settle(other)
    again = bench.redraw(lists)
    shared = [
        (known[int(a), int(b)], float(bits))
        for a, b, bits in zip(again.held.left, again.held.right, again.rescored.scored.bits, strict=True)
        if (int(a), int(b)) in known
    ]
    assert len(shared) > 1000
    assert max(abs(one - two) for one, two in shared) < 1e-3
    # Both plans are scored on the same pairs, so that gained and lost can be told; any pairs are scored as held ones are.
    assert bench.redraw(other).held.left is again.held.left
    rows = slice(0, 500)
    some = bench.redraw_pairs(lists, 0, again.held.left[rows], again.held.right[rows])
    assert np.allclose(some.rescored.scored.bits, again.rescored.scored.bits[rows], atol=1e-3)
    # As if nobody had decided anything, decisions have no part in the scores.
    first = again.held.left[:1], again.held.right[:1]
    decided = bench_of(generated, Decisions(np.zeros((0, 2), dtype=np.int32), np.stack(first, axis=1)))
    decided.settle(lists)
    assert not decided.knows_undecided(lists)
    decided.settle_undecided(lists)
    assert decided.knows_undecided(lists)
    free = decided.redraw(lists, undecided=True)
    bits = dict(
        zip(
            zip(free.held.left.tolist(), free.held.right.tolist(), strict=True),
            free.rescored.scored.bits.tolist(),
            strict=True,
        )
    )
    both = set(bits) & set(known)
    assert len(both) > 1000
    assert max(abs(bits[pair] - known[pair]) for pair in both) < 1e-3
