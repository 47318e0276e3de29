import numpy as np
import pytest

from oddpair.core.compare import comparison
from oddpair.core.explain import Beside, evidence_table, explain_pair, explain_scored, sentence_of, sentences
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.pipeline import PairTable, run
from oddpair.core.plan import MatchPlan, default_plan, parse_plan
from oddpair.core.plan.text import default_plan_text
from oddpair.core.records import IntArray
from oddpair.core.scoring import Band, ScoredPairs, Scorer
from oddpair.core.tidying import tidy_records

from .strategies import records

PLAN = default_plan(RegisterKind.ORGANISATION)
Row = dict[str, str]


def scored(*rows: Row, plan: MatchPlan = PLAN) -> tuple[Scorer, ScoredPairs]:
    """Score the first two of the rows, in the company of the others."""
    tidy = tidy_records(
        default_layout(plan.kind), records([("till", f"{place:03d}", row) for place, row in enumerate(rows)])
    )
    scorer = Scorer(tidy, plan)
    return scorer, scorer.score(*(np.array([place], np.int32) for place in (0, 1)))


def bits_of(field: str, *rows: Row) -> float:
    scorer, _ = scored(*rows)
    left, right = (np.array([place], np.int32) for place in (0, 1))
    return float(scorer.parts(left, right).evidence[[rule.field for rule in PLAN.comparisons].index(field)][0])


SKUA = {"name": "Skua Rope Works", "phone": "01632 960001"}
OTHERS = [{"name": f"Firm{n} Boatyard", "phone": f"01632 9601{n:02d}"} for n in range(40)]


def test_agreement_on_a_rare_value_says_more_than_on_a_common_one() -> None:
    rare = bits_of("phone", SKUA, SKUA, *OTHERS)
    switchboard = [{**other, "phone": SKUA["phone"]} for other in OTHERS]
    common = bits_of("phone", SKUA, SKUA, *switchboard)
    assert common < rare
    assert common >= 0


def test_agreement_never_turns_into_evidence_against() -> None:
    everybody = [{"name": "Marine Services", "phone": "01632 960001"}] * 30
    assert bits_of("phone", *everybody) >= 0
    assert bits_of("name", *everybody) >= 0


def test_missing_values_say_nothing() -> None:
    assert bits_of("email", SKUA, SKUA, *OTHERS) == 0


@pytest.mark.parametrize(
    ("same", "unsure", "band"), [(1, 0, Band.SAME), (99, 1, Band.UNSURE), (99, 98, Band.DIFFERENT)]
)
def test_the_limits_make_the_bands(same: float, unsure: float, band: Band) -> None:
    text = (
        default_plan_text(RegisterKind.ORGANISATION)
        .replace("same: 1.0", f"same: {same}")
        .replace("unsure: -6.0", f"unsure: {unsure}")
    )
    scorer, pairs = scored(SKUA, SKUA, *OTHERS, plan=parse_plan(text))
    assert (scorer.same(pairs)[0], scorer.kept(pairs)[0]) == (band is Band.SAME, band is not Band.DIFFERENT)


def test_a_veto_outweighs_everything() -> None:
    one = {**SKUA, "tax_number": "GB980780684", "email": "info@skua.example"}
    other = {**SKUA, "tax_number": "GB340804329", "email": "info@skua.example"}
    scorer, pairs = scored(one, other, *OTHERS)
    assert pairs.vetoed.tolist() == [True]
    assert not scorer.kept(pairs)[0]
    [sentence] = sentences(scorer, settled(np.array([0], np.int32), np.array([1], np.int32), pairs))
    assert sentence.endswith("but both have a valid tax number and they are different, which nothing outweighs.")


def settled(left: IntArray, right: IntArray, scored: ScoredPairs) -> PairTable:
    nothing = np.zeros(len(left), np.float32)
    return PairTable(left, right, scored, np.zeros(len(left), np.bool_), nothing, nothing, np.zeros(len(left), np.int8))


def levels(**chosen: str) -> list[int]:
    return [
        comparison(rule.using).level_number(chosen.get(rule.field.replace(".", "_"), "missing"))
        for rule in PLAN.comparisons
    ]


def sentence(chosen: dict[str, str], bits: dict[str, float]) -> str:
    fields = [rule.field.replace(".", "_") for rule in PLAN.comparisons]
    return sentence_of(
        explain_pair(PLAN, levels(**chosen), [bits.get(field, 0.0) for field in fields], beside=Beside(-9), score=0)
    )


def test_sentences_name_the_strongest_reasons_first() -> None:
    told = sentence(
        {"name": "close", "phone": "equal", "address": "other street"}, {"name": 5, "phone": 8, "address": -3}
    )
    assert (
        told == "The phone is the same and the names are nearly the same, but the street in the same town is another."
    )


def test_a_branch_is_named_beside_one_stronger_reason_against() -> None:
    told = sentence(
        {"phone": "equal", "name": "one site", "address": "other street"}, {"phone": 8, "name": -0.2, "address": -3}
    )
    assert told.endswith(
        "but the street in the same town is another and only one of two like names has a site or branch."
    )


def test_sentences_without_doubts_or_without_reasons() -> None:
    assert sentence({"name": "equal"}, {"name": 8}) == "The names are the same; nothing speaks against it."
    assert sentence({"name": "different"}, {"name": -7}) == "The names differ."
    assert sentence({}, {}) == "There is too little to compare."


def test_what_differs_is_named_even_where_it_speaks_for_the_pair() -> None:
    chosen = {"name": "equal", "address": "other street"}
    for bits in (6.0, 1.0):
        told = sentence(chosen, {"name": 8, "address": bits})
        assert told == "The names are the same, though the street in the same town is another."
    # Too little to name, but enough not to say that there is nothing.
    assert sentence(chosen, {"name": 8, "address": -0.5}) == "The names are the same."
    told = sentence({"name": "equal", "address": "other number"}, {"name": 8, "address": -0.5})
    assert told == "The names are the same, though the house number in the same street is another."
    assert sentence({"address": "other street"}, {"address": 5}) == "The street in the same town is another."
    assert (
        sentence({"name": "equal", "address": "same country"}, {"name": 8})
        == "The names are the same; nothing speaks against it."
    )


def test_weak_evidence_is_not_worth_a_word() -> None:
    told = sentence({"name": "equal", "name_legal_form": "different"}, {"name": 8, "name_legal_form": -0.5})
    assert "legal form" not in told


def test_sentences_made_once_per_kind_equal_sentences_made_one_by_one() -> None:
    rows = [
        SKUA,
        {**SKUA, "name": "Skua Rope Wroks"},
        {"name": "Skua Sail Lofts", "phone": "01632 960001"},
        *OTHERS[:8],
    ]
    tidy = tidy_records(
        default_layout(PLAN.kind), records([("till", f"{place:03d}", row) for place, row in enumerate(rows)])
    )
    scorer = Scorer(tidy, PLAN)
    left, right = (side.astype(np.int32) for side in np.triu_indices(len(rows), 1))
    pairs = scorer.score(left, right)
    table = settled(left, right, pairs)
    evidence = evidence_table(scorer, table)
    singly = [sentence_of(explain_scored(scorer, table, evidence, place)) for place in range(len(left))]
    assert sentences(scorer, table) == singly
    assert sentences(scorer, settled(left[:0], right[:0], scorer.score(left[:0], right[:0]))) == []


def test_rivals_and_experience_have_lines_of_their_own_and_rivals_a_word_in_the_sentence() -> None:
    bits = [8.0] + [0.0] * (len(PLAN.comparisons) - 1)
    told = explain_pair(PLAN, levels(name="equal"), bits, beside=Beside(-9, calibrated=1.5, rivals=-2.3), score=-1.8)
    assert sum(item.bits for item in told) == pytest.approx(-1.8)
    assert [item.level for item in told if item.level in ("experience", "rivals")] == ["experience", "rivals"]
    assert sentence_of(told) == "The names are the same, but another record fits as well."


RELATIVES: list[tuple[str, str, Row]] = [
    ("A", "1", {"name": "Brackwater Chandlery Scarborough Ltd", "address": "4 Quay Street, Whitby", "phone": "01632 960123"}),
    ("B", "2", {"name": "Brackwater Chandlery Whitby Ltd", "address": "4 Quay Street, Whitby", "phone": "01632 960123"}),
    ("C", "3", {"name": "Brackwater Chandlery", "address": "9 Mill Lane, Whitby", "phone": "01632 960123"}),
]  # fmt: skip


def test_who_reaches_the_upper_limit_is_no_relative_however_low_it_is() -> None:
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(RELATIVES))
    left, right = (np.array([place], np.int32) for place in (0, 2))
    scorer = Scorer(tidy, PLAN)
    bits, taken = float(scorer.parts(left, right).bits[0]), float(scorer.parts(left, right).relatives[0])
    clustering = PLAN.clustering.model_copy(update={"relatives_below": bits + 10})
    for same, apart in ((bits - taken / 2, True), (bits - 0.01, False)):
        limits = PLAN.limits.model_copy(update={"same": same, "unsure": bits - 5})
        plan = PLAN.model_copy(update={"limits": limits, "clustering": clustering, "conditions": ()})
        assert Scorer(tidy, plan).score_within_clusters(left, right).vetoed.tolist() == [apart]


FATHER_AND_SON: list[tuple[str, str, Row]] = [
    ("A", "1", {"name": "Torben Halsund", "address": "4 Quay Street, Whitby", "phone": "01632 960123", "birth_date": "1950-03-01"}),
    ("B", "2", {"name": "Torben Halsund", "address": "4 Quay Street, Whitby", "phone": "01632 960123", "birth_date": "1979-11-24"}),
    ("C", "3", {"name": "Torben Halsund", "address": "4 Quay Street, Whitby", "phone": "01632 960123"}),
]  # fmt: skip


@pytest.mark.parametrize(("then", "apart"), [("kept apart", True), ("at most unsure", False)])
def test_no_third_record_joins_two_that_a_condition_keeps_apart(then: str, apart: bool) -> None:
    plan = default_plan(RegisterKind.PERSON)
    changed = plan.conditions[0].model_copy(update={"then": then})
    plan = plan.model_copy(update={"conditions": (changed, *plan.conditions[1:])})
    tidy = tidy_records(default_layout(RegisterKind.PERSON), records(FATHER_AND_SON))
    result = run(tidy, plan, are_tidy=True)
    pairs = result.pairs
    assert (result.labels[0] != result.labels[1]) == apart
    between = (pairs.left == 0) & (pairs.right == 1)
    assert float(pairs.scored.bits[between][0]) < plan.limits.same
