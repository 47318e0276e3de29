"""Recognition: whatever comes in which order, clusters end as those of one match of everything."""

from itertools import pairwise
from random import Random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddpair.core.blocking.learned_blocks import BlockNumbers
from oddpair.core.fields import RegisterKind
from oddpair.core.learned_match import from_bytes, to_bytes
from oddpair.core.pipeline import run
from oddpair.core.plan import default_plan
from oddpair.core.recognition import BlockDirectory, Near, learn_match, look_up, numbers_of
from oddpair.core.recognition.recognise import ByPlan
from tests.sizes import size

from .standing_register import Register, Rows, made_rows, tidy

KINDS = (RegisterKind.ORGANISATION, RegisterKind.PERSON)


def plan_of(kind: RegisterKind):  # type: ignore[no-untyped-def]
    """Return the plan of a kind with blocks that are soon too large, and no small list that is compared whole."""
    plan = default_plan(kind)
    return plan.model_copy(
        update={"blocking": plan.blocking.model_copy(update={"most_records": 6, "every_pair_up_to": 0})}
    )


@pytest.fixture(scope="module", params=KINDS, ids=str)
def learned(request: pytest.FixtureRequest) -> ByPlan:
    kind = request.param
    plan = plan_of(kind)
    _, found = learn_match(tidy(kind, made_rows(kind, 60, seed=1)), plan)
    return ByPlan(plan, found)


def whole(register: Register) -> tuple[set, dict]:
    """Return clusters and doubts of one match of all that is there."""
    found, ids = register.records(register.everyone())
    result = run(found, register.by.plan, are_tidy=True, learned=register.by.learned, decisions=register.decisions(ids))
    keys = [(found.source_of(place), found.ids[place]) for place in range(len(found))]
    clusters = {
        frozenset(keys[place] for place in np.flatnonzero(result.labels == label))
        for label in range(result.cluster_count)
    }
    pairs = result.pairs
    doubts = {
        tuple(sorted((int(ids[a]), int(ids[b])))): bits
        for a, b, bits, same in zip(pairs.left, pairs.right, pairs.scored.bits.tolist(), pairs.same, strict=True)
        if not same
    }
    return clusters, doubts


@settings(max_examples=size(everyday=3, long=12))
@given(st.integers(0, 10**6))
def test_any_cutting_into_deliveries_ends_as_one_match_of_everything(learned: ByPlan, seed: int) -> None:
    kind = learned.plan.kind
    random = Random(seed)
    rows = made_rows(kind, 30, seed=random.randrange(10**6))
    register = Register(kind, learned)
    keys = list(rows)
    random.shuffle(keys)
    while keys:
        cut = random.randint(1, len(keys))
        coming = {key: rows[key] for key in keys[:cut]}
        # Some known records come again, changed, and some leave.
        for key in random.sample(list(register.rows), min(3, len(register.rows))):
            coming[key] = random.choice(list(rows.values()))
        gone = [key for key in random.sample(list(register.rows), min(2, len(register.rows))) if key not in coming]
        keys = keys[cut:]
        register.deliver(coming, gone)
    clusters, doubts = whole(register)
    assert register.clusters() == clusters
    assert register.doubts == doubts
    assert len(clusters) < len(register.rows)


@settings(max_examples=size(everyday=2, long=8))
@given(st.integers(0, 10**6))
def test_decisions_made_and_withdrawn_between_deliveries_count_as_in_one_match(learned: ByPlan, seed: int) -> None:
    random = Random(seed)
    rows = made_rows(learned.plan.kind, 25, seed=random.randrange(10**6))
    register = Register(learned.plan.kind, learned)
    keys = list(rows)
    random.shuffle(keys)
    for part in (keys[: len(keys) // 2], keys[len(keys) // 2 :], []):
        register.deliver({key: rows[key] for key in part})
        together = [pair for pair in _pairs(register) if register.cluster[pair[0]] == register.cluster[pair[1]]]
        apart = sorted(register.doubts)
        register.different ^= set(random.sample(together, min(2, len(together))))
        register.same ^= set(random.sample(apart, min(3, len(apart)))) | set(random.sample(_pairs(register), 1))
        register.same -= register.different
        touched = {record for pair in together + apart + _pairs(register) for record in pair}
        register.deliver(
            {}, decided=touched if part else {record for pair in register.same | register.different for record in pair}
        )
    assert register.clusters() == whole(register)[0]


def _pairs(register: Register) -> list[tuple[int, int]]:
    here = sorted(register.numbers[key] for key in register.rows)
    return list(pairwise(here))


def test_what_a_match_learned_finds_what_it_found_and_survives_being_written_down(learned: ByPlan) -> None:
    kind = learned.plan.kind
    plan = learned.plan.model_copy(update={"weights": learned.plan.weights.model_copy(update={"contest": "none"})})
    plan = plan.model_copy(update={"blocking": plan.blocking.model_copy(update={"most_records": 200})})
    records = tidy(kind, made_rows(kind, 80, seed=5))
    result, found = learn_match(records, plan)
    again = run(records, plan, are_tidy=True, learned=from_bytes(to_bytes(found)))
    assert again.labels.tolist() == result.labels.tolist()
    assert again.pairs.left.tolist() == result.pairs.left.tolist()
    assert np.allclose(again.pairs.scored.bits, result.pairs.scored.bits, atol=1e-4)
    assert 0 < again.cluster_count < len(records)
    assert (~again.pairs.same).any()


def test_the_score_of_a_pair_does_not_hang_on_who_else_is_there(learned: ByPlan) -> None:
    kind = learned.plan.kind
    rows = made_rows(kind, 60, seed=7)
    scores = _scores(kind, rows, learned)
    half = dict(list(rows.items())[::2])
    few = _scores(kind, half, learned)
    assert few == {pair: score for pair, score in scores.items() if set(pair) <= set(half)}
    without = ByPlan(learned.plan, learn_match(tidy(kind, half), learned.plan)[1])
    assert _scores(kind, half, without) != few


def _scores(kind: RegisterKind, rows: Rows, by: ByPlan) -> dict:
    records = tidy(kind, rows)
    found = run(records, by.plan, are_tidy=True, learned=by.learned).first.settled
    keys = [(records.source_of(place), records.ids[place]) for place in range(len(records))]
    return {
        (keys[a], keys[b]): bits for a, b, bits in zip(found.left, found.right, found.scored.bits.tolist(), strict=True)
    }


def test_a_decided_chain_is_followed_when_its_link_comes_in_last(learned: ByPlan) -> None:
    rows = made_rows(learned.plan.kind, 20, seed=3)
    register = Register(learned.plan.kind, learned)
    register.deliver(rows)
    one, other, third = sorted(register.numbers[key] for key in register.rows)[:3]
    register.same |= {(one, other), (other, third)}
    register.deliver({}, decided=(one, other, third))
    assert len({register.cluster[record] for record in (one, other, third)}) == 1
    assert register.clusters() == whole(register)[0]


def test_a_look_up_gives_the_scores_that_recognition_would_give(learned: ByPlan) -> None:
    kind = learned.plan.kind
    rows = made_rows(kind, 40, seed=11)
    scores = _scores(kind, rows, learned)
    records = tidy(kind, rows)
    others = [
        (place, records.source_of(place), records.ids[place], records.row(place), place)
        for place in range(len(records))
    ]
    contested = learned.learned.between.contested.any()
    asked = list(range(0, len(records), 9))
    every = np.arange(len(records), dtype=np.int64)
    near = Near(np.repeat(np.arange(len(asked)), len(every)), np.tile(every, len(asked)))
    answers = look_up([records.row(place) for place in asked], others, near, learned, best=50)
    for place, found in zip(asked, answers, strict=True):
        own = (records.source_of(place), records.ids[place])
        assert [one.score for one in found] == sorted((one.score for one in found), reverse=True)
        assert place in [one.id for one in found]
        for one in found:
            other = (records.source_of(one.id), records.ids[one.id])
            known = scores.get((own, other), scores.get((other, own)))
            # Between sources that contest, where scores start is learned; who asks is of no source.
            if known is not None and not contested:
                assert one.score == pytest.approx(known, abs=0.011)
                assert (one.verdict == "same") == (known >= learned.plan.limits.same)
    # Asked one by one, and of few, the answers are the same.
    for place, found in zip(asked[:3], answers, strict=False):
        alone = Near(np.zeros(len(every), dtype=np.int64), every)
        assert look_up([records.row(place)], others, alone, learned, best=2) == [found[:2]]
        # Of a group the likeliest counts.
        grouped = [(*other[:4], 0) for other in others]
        assert look_up([records.row(place)], grouped, alone, learned, best=2) == [found[:1]]


def test_the_directory_finds_who_stands_in_a_block_whatever_came_when(learned: ByPlan) -> None:
    kind = learned.plan.kind
    records = tidy(kind, made_rows(kind, 30, seed=12))
    numbers = numbers_of(records, learned)
    ids = np.arange(len(records), dtype=np.int64) * 3 + 7
    whole, parts = BlockDirectory(), BlockDirectory()
    whole.add(numbers, ids)
    for third in range(14):
        own = numbers.owners % 14 == third
        parts.add(BlockNumbers(numbers.owners[own], numbers.keys[own], numbers.numbers[own]), ids)
    again = BlockDirectory.of_columns(*parts.columns())
    askers, found = whole.shared_by(numbers)
    for other in (parts, again):
        assert [column.tolist() for column in other.shared_by(numbers)] == [askers.tolist(), found.tolist()]
    together = set(zip(askers.tolist(), found.tolist(), strict=True))
    stands: dict[tuple[int, int], set[int]] = {}
    for owner, key, number in zip(
        numbers.owners.tolist(), numbers.keys.tolist(), numbers.numbers.tolist(), strict=True
    ):
        stands.setdefault((key, number), set()).add(owner)
    assert together == {(one, int(ids[other])) for block in stands.values() for one in block for other in block}
