"""Scores settled by the best pairing: one partner in every other source, several where it is close, decisions first."""

from random import Random

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.clustering import Decisions
from oddpair.core.fields import RegisterKind
from oddpair.core.pipeline import MatchResult, run
from oddpair.core.plan import MatchPlan, Scope, default_plan
from oddpair.core.records import RecordSet

from .strategies import record_sets, records

PLAN = default_plan(RegisterKind.ORGANISATION)


def one_to_one(margin: float = 3.0) -> MatchPlan:
    return PLAN.model_copy(update={"scope": Scope(one_to_one=True, margin=margin)})


def same_pairs(result: MatchResult) -> list[tuple[int, int]]:
    pairs = result.pairs
    return [
        (a, b)
        for a, b, same in zip(pairs.left.tolist(), pairs.right.tolist(), pairs.same.tolist(), strict=True)
        if same
    ]


@given(record_sets(most=14), st.sampled_from([0.0, 3.0, 30.0]))
def test_nobody_has_two_partners_in_a_source_nor_one_in_its_own(rows: list, margin: float) -> None:
    result = run(records(rows), one_to_one(margin))
    sources = result.records.source_codes
    taken = set()
    for a, b in same_pairs(result):
        assert sources[a] != sources[b]
        for one, other in ((a, b), (b, a)):
            assert (one, int(sources[other])) not in taken
            taken.add((one, int(sources[other])))


@given(record_sets(most=14))
def test_a_wider_margin_is_never_surer(rows: list) -> None:
    narrow, wide = (set(same_pairs(run(records(rows), one_to_one(margin)))) for margin in (0.0, 12.0))
    assert wide <= narrow


@given(record_sets(most=12), st.randoms(use_true_random=False))
def test_the_pairing_does_not_hang_on_the_order_of_rows(rows: list, random: Random) -> None:
    shuffled = rows.copy()
    random.shuffle(shuffled)

    def told(built: RecordSet) -> list[tuple[str, str]]:
        result = run(built, one_to_one())
        return [(result.records.ids[a], result.records.ids[b]) for a, b in same_pairs(result)]

    assert told(records(rows)) == told(records(shuffled))


@given(record_sets(most=12), st.data())
def test_decided_pairs_are_part_of_the_pairing_and_refused_ones_are_not(rows: list, data: st.DataObject) -> None:
    built = records(rows)
    across = [
        (a, b)
        for a in range(len(built))
        for b in range(a + 1, len(built))
        if built.source_codes[a] != built.source_codes[b]
    ]
    if not across:
        return
    pair = data.draw(st.sampled_from(across))
    wanted, nothing = np.array([pair], dtype=np.int32), np.zeros((0, 2), dtype=np.int32)
    same = run(built, one_to_one(), decisions=Decisions(wanted, nothing))
    assert same.labels[pair[0]] == same.labels[pair[1]]
    apart = run(built, one_to_one(), decisions=Decisions(nothing, wanted))
    assert apart.labels[pair[0]] != apart.labels[pair[1]]
