"""The contest for partners: against counting matchings by hand, and on small lists with known truth."""

from collections.abc import Sequence
from itertools import combinations
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.contest.contest import Candidates, Lists, surely_matched
from oddpair.core.contest.free_lists import FreeLists, find_free_lists, rivals_for_one_partner
from oddpair.core.contest.messages import choices_of, rival_bits
from oddpair.core.contest.partner_left_out import curve_without_partners
from oddpair.core.contest.refit import Refit, refit
from oddpair.core.explain import evidence_table
from oddpair.core.fields import RegisterKind
from oddpair.core.pipeline import MatchResult, run
from oddpair.core.plan import MatchPlan, default_plan
from oddpair.core.records import IntArray, RecordSetBuilder
from oddpair.core.scoring import probability

PLAN = default_plan(RegisterKind.ORGANISATION)
Pair = tuple[int, int]
BOTH = np.array([True, True])


def rivals(
    pairs: Sequence[Pair], odds: Sequence[float], sources: Sequence[int], free: Sequence[bool] = (True, True)
) -> list[float]:
    left, right = (np.array([pair[side] for pair in pairs], np.int32) for side in (0, 1))
    choices = choices_of(left, right, np.array(sources, np.int32), np.array(free))
    return [float(bits) for bits in rival_bits(np.array(odds, np.float64), choices)]


def chances_by_counting(pairs: Sequence[Pair], odds: Sequence[float]) -> list[float]:
    """Go through every matching: the chance of a pair is the share of the weight of those that hold it."""
    total, holding = 0.0, [0.0] * len(pairs)
    for size in range(len(pairs) + 1):
        for chosen in combinations(range(len(pairs)), size):
            ends = [end for place in chosen for end in pairs[place]]
            if len(set(ends)) == len(ends):
                weight = 2.0 ** sum(odds[place] for place in chosen)
                total += weight
                for place in chosen:
                    holding[place] += weight
    return [weight / total for weight in holding]


@given(st.lists(st.floats(-8, 8), min_size=1, max_size=6))
def test_on_a_path_of_candidates_the_chances_are_those_of_all_matchings(odds: list[float]) -> None:
    # Records 0, 1, 2 … stand in the two lists by turns; each is a candidate of the next.
    pairs = [(place, place + 1) for place in range(len(odds))]
    taken = rivals(pairs, odds, [place % 2 for place in range(len(odds) + 1)])
    found = probability(np.array(odds, np.float32) + np.array(taken, np.float32))
    assert found.tolist() == pytest.approx(chances_by_counting(pairs, odds), abs=0.02)


@given(st.integers(0, 10**6), st.floats(-6, 14))
def test_rivals_only_take_and_the_order_of_pairs_does_not_matter(seed: int, most: float) -> None:
    random = Random(seed)
    pairs = sorted({(random.randrange(6), 6 + random.randrange(6)) for _ in range(14)})
    odds = [random.uniform(-8, most) for _ in pairs]
    taken = dict(zip(pairs, rivals(pairs, odds, [0] * 6 + [1] * 6), strict=True))
    assert max(taken.values()) <= 0
    shuffled = list(zip(pairs, odds, strict=True))
    random.shuffle(shuffled)
    again = rivals([pair for pair, _ in shuffled], [bits for _, bits in shuffled], [0] * 6 + [1] * 6)
    for (pair, _), bits in zip(shuffled, again, strict=True):
        assert bits == pytest.approx(taken[pair], abs=0.05)


def test_two_that_fit_alike_share_the_chance_and_one_that_nobody_contests_loses_nothing() -> None:
    one, other, alone = rivals([(0, 2), (1, 2), (3, 4)], [20, 20, 20], [0, 0, 1, 0, 1])
    assert one == pytest.approx(other)
    assert 20 + one == pytest.approx(0, abs=0.1)
    assert alone == 0


def test_where_one_list_has_duplicates_only_the_other_lists_records_choose() -> None:
    # Two records of the first list may both be the one of the second, if the first has duplicates; not the other way round.
    assert rivals([(0, 2), (1, 2)], [9, 9], [0, 0, 1], (False, True)) == [0, 0]
    assert max(rivals([(0, 1), (0, 2)], [9, 9], [0, 1, 1], (False, True))) < -8


def test_duplicates_are_no_rivals_of_each_other_but_others_are() -> None:
    left, right = np.array([0, 1, 2], np.int32), np.array([3, 3, 3], np.int32)
    choices = choices_of(left, right, np.array([0, 0, 0, 1], np.int32), BOTH, np.array([0, 0, 2, 3], np.int32))
    one, twin, other = rival_bits(np.array([9.0, 9.0, 0.0]), choices)
    assert one == pytest.approx(twin)
    assert -2 < one < 0
    assert other < -8


def free_lists(pairs: Sequence[tuple[int, int, float]], sources: list[int]) -> FreeLists:
    left, right, odds = (np.array([pair[place] for pair in pairs]) for place in range(3))
    one, other = left.astype(np.int32), right.astype(np.int32)
    return find_free_lists(one, other, odds.astype(np.float64), np.array(sources, np.int32), ~BOTH)


def free(pairs: Sequence[tuple[int, int, float]], sources: list[int]) -> list[bool]:
    return [bool(value) for value in free_lists(pairs, sources).free]


def test_neighbours_with_partners_of_their_own_are_no_duplicates_but_two_that_fit_one_partner_are() -> None:
    count = 40
    sources = [0] * 2 * count + [1] * 2 * count
    own = [(place, place + 2 * count, 9.0) for place in range(2 * count)]
    alike = [(place, place + 1, 5.0) for place in range(0, 2 * count, 2)]
    assert free([*own, *alike], sources) == [True, True]
    one_partner = [(place + 1, place + 2 * count, 9.0) for place in range(0, 2 * count, 2)]
    assert free([*own[::2], *one_partner, *alike], sources) == [False, True]
    found = free_lists([*own[::2], *one_partner[:4], *alike[:4]], sources)
    assert found.nearly.tolist() == [True, True]
    assert [found.twins[place] == found.twins[place + 1] for place in (0, 2, 8)] == [True, True, False]


def test_rivals_for_one_partner_are_the_two_best_of_a_list() -> None:
    left, right = np.array([0, 1, 2, 0], np.int32), np.array([3, 3, 3, 1], np.int32)
    odds = np.array([9.0, 4.0, 7.0, 9.0])
    one, other = rivals_for_one_partner(left, right, odds, np.array([0, 0, 0, 1], np.int32))
    assert list(zip(one.tolist(), other.tolist(), strict=True)) == [(0, 2)]


@given(st.floats(1, 5000), st.integers(10, 5000), st.integers(10, 5000))
def test_more_matches_start_higher_and_the_two_lists_are_alike(matches: float, one: int, other: int) -> None:
    lists = Lists(np.array([one, other], np.float64), BOTH, ~np.eye(2, dtype=np.bool_))
    starts, more = (lists.starts(np.full((2, 2), min(matches * factor, one, other))) for factor in (1.0, 1.5))
    assert starts[0, 1] == starts[1, 0] <= more[0, 1]
    assert np.isfinite(starts).all()


def test_pairs_that_agree_in_full_beyond_what_chance_brings_together_are_counted_as_matches() -> None:
    count, rows = 1000, 300
    left = np.concatenate([np.arange(rows), np.arange(0, 40, 2)]).astype(np.int32)
    right = np.concatenate([np.arange(rows) + count, np.arange(1, 41, 2)]).astype(np.int32)
    sources = (np.arange(2 * count) >= count).astype(np.int32)
    nothing = np.zeros((1, len(left)))
    candidates = Candidates(
        left, right, nothing, nothing[0], nothing.astype(np.int8), nothing[0].astype(np.int8), nothing[0] == 0
    )
    sizes = np.full(2, float(count))
    everywhere, across = np.ones((2, 2), dtype=np.bool_), ~np.eye(2, dtype=np.bool_)
    least = surely_matched(candidates, sources, Lists(sizes, BOTH, everywhere))
    # 20 of 499,500 pairs inside a list agree in full by chance, so about 40 of the million between the lists do.
    assert 240 < least[0, 1] == least[1, 0] < 260
    assert not surely_matched(candidates, sources, Lists(sizes, BOTH, across)).any()


def test_what_a_record_would_win_without_its_partner_tells_how_far_odds_can_be_believed() -> None:
    count = 400
    left = np.concatenate([np.arange(count), np.arange(count)]).astype(np.int32)
    right = np.concatenate([np.arange(count) + count, (np.arange(count) + 1) % count + count]).astype(np.int32)
    sources = (np.arange(2 * count) >= count).astype(np.int32)
    choices = choices_of(left, right, sources, BOTH)
    odds = np.concatenate([np.full(count, 20.0), np.full(count, 6.0)])
    curve = curve_without_partners(odds, rival_bits(odds, choices), choices, 4.0 * count, 2.0 * count)
    # Every sure record would have won at 6 bits, so winners at 6 bits are false, those at 20 bits are not.
    assert curve(np.array([6.0]))[0] < 3
    assert curve(np.array([20.0]))[0] > 10
    points = curve(np.linspace(-30, 60, 200))
    assert (np.diff(points) >= -1e-9).all()


def test_few_sure_records_teach_nothing() -> None:
    left, right = np.arange(10, dtype=np.int32), np.arange(10, 20, dtype=np.int32)
    choices = choices_of(left, right, (np.arange(20) >= 10).astype(np.int32), BOTH)
    curve = curve_without_partners(np.full(10, 20.0), np.zeros(10), choices, 20.0, 20.0)
    assert curve(np.array([-3.0, 5.0])).tolist() == [-3.0, 5.0]


def test_a_level_at_which_losers_gather_loses_weight() -> None:
    levels = np.array([[1] * 200 + [2] * 200], np.int8)
    evidence = np.full((1, 400), 12.0)
    chances = np.array([1.0] * 200 + [0.0] * 200)
    learned = refit(evidence, levels, np.full(400, -8.0), chances, 3)
    corrected = learned.corrected(evidence, levels)[0]
    assert corrected[0] > corrected[300] + 3
    assert Refit.none(1, 3).corrected(evidence, levels) == pytest.approx(evidence)


def match(
    *lists: Sequence[str], plan: MatchPlan = PLAN, without_duplicates: Sequence[str] = (), order: Random | None = None
) -> MatchResult:
    rows = [
        (f"list{number}", f"{place:05d}", name)
        for number, names in enumerate(lists)
        for place, name in enumerate(names)
    ]
    if order:
        order.shuffle(rows)
    builder = RecordSetBuilder()
    for source, key, name in rows:
        builder.add(source, key, {"name": name})
    return run(builder.build(), plan, without_duplicates=without_duplicates)


def same_pairs(result: MatchResult) -> set[tuple[str, str]]:
    ids = result.records.ids
    left, right, same = result.pairs.left.tolist(), result.pairs.right.tolist(), result.pairs.same.tolist()
    return {(ids[a], ids[b]) for a, b, is_same in zip(left, right, same, strict=True) if is_same}


def coined(count: int, seed: int) -> list[str]:
    random = Random(seed)
    letters = "bcdfghklmnprstvw", "aeiou"
    words = {"".join(random.choice(letters[place % 2]) for place in range(7)) for _ in range(2 * count)}
    trades = ("Ropes", "Marine", "Boatyard", "Sails", "Paints", "Engines")
    return [f"{word.title()} {random.choice(trades)}" for word in sorted(words)[:count]]


@pytest.mark.parametrize("size", [10, 10_000])
def test_a_name_of_one_word_is_the_same_in_two_lists_of_any_size_when_nobody_contests_it(size: int) -> None:
    names, others = coined(size - 1, 1), coined(size - 1, 2)
    shared = size // 2
    result = match(["Tern Ltd", *names], ["TERN LIMITED", *names[:shared], *others[shared:]])
    assert ("00000", "00000") in same_pairs(result)


def test_two_namesakes_in_one_list_leave_their_partner_to_a_person() -> None:
    names = coined(60, 3)
    result = match(
        [*names[:50], "Skua Ropes", "Skua Ropes"], [*names[:50], "Skua Ropes"], without_duplicates=["list0", "list1"]
    )
    decided = same_pairs(result)
    assert ("00050", "00050") not in decided
    assert ("00051", "00050") not in decided
    assert len(decided) >= 45


def test_unrelated_lists_have_no_pair_in_common() -> None:
    assert same_pairs(match(coined(300, 4), coined(300, 5))) == set()


def test_the_contest_is_held_where_the_plan_says_and_the_order_of_rows_does_not_matter() -> None:
    names = coined(80, 6)
    lists = names[:60], names[20:]
    never = PLAN.model_copy(update={"weights": PLAN.weights.model_copy(update={"contest": "none"})})
    assert match(*lists, plan=never).first.contest is None
    promised = PLAN.model_copy(update={"weights": PLAN.weights.model_copy(update={"contest": "promised"})})
    assert match(*lists, plan=promised).first.contest is None
    assert match(*lists, plan=promised, without_duplicates=["list0"]).first.free.tolist() == [True, False]
    found, again = match(*lists), match(*lists, order=Random(1))
    assert found.first.free.tolist() == [True, True]
    assert same_pairs(found) == same_pairs(again)
    assert np.array_equal(found.pairs.scored.bits, again.pairs.scored.bits)
    of_lists: IntArray = found.records.source_codes
    assert (of_lists[found.pairs.left[found.pairs.same]] != of_lists[found.pairs.right[found.pairs.same]]).all()


def test_a_duplicate_inside_a_list_that_is_free_stays_with_a_person_and_its_evidence_adds_up() -> None:
    names = coined(80, 8)
    result = match([*names, "Skua Ropes", "Skua Ropes"], [*names, "Skua Ropes"])
    assert result.first.free.tolist() == [True, True]
    codes = result.records.source_codes
    inside = np.flatnonzero(codes[result.pairs.left] == codes[result.pairs.right])
    assert len(inside) == 1
    assert not result.pairs.same[inside[0]]
    assert result.pairs.rivals[inside[0]] < 0
    sums = evidence_table(result.scorer, result.pairs).rows.sum(axis=0)
    assert np.allclose(sums, result.pairs.scored.bits, atol=1e-2)
