from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.errors import Refused
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.survivorship import (
    RULES,
    Contributor,
    default_rules,
    golden_columns,
    golden_rows,
    golden_values,
    validate_rules,
)
from oddpair.core.tidying import tidy_records

from .strategies import record_sets, records

Rows = list[tuple[str, str, dict[str, str]]]
LAYOUT = default_layout(RegisterKind.ORGANISATION)


def contributor(record: str, rank: int = 1, fresh: str = "", **values: str) -> Contributor:
    fields = {name.replace("__", "."): value for name, value in values.items()}
    return Contributor(
        record, f"source{rank}", rank, fresh, fields, {name: value.lower() for name, value in fields.items()}
    )


def winner(rule: str, contributors: list[Contributor], unit: str = "name") -> str:
    survivors = golden_values(LAYOUT, {**default_rules(LAYOUT), unit: rule}, contributors)
    return next(survivor.record for survivor in survivors if survivor.unit == unit)


THREE = [
    contributor("a", 2, "2020-01-01", name="Tern Boatyard"),
    contributor("b", 3, "2024-01-01", name="Tern Boatyard and Company"),
    contributor("c", 1, "", name="Tern B."),
    contributor("d", 4, "2019-01-01", name="TERN BOATYARD"),
]


@pytest.mark.parametrize(
    ("rule", "expected"),
    [("source rank", "c"), ("newest", "b"), ("most common", "a"), ("longest", "b"), ("most complete", "b")],
)
def test_each_rule_chooses_as_it_says(rule: str, expected: str) -> None:
    assert winner(rule, THREE) == expected


def test_an_address_wins_or_loses_as_a_whole() -> None:
    whole = contributor("whole", 2, address__line="1 Quay Road", address__city="Whitby", address__postcode="YO21 1AA")
    part = contributor("part", 1, address__city="Oban", address__country="GB")
    [survivor] = golden_values(LAYOUT, {**default_rules(LAYOUT), "address": "most complete"}, [whole, part])
    assert survivor.values == whole.values
    assert [(loser.record, loser.why) for loser in survivor.losers] == [("part", "it is less complete")]


@given(st.permutations(THREE), st.sampled_from(sorted(RULES)))
def test_the_outcome_does_not_depend_on_order_and_names_every_loser(contributors: list[Contributor], rule: str) -> None:
    [survivor] = golden_values(LAYOUT, {**default_rules(LAYOUT), "name": rule}, contributors)
    assert survivor == golden_values(LAYOUT, {**default_rules(LAYOUT), "name": rule}, THREE)[0]
    assert {survivor.record, *(loser.record for loser in survivor.losers)} == {"a", "b", "c", "d"}
    assert survivor.values["name"] in {item.values["name"] for item in contributors}


def test_ordinary_writing_beats_shouting() -> None:
    shouting, calm = contributor("a", 1, name="TERN BOATYARD"), contributor("b", 2, name="Tern Boatyard")
    assert winner("most common", [shouting, calm]) == "b"


def test_unknown_rules_are_refused_with_a_suggestion() -> None:
    with pytest.raises(Refused, match="Did you mean 'newest'"):
        validate_rules(LAYOUT, {"phone": "newst"})


@pytest.mark.parametrize(
    ("rule", "values", "why"),
    [
        ("source rank", ("Tern Boatyard", "Tern Yard"), "its source is trusted less"),
        ("longest", ("Tern Boatyard", "Tern"), "it is shorter"),
        (
            "longest",
            ("Tern Yard", "Tern Dock"),
            "as good by the rule; the tie went to the more trusted, then newer source",
        ),
        ("newest", ("Tern", "Tern"), "the same value"),
    ],
)
def test_every_loser_is_told_why(rule: str, values: tuple[str, str], why: str) -> None:
    contributors = [
        contributor("a", 1, "2024-01-01", name=values[0]),
        contributor("b", 2, "2023-01-01", name=values[1]),
    ]
    [survivor] = golden_values(LAYOUT, {**default_rules(LAYOUT), "name": rule}, contributors)
    assert survivor.record == "a"
    assert [loser.why for loser in survivor.losers] == [why]


def test_fields_that_nobody_fills_have_no_survivor() -> None:
    survivors = golden_values(
        LAYOUT, default_rules(LAYOUT), [contributor("a", name="Tern"), contributor("b", phone="1")]
    )
    assert [survivor.unit for survivor in survivors] == ["name", "phone"]
    assert golden_values(LAYOUT, default_rules(LAYOUT), []) == ()


def test_every_unit_of_every_layout_has_a_default_rule() -> None:
    for kind in RegisterKind:
        layout = default_layout(kind)
        rules = default_rules(layout)
        assert set(rules) == set(layout.groups)
        assert set(rules.values()) <= set(RULES)
        assert validate_rules(layout, {}) == rules


@given(record_sets(most=25), st.randoms(use_true_random=False), st.sampled_from(sorted(RULES)))
def test_golden_values_by_columns_are_those_found_cluster_by_cluster(rows: Rows, random: Random, rule: str) -> None:
    layout = default_layout(RegisterKind.ORGANISATION)
    delivered = records(rows)
    tidy = tidy_records(layout, delivered)
    labels = np.unique([random.randrange(len(delivered)) for _ in range(len(delivered))], return_inverse=True)[
        1
    ].astype(np.int32)
    rules = validate_rules(layout, dict.fromkeys(layout.groups, rule))
    clusters = [
        [
            Contributor(
                delivered.ids[r],
                delivered.source_of(r),
                1,
                tidy.column("updated_on").at(r),
                delivered.row(r),
                tidy.row(r),
            )
            for r in np.flatnonzero(labels == number).tolist()
        ]
        for number in range(int(labels.max()) + 1)
    ]
    columns = golden_columns(layout, rules, delivered, tidy, labels)
    for number, row in enumerate(golden_rows(layout, rules, clusters)):
        assert {name: value for name, column in columns.items() if (value := column.at(number))} == row
