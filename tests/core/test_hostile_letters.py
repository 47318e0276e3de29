"""Any letters, in any field, compared in any way: a run never ends by them. And limits that hold at every value."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import minimize

from oddpair.core import pipeline
from oddpair.core.clustering import Decisions, cluster_records
from oddpair.core.compare.registry import COMPARISONS
from oddpair.core.errors import InputError
from oddpair.core.fields import FieldKind, Layout, RegisterKind, layout_from
from oddpair.core.plan import default_plan
from oddpair.core.plan.conditions import Condition
from oddpair.core.scoring import ScoredPairs, fit_calibration
from oddpair.core.text.numbers import first_number, plain_number
from oddpair.core.tidying import tidy_fields, tidy_row
from oddpair.core.tidying.patterns import check_replacement

from .strategies import records

HOSTILE = (
    "ü", "info@müller.example", "山", "٣٤٥", "", " ", "x" * 5000, "a\u0301e\u0308", "\u00ad\u200d\u200b", "\ud800a", "İıß", "ﬁ", "👩‍👩‍👧", "0", "\x7f", "%_\\",
)  # fmt: skip
ADDED = [
    {"name": f"x_{kind.name.lower()}", "label": kind.value, "kind": kind.value, "register": "others" if kind is FieldKind.REFERENCE else ""}
    for kind in FieldKind
]  # fmt: skip


def added_layout(kind: RegisterKind) -> Layout:
    allowed = []
    for field in ADDED:
        try:
            layout_from(kind, [field])
        except InputError:
            continue
        allowed.append(field)
    return layout_from(kind, allowed)


@pytest.mark.parametrize("using", COMPARISONS)
def test_every_comparison_takes_every_kind_of_field_with_any_letters(using: str) -> None:
    layout = added_layout(RegisterKind.ORGANISATION)
    rows = [
        ("till", f"{number:03}", tidy_row(layout, {field.name: text for field in layout.fields}))
        for number, text in enumerate(HOSTILE)
    ]
    everything = records(rows)
    left, right = (side.astype(np.int32) for side in np.triu_indices(len(rows), 1))
    kind = COMPARISONS[using]
    one_of_each = {field.kind: field.name for field in layout.fields}
    options = {name: option.default for name, option in kind.options.items()}
    # Tidied and as delivered: a field's own kind tidies much away, and a text field nothing.
    as_delivered = records(
        [
            ("till", f"{number:03}", dict.fromkeys(tidy_fields(layout), text) if text else {})
            for number, text in enumerate(HOSTILE)
        ]
    )
    for of_records in (everything, as_delivered):
        for field in [*one_of_each.values(), "address", "name"]:
            levels, shared = kind.prepare(of_records, field, options)(left, right)
            other_way = kind.prepare(of_records, field, options)(right, left)
            assert (levels == other_way.levels).all(), field
            assert ((levels >= 0) & (levels < len(kind.levels))).all(), field
            assert np.isfinite(shared).all(), field


def test_every_kind_of_field_is_looked_at() -> None:
    kinds = {field.kind for field in added_layout(RegisterKind.ORGANISATION).fields}
    kinds |= {field.kind for field in added_layout(RegisterKind.PERSON).fields}
    assert kinds == set(FieldKind)


@pytest.mark.parametrize("kind", RegisterKind)
def test_a_run_survives_any_letters_in_any_field(kind: RegisterKind) -> None:
    layout = added_layout(kind)
    rows = [
        (source, f"{place}-{number}", {field.name: text for field in layout.fields if (number + place) % 3 or field.name == "name"})
        for source in ("till", "webshop")
        for place, text in enumerate(HOSTILE)
        for number in range(3)
    ]  # fmt: skip
    result = pipeline.run(records(rows), default_plan(kind), layout=layout)
    assert len(result.labels) == len(rows)


@given(st.lists(st.tuples(st.floats(-60, 60), st.booleans()), min_size=1, max_size=60))
def test_calibration_is_where_a_plain_optimiser_ends(decided: list[tuple[float, bool]]) -> None:
    bits = np.array([score for score, _ in decided], dtype=np.float32)
    same = np.array([verdict for _, verdict in decided])

    def regret(values: np.ndarray) -> float:
        odds = np.log(2) * (values[0] * bits.astype(np.float64) + values[1])
        return float(
            np.logaddexp(0, odds).sum() - odds[same].sum() + ((values[0] - 1) / 0.3) ** 2 / 2 + (values[1] / 2) ** 2 / 2
        )

    found = fit_calibration(bits, same)
    plain = minimize(regret, [1.0, 0.0], method="Nelder-Mead", options={"xatol": 1e-6, "fatol": 1e-10, "maxiter": 4000})
    if plain.x[0] > 0.2:
        assert regret(np.array([found.slope, found.shift])) <= plain.fun + 1e-4
    assert np.isfinite([found.slope, found.shift]).all()


@given(st.floats(0.1, 40))
def test_a_condition_that_says_same_joins_at_any_limit(limit: float) -> None:
    plan = default_plan(RegisterKind.ORGANISATION)
    limits = plan.limits.model_copy(update={"same": limit, "unsure": limit - 50})
    plan = plan.model_copy(update={"limits": limits, "conditions": (Condition(title="always", then="same"),)})
    rows = [("till", str(number), {"name": "Tern Boatyard"}) for number in range(2)]
    result = pipeline.run(records(rows), plan)
    assert result.labels[0] == result.labels[1]


@pytest.mark.parametrize("size", [30, 450])
def test_vetoes_hold_in_components_of_any_size(size: int) -> None:
    left = np.arange(size - 1, dtype=np.int32)
    right = left + 1

    def score(one: np.ndarray, other: np.ndarray) -> ScoredPairs:
        # Neighbours are linked; records 0 and the last contradict each other, which no neighbour shows.
        vetoed = np.abs(one - other) == size - 1
        bits = np.where(vetoed, -30.0, 20.0).astype(np.float32)
        return ScoredPairs(bits, np.zeros((1, len(one)), np.int8), vetoed, np.full(len(one), -1, np.int8))

    outcome = cluster_records(
        left, right, np.full(size - 1, 20, np.float32), sources=np.zeros(size, np.int32), own_duplicates=np.array([True]),
        decisions=Decisions.none(), score=score, least_mean=1.0, least_link=8.0,
    )  # fmt: skip
    assert outcome.labels[0] != outcome.labels[-1]


@pytest.mark.parametrize("wrong", ["b\\", r"\q", r"\g<x>", r"\g<9>", r"\3", r"\g<", "\\N{nothing}"])
def test_a_replacement_that_cannot_be_read_is_refused_when_it_is_saved(wrong: str) -> None:
    with pytest.raises(InputError):
        check_replacement("(a)(b)", wrong)
    check_replacement("(a)(b)", r"\2-\1\g<1>")


@pytest.mark.parametrize(
    ("text", "plain"),
    [
        ("1,234", "1234"), ("1.234", "1.234"), ("1.234.567", "1234567"), ("1,234.50", "1234.5"), ("1.234,50", "1234.5"),
        ("0,125", "0.125"), ("1 234,5", "1234.5"), ("12,5", "12.5"), ("-007", "-7"), ("1'234", "1234"), ("٣", ""), ("x", ""),
    ],
)  # fmt: skip
def test_a_number_is_read_alike_wherever_it_counts(text: str, plain: str) -> None:
    assert plain_number(text) == plain
    found = first_number(f"about {text} kg")
    assert found == float(plain) if plain else np.isnan(found)
