from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.errors import Refused
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.records import IntArray
from oddpair.core.standard import standard_values
from oddpair.core.survivorship import (
    RULE_SETS,
    RULES,
    Contributor,
    all_values,
    contradicting_fields,
    contradictions,
    default_rules,
    golden_columns,
    golden_rows,
    golden_values,
    rules_document,
    rules_from,
    rules_that_fit,
)
from oddpair.core.tidying import tidy_records, tidy_row

from .strategies import chains, record_sets, records

Rows = list[tuple[str, str, dict[str, str]]]
LAYOUT = default_layout(RegisterKind.ORGANISATION)


def contributor(record: str, rank: int = 1, fresh: str = "", **values: str) -> Contributor:
    fields = {name.replace("__", "."): value for name, value in values.items()}
    return Contributor(
        record, f"source{rank}", rank, fresh, fields, {name: value.lower() for name, value in fields.items()}
    )


def winner(rule: str, contributors: list[Contributor], unit: str = "name") -> str:
    survivors = golden_values(LAYOUT, rules_from(LAYOUT, {unit: rule}), contributors)
    return next(survivor.record for survivor in survivors if survivor.unit == unit)


THREE = [
    contributor("a", 2, "2020-01-01", name="Tern Boatyard"),
    contributor("b", 3, "2024-01-01", name="Tern Boatyard and Company"),
    contributor("c", 1, "", name="Tern B."),
    contributor("d", 4, "2019-01-01", name="TERN BOATYARD"),
]


#: For every rule: whose name wins. A rule that chooses nothing here leaves it to the more trusted source.
CHOOSES: dict[str, tuple[object, str]] = {
    "consensus": ("consensus", "a"), "source rank": ("source rank", "c"), "newest": ("newest", "b"), "most common": ("most common", "a"),
    "longest": ("longest", "b"), "most complete": ("most complete", "b"), "valid": ("valid", "c"), "largest": ("largest", "c"),
    "smallest": ("smallest", "c"), "first delivered": ("first delivered", "c"),
    "where": ({"by": "where", "field": "name", "values": ["Tern Boatyard"]}, "a"), "with": ({"by": "with", "field": "phone"}, "c"),
}  # fmt: skip


def test_every_rule_is_in_the_table() -> None:
    assert set(CHOOSES) == set(RULES)


@pytest.mark.parametrize("rule", CHOOSES)
def test_each_rule_chooses_as_it_says(rule: str) -> None:
    document, expected = CHOOSES[rule]
    survivors = golden_values(LAYOUT, rules_from(LAYOUT, {"name": [document]}), THREE)
    assert next(survivor.record for survivor in survivors if survivor.unit == "name") == expected


def test_an_address_wins_or_loses_as_a_whole() -> None:
    whole = contributor("whole", 2, address__line="1 Quay Road", address__city="Whitby", address__postcode="YO21 1AA")
    part = contributor("part", 1, address__city="Oban", address__country="GB")
    [survivor] = golden_values(LAYOUT, rules_from(LAYOUT, {"address": "most complete"}), [whole, part])
    assert survivor.values == whole.values
    assert [(loser.record, loser.why) for loser in survivor.losers] == [("part", "it is less complete")]


@given(st.permutations(THREE), chains)
def test_the_outcome_does_not_depend_on_order_and_names_every_loser(
    contributors: list[Contributor], chain: list
) -> None:
    rules = rules_from(LAYOUT, {"name": chain})
    [survivor] = golden_values(LAYOUT, rules, contributors)
    assert survivor == golden_values(LAYOUT, rules, THREE)[0]
    assert {survivor.record, *(loser.record for loser in survivor.losers)} == {"a", "b", "c", "d"}
    assert survivor.values["name"] in {item.values["name"] for item in contributors}


def test_ordinary_writing_beats_shouting() -> None:
    shouting, calm = contributor("a", 1, name="TERN BOATYARD"), contributor("b", 2, name="Tern Boatyard")
    assert winner("most common", [shouting, calm]) == "b"


@pytest.mark.parametrize(
    ("document", "problem"),
    [
        ({"phone": "newst"}, "Did you mean 'newest'"),
        ({"fone": "newest"}, "Did you mean 'phone'"),
        ({"phone": []}, "one to 8 rules"),
        ({"phone": [{"by": "where", "field": "address.city"}]}, "needs 'values'"),
        ({"phone": [{"by": "where", "field": "address.city", "values": [" "]}]}, "needs 'values'"),
        ({"phone": [{"by": "longest", "sources": ["till"]}]}, "takes no 'sources'"),
        ({"phone": [{"by": "newest", "field": "email"}]}, "is no date"),
        ({"phone": [{"by": "newest", "field": "updated"}]}, "Did you mean 'updated_on'"),
        ({"phone": [{"by": "source rank", "sources": "till"}]}, "a list of texts"),
        ({"phone": [7]}, "a rule is a name"),
        ({"phone": [{"by": "with", "field": "email"}], "email": [{"by": "with", "field": "phone"}]}, "wait for each other"),
    ],
)  # fmt: skip
def test_rules_that_cannot_be_are_refused_with_what_is_wrong(document: dict[str, object], problem: str) -> None:
    with pytest.raises(Refused, match=problem):
        rules_from(LAYOUT, document)
    assert rules_that_fit(LAYOUT, document).keys() == set(LAYOUT.groups)


MEMBERS = [
    contributor("a", 1, "2020-01-01", name="Tern Ropes", phone="1", address__country="GB", address__city="Whitby"),
    contributor("b", 2, "2024-01-01", name="Skua Sails", phone="2", address__country="DK", address__city="Ribe"),
    contributor("c", 3, "2024-01-01", name="Skua Sails", phone="30", address__country="DK", address__city="Esbjerg"),
]


@pytest.mark.parametrize(
    ("chain", "unit", "expected", "says"),
    [
        (["newest"], "phone", "b", "the newest; from the more trusted source"),
        (["newest", "largest"], "phone", "c", "the largest"),
        (["smallest"], "phone", "a", "the smallest"),
        ([{"by": "source rank", "sources": ["source3"]}], "phone", "c", "from the most trusted source"),
        ([{"by": "where", "field": "address.country", "values": ["Denmark"]}, "longest"], "phone", "c", "the longest"),
        ([{"by": "where", "field": "address.city", "values": ["whitby"]}], "phone", "a",
         "of a record that fulfils a condition"),
        ([{"by": "where", "field": "address.city", "values": ["oban"]}, "first delivered"], "phone", "a",
         "from the more trusted source"),
        ([{"by": "with", "field": "name"}], "phone", "b", "of the record that won another field"),
        (["most common"], "name", "b", "the one most records agree on"),
        (["consensus", "longest"], "name", "b", "what most sources support"),
        (["source rank", "consensus"], "name", "a", "from the most trusted source"),
        (["newest", "consensus"], "name", "b", "the newest"),
        (["consensus"], "name", "b", "2 of 3 records support it"),
        (["consensus"], "phone", "a", "1 of 3 records support it; from the more trusted source"),
    ],
)  # fmt: skip
def test_ties_go_to_the_next_rule_and_what_decided_is_told(chain: list, unit: str, expected: str, says: str) -> None:
    survivors = golden_values(LAYOUT, rules_from(LAYOUT, {unit: chain}), MEMBERS)
    [survivor] = [survivor for survivor in survivors if survivor.unit == unit]
    assert (survivor.record, survivor.says) == (expected, says)


def test_capitals_count_only_among_those_that_mean_the_same() -> None:
    trusted, calm = contributor("a", 1, name="TERN BOATYARD"), contributor("b", 2, name="Skua Sails")
    assert winner("newest", [trusted, calm]) == "a"
    assert winner("newest", [trusted, calm, contributor("c", 3, name="Tern Boatyard")]) == "c"


@given(chains, st.integers(0, 2))
def test_a_copy_of_a_member_changes_no_winner_but_where_numbers_count(chain: list, place: int) -> None:
    if "most common" in chain:
        return
    copied = MEMBERS[place]._replace(record=MEMBERS[place].record + "2")
    rules = rules_from(LAYOUT, {"name": chain, "phone": chain})
    one, other = (golden_values(LAYOUT, rules, members) for members in (MEMBERS, [*MEMBERS, copied]))
    assert [survivor.values for survivor in one] == [survivor.values for survivor in other]


def test_a_gap_in_an_address_is_filled_from_the_same_address_whatever_the_rule() -> None:
    first = contributor("a", 1, address__line="1 Quay Road", address__city="Whitby")
    second = contributor("b", 2, address__line="1 Quay Road", address__city="Whitby", address__postcode="YO21 1AA")
    for one in (first, second):
        one.tidy.update({"address.street": "quay road", "address.number": "1"})  # type: ignore[attr-defined]
    [survivor] = golden_values(LAYOUT, rules_from(LAYOUT, {"address": "source rank"}), [first, second])
    assert survivor.values == {**first.values, "address.postcode": "YO21 1AA"}
    assert "postcode from another record whose address fits" in survivor.says


@pytest.mark.parametrize(
    ("rule", "values", "why"),
    [
        ("source rank", ("Tern Boatyard", "Tern Yard"), "its source is trusted less"),
        ("longest", ("Tern Boatyard", "Tern"), "it is shorter"),
        (
            "longest",
            ("Tern Yard", "Tern Dock"),
            "as good by the rules; its source is trusted less",
        ),
        ("newest", ("Tern", "Tern"), "the same value"),
    ],
)
def test_every_loser_is_told_why(rule: str, values: tuple[str, str], why: str) -> None:
    contributors = [
        contributor("a", 1, "2024-01-01", name=values[0]),
        contributor("b", 2, "2023-01-01", name=values[1]),
    ]
    [survivor] = golden_values(LAYOUT, rules_from(LAYOUT, {"name": rule}), contributors)
    assert survivor.record == "a"
    assert [loser.why for loser in survivor.losers] == [why]


def test_fields_that_nobody_fills_have_no_survivor() -> None:
    survivors = golden_values(
        LAYOUT, rules_from(LAYOUT, {}), [contributor("a", name="Tern"), contributor("b", phone="1")]
    )
    assert [survivor.unit for survivor in survivors] == ["name", "phone"]
    assert golden_values(LAYOUT, rules_from(LAYOUT, {}), []) == ()


def test_every_unit_of_every_layout_has_a_default_rule() -> None:
    for kind in RegisterKind:
        layout = default_layout(kind)
        for named in RULE_SETS:
            rules = default_rules(layout, named)
            assert set(rules) == set(layout.groups)
            assert rules_document(rules_from(layout, rules)) == rules
        assert rules_from(layout, {}) == rules_from(layout, default_rules(layout))


def are_the_same_by_columns(rows: Rows, labels: IntArray, chain: list) -> None:
    layout = default_layout(RegisterKind.ORGANISATION)
    delivered = records(rows)
    tidy = tidy_records(layout, delivered)
    rules = rules_from(layout, dict.fromkeys(layout.groups, chain))
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


@given(record_sets(most=25), st.randoms(use_true_random=False), chains)
def test_golden_values_by_columns_are_those_found_cluster_by_cluster(rows: Rows, random: Random, chain: list) -> None:
    numbers = [random.randrange(len(rows)) for _ in rows]
    are_the_same_by_columns(rows, np.unique(numbers, return_inverse=True)[1].astype(np.int32), chain)


@pytest.mark.parametrize("rule", sorted({*RULES} - {"with", "where"}))
def test_by_columns_too_gaps_are_filled_and_capitals_give_way(rule: str) -> None:
    whole = {
        "name": "Tern Ropes",
        "address.line": "14 Harbour St",
        "address.postcode": "YO21 1AA",
        "address.city": "Whitby",
    }
    part = {"name": "TERN ROPES", "address.line": "14 Harbour St"}
    rows = [("till", "000", part), ("till", "001", whole), ("till", "002", {"name": "SKUA"})]
    are_the_same_by_columns(rows, np.zeros(3, dtype=np.int32), [rule])


def test_all_values_of_members_stand_beside_the_golden_one_with_their_labels() -> None:
    rows = [
        {"phone": "01632 960001", "phone#2": "01632 960002"},
        {"phone": "+44 1632 960001 / 01632 960003"},
        {"phone": "unknown"},
    ]
    members = [
        Contributor(str(number), f"source{number}", number, "", row, tidy_row(LAYOUT, {**row, "address.country": "GB"}))
        for number, row in enumerate(rows, 1)
    ]
    golden = {"phone": "+441632960001", "address.country": "GB"}
    held = all_values(
        LAYOUT, members, golden, lambda own: standard_values(LAYOUT, own), {"source1": {"phone#2": "mobile"}}
    )
    assert [(one.values, one.holders) for one in held] == [
        ({"phone": "+441632960001"}, (("source1", "1", ""), ("source2", "2", ""))),
        ({"phone": "+441632960002"}, (("source1", "1", "mobile"),)),
        ({"phone": "+441632960003"}, (("source2", "2", ""),)),
    ]


@pytest.mark.parametrize(
    ("field", "values", "contradict"),
    [
        ("birth_date", ("1980-02-03", "1981-05-07"), True),
        ("birth_date", ("1980-02-03", "1980-03-02"), False),
        ("birth_date", ("1980-02-03", "1980-02-13"), False),
        ("birth_date", ("1980-02-03", "1900-01-01"), False),
        ("address.country", ("GB", "GB"), False),
        ("address.country", ("GB", "DK"), True),
        ("identifier", ("AB123456", "CD998877"), True),
        ("identifier", ("AB123456", "123456"), False),
        ("identifier", ("AB123456", "AB123457"), False),
    ],
)
def test_only_what_cannot_all_be_true_contradicts(field: str, values: tuple[str, str], contradict: bool) -> None:
    layout = default_layout(RegisterKind.PERSON)
    members = [Contributor(str(n), "s", n, "", {}, {field: value}) for n, value in enumerate(values)]
    judged = contradicting_fields(layout)
    assert bool(contradictions(judged, members)) == contradict
    assert contradictions(judged, members) == contradictions(judged, members[::-1])
    assert contradictions(judged, members[:1]) == {}
