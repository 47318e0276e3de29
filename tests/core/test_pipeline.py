from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core import explain
from oddpair.core.errors import Cancelled, InputError
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.pipeline import MatchResult, run
from oddpair.core.plan import default_plan
from oddpair.core.records import RecordSetBuilder
from oddpair.core.scoring import Scorer
from oddpair.core.tidying import tidy_records

from .strategies import record_sets, records

PLAN = default_plan(RegisterKind.ORGANISATION)
Rows = list[tuple[str, str, dict[str, str]]]


def outcome(result: MatchResult) -> tuple:
    """Everything that a run decides, by source and id."""
    names = [(result.records.source_of(place), result.records.ids[place]) for place in range(len(result.records))]
    pairs = result.pairs
    scored = [
        (names[a], names[b], round(bits, 4), same)
        for a, b, bits, same in zip(
            pairs.left.tolist(), pairs.right.tolist(), pairs.scored.bits.tolist(), pairs.same.tolist(), strict=True
        )
    ]
    return names, result.labels.tolist(), scored, result.compared


@given(record_sets(most=20), st.randoms(use_true_random=False))
def test_the_result_does_not_depend_on_the_order_of_rows(rows: Rows, random: Random) -> None:
    shuffled = rows.copy()
    random.shuffle(shuffled)
    assert outcome(run(records(rows), PLAN)) == outcome(run(records(shuffled), PLAN))


@given(record_sets(most=20))
def test_every_pair_inside_a_cluster_is_told_and_is_the_same(rows: Rows) -> None:
    result = run(records(rows), PLAN)
    told = {
        (a, b): same
        for a, b, same in zip(
            *(side.tolist() for side in (result.pairs.left, result.pairs.right, result.pairs.same)), strict=True
        )
    }
    assert len(told) == len(result.pairs)
    for one, label in enumerate(result.labels.tolist()):
        for other in np.flatnonzero(result.labels == label).tolist():
            assert one >= other or told[one, other]


@given(record_sets())
def test_evidence_adds_up_to_the_score_and_every_pair_has_its_sentence(rows: Rows) -> None:
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))
    scorer = Scorer(tidy, PLAN)
    left, right = (side.astype(np.int32) for side in np.triu_indices(len(tidy), 1))
    scored = scorer.score(left, right)
    back = scorer.score(right, left)
    parts = scorer.parts(left, right)
    free = scored.condition < 0
    assert np.allclose(parts.bits[free], scored.bits[free], atol=1e-3)
    assert (parts.relatives <= 0).all()
    assert np.allclose(scored.bits, back.bits)
    result = run(records(rows), PLAN)
    table = explain.evidence_table(result.scorer, result.pairs)
    by_evidence = result.pairs.scored.condition < 0
    assert np.allclose(table.rows.sum(axis=0)[by_evidence], result.pairs.scored.bits[by_evidence], atol=1e-2)
    assert all(text.endswith(".") for text in explain.sentences(result.scorer, result.pairs))


@pytest.mark.parametrize(
    "rows",
    [
        [("till", "1", {"name": "Tern Boatyard"})],
        [("till", str(n), {"name": "Tern Boatyard"}) for n in range(300)],
        [("till", str(n), {"name": "UNKNOWN", "address.postcode": "00000"}) for n in range(40)],
        [("till", str(n), {}) for n in range(3)],
        [("till", str(n), {"phone": "01632 960001"}) for n in range(4)],
    ],
    ids=["one record", "all alike", "default values", "all empty", "one column without names"],
)
def test_small_and_odd_inputs_give_sensible_results(rows: Rows) -> None:
    result = run(records(rows), PLAN)
    assert len(result.labels) == len(rows)
    assert np.isfinite(result.pairs.scored.bits).all()


def test_no_records_at_all() -> None:
    assert run(records([]), PLAN).cluster_count == 0


def test_clear_duplicates_are_joined_and_different_firms_are_not() -> None:
    result = run(
        records([
            ("till", "1", {"name": "SKUA ROPE WORKS LTD", "address.line": "14 HARBOUR ST, WHITBY YO21 1AA", "phone": "01632960001"}),
            ("webshop", "1", {"name": "Skua Rope Works", "address.line": "14 Harbour Street", "address.city": "Whitby",
                              "address.postcode": "YO21 1AA", "phone": "+44 1632 960001"}),
            ("webshop", "2", {"name": "Skua Sail Lofts", "address.line": "99 Quay Road", "address.city": "Oban", "phone": "+44 1632 960777"}),
        ]),
        PLAN,
    )  # fmt: skip
    assert result.labels[0] == result.labels[1] != result.labels[2]


def test_a_run_can_be_cancelled() -> None:
    def stop(stage: str, done: int, total: int) -> None:
        if stage == "compare":
            raise Cancelled

    with pytest.raises(Cancelled):
        run(records([("till", str(n), {"name": "Tern Boatyard"}) for n in range(5)]), PLAN, progress=stop)


def test_an_id_that_a_source_delivers_twice_is_refused() -> None:
    builder = RecordSetBuilder()
    builder.add("till", "7", {"name": "A"})
    builder.add("till", "7", {"name": "B"})
    with pytest.raises(InputError, match="till: the id '7' occurs twice"):
        builder.build()
