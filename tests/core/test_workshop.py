"""The workshop keeps what is costly to make between matches: never more than it may, and never anything else than made afresh."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.pair_sample import PairSample, PairSampling
from oddpair.core.pair_sample import joined as joined_samples
from oddpair.core.pipeline import run
from oddpair.core.plan import MatchPlan, default_plan
from oddpair.core.records import RecordSet
from oddpair.core.sides import Sides
from oddpair.core.tidying import tidy_records
from oddpair.core.workshop import KeepingWorkshop, Workshop, digest, rule_identity

from .strategies import record_sets, records

PLAN = default_plan(RegisterKind.ORGANISATION)
NAMES = [
    "Tern Ropes",
    "Tern Rope",
    "Skua Works",
    "Skua Marine Works",
    "Eider Sails",
    "Eider Sail Loft",
    "Petrel Paint",
    "Gannet Gear",
]


def tidy_of(count: int = 40, word: str = "") -> RecordSet:
    rows = [
        (
            "till" if number % 2 else "webshop",
            f"{number}",
            {"name": f"{NAMES[number % 8]} {word}", "phone": f"01632 960{number // 3:03d}"},
        )
        for number in range(count)
    ]
    return tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))


def quiet(stage: str, done: int, total: int) -> None:
    """Progress that nobody hears."""


def rule(name: str, plan: MatchPlan = PLAN) -> object:
    return next(one for one in plan.comparisons if one.name == name)


def test_the_same_is_given_again_as_long_as_records_and_plan_are_the_same() -> None:
    tidy, workshop = tidy_of(), KeepingWorkshop(10**7)
    finished = workshop.finished(tidy)
    assert workshop.finished(tidy) is finished
    everyone = Sides.of_all(len(finished))
    index = workshop.index(finished, PLAN, everyone, quiet)
    assert workshop.index(finished, PLAN, everyone, quiet) is index
    narrower = PLAN.model_copy(update={"blocking": PLAN.blocking.model_copy(update={"keys": ("phone.end",)})})
    assert workshop.index(finished, narrower, everyone, quiet) is not index
    # Which records take part makes other blocks, limits do not.
    half = np.arange(len(finished)) % 2 == 0
    assert workshop.index(finished, PLAN, Sides(half, half), quiet) is not index
    looser = PLAN.model_copy(update={"limits": PLAN.limits.model_copy(update={"same": 1.0})})
    assert workshop.index(finished, looser, everyone, quiet).members.tolist() == index.members.tolist()


def test_other_records_are_never_taken_for_those_that_were_kept() -> None:
    workshop = KeepingWorkshop(10**7)
    pairs = np.array([0, 0], dtype=np.int32), np.array([1, 2], dtype=np.int32)
    for word in ("north", "south", "east", "west", "north"):
        tidy = workshop.finished(tidy_of(word=word))
        for comparison in PLAN.comparisons[:3]:
            kept = workshop.measure_of(comparison, tidy)(*pairs)
            fresh = Workshop().measure_of(comparison, tidy)(*pairs)
            assert kept.levels.tolist() == fresh.levels.tolist()
            assert kept.shared.tolist() == pytest.approx(fresh.shared.tolist())


def test_levels_are_kept_in_bounded_memory_those_used_last() -> None:
    tidy = tidy_of(60)
    one, other = (side.astype(np.int32) for side in np.triu_indices(60, 1))
    size = len(one) * 5
    workshop = KeepingWorkshop(3 * size)
    for comparison in PLAN.comparisons:
        workshop.measure_of(comparison, tidy)(one, other)
        assert workshop.kept_bytes <= 3 * size
    assert workshop.kept_bytes == 3 * size
    tiny = KeepingWorkshop(10)
    tiny.measure_of(PLAN.comparisons[0], tidy)(one, other)
    assert tiny.kept_bytes == 0


def test_a_comparison_is_told_apart_by_what_its_levels_come_from_only() -> None:
    tidy, phone = tidy_of(), next(one for one in PLAN.comparisons if one.name == "phone")
    same = rule_identity(phone, tidy)
    assert (
        rule_identity(phone.model_copy(update={"label": "telephone", "strength": 0.3, "bits": {"equal": 2.0}}), tidy)
        == same
    )
    assert rule_identity(phone.model_copy(update={"learned": {"equal": 1.0}}), tidy) == same
    assert rule_identity(phone.model_copy(update={"using": "exact"}), tidy) != same
    assert rule_identity(phone.model_copy(update={"field": "email"}), tidy) != same


@given(st.lists(st.integers(0, 2**31 - 1), max_size=20), st.lists(st.integers(0, 2**31 - 1), max_size=20))
def test_a_digest_is_another_for_other_arrays(one: list[int], other: list[int]) -> None:
    left, right = np.array(one, dtype=np.int32), np.array(other, dtype=np.int32)
    assert digest(left) == digest(left.copy())
    assert (digest(left) == digest(right)) == (one == other)


@given(record_sets(), st.integers(2, 4))
def test_match_after_match_in_one_workshop_comes_out_as_each_alone(
    rows: list[tuple[str, str, dict[str, str]]], times: int
) -> None:
    tidy, workshop = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows)), KeepingWorkshop(10**6)
    alone = run(tidy, PLAN, are_tidy=True)
    for _ in range(times):
        again = run(tidy, PLAN, are_tidy=True, workshop=workshop)
        assert again.labels.tolist() == alone.labels.tolist()
        assert again.pairs.scored.bits.tolist() == alone.pairs.scored.bits.tolist()


def sample_of(pairs: list[tuple[int, int]]) -> PairSample:
    left, right = (
        (np.array(side, dtype=np.int32) for side in zip(*pairs, strict=True)) if pairs else (np.zeros(0, np.int32),) * 2
    )
    return PairSample(left, right, np.ones(len(pairs), dtype=np.float32))


@given(st.lists(st.lists(st.tuples(st.integers(0, 50), st.integers(51, 99)), max_size=6), max_size=5))
def test_samples_of_chunks_are_joined_in_the_order_of_their_pairs(chunks: list[list[tuple[int, int]]]) -> None:
    joined = joined_samples([sample_of(chunk) for chunk in chunks])
    pairs = list(zip(joined.left.tolist(), joined.right.tolist(), strict=True))
    assert pairs == sorted(pair for chunk in chunks for pair in chunk)


def test_near_pairs_are_all_held_and_far_ones_as_many_as_asked_for() -> None:
    tidy = tidy_of(200)
    every = run(tidy, PLAN, are_tidy=True, sampling=PairSampling(200.0, 10**6)).first
    assert (every.sample.weight == 1).all()
    assert len(every.sample) == every.compared
    part = run(tidy, PLAN, are_tidy=True, sampling=PairSampling(0.0, 500)).first
    assert len(part.sample) < len(every.sample)
    near = every.settled.scored.bits >= PLAN.limits.unsure
    held = set(zip(part.sample.left.tolist(), part.sample.right.tolist(), strict=True))
    settled = zip(every.settled.left[near].tolist(), every.settled.right[near].tolist(), strict=True)
    assert set(settled) <= held
    # The far ones stand for all of their kind.
    assert float(part.sample.weight.sum()) == pytest.approx(every.compared, rel=0.25)
