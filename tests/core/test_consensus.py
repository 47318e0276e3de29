"""What most support, in whatever way they write it."""

from collections.abc import Sequence
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.survivorship import Contributor, golden_columns, golden_rows, golden_values, rules_from
from oddpair.core.survivorship.consensus import BY_ORDER, Vote, consensus
from oddpair.core.survivorship.plausible import plausibility
from oddpair.core.survivorship.support import Relation, relation, slips_apart
from oddpair.core.text.edit_distance import osa_distance
from oddpair.core.tidying import tidy_records, tidy_row

from .strategies import records
from .test_text import as_bytes

ORGANISATION, PERSON = RegisterKind.ORGANISATION, RegisterKind.PERSON


def member(kind: RegisterKind, number: int, values: dict[str, str], rank: int = 0) -> Contributor:
    return Contributor(
        f"{number}", f"source{number}", rank or number, "", values, tidy_row(default_layout(kind), values)
    )


def golden(kind: RegisterKind, *members: dict[str, str]) -> dict[str, str]:
    layout = default_layout(kind)
    [row] = golden_rows(
        layout, rules_from(layout, {}), [[member(kind, number, values) for number, values in enumerate(members, 1)]]
    )
    return row


@pytest.mark.parametrize(
    ("one", "other", "expected"),
    [
        ("tern rope wor", "tern rope works", Relation.SHORT_FOR),
        ("t r works", "tern rope works", Relation.SHORT_FOR),
        ("tern svcs", "tern services", Relation.SHORT_FOR),
        ("trw", "tern rope works", Relation.SHORT_FOR),
        ("tern rope work", "tern rope works", Relation.FEWER_WORDS),
        ("bob quayle", "robert quayle", Relation.SHORT_FOR),
        ("tern works", "tern rope works", Relation.FEWER_WORDS),
        ("ternrope works", "tern rope works", Relation.SPACES),
        ("tern rope works", "tern rpoe works", Relation.SLIP),
        ("tern", "tern account closed", Relation.WITHOUT_ADDED),
        ("tern yacht club", "tern yacht club li", Relation.WITHOUT_ADDED),
        ("tern", "skua", Relation.NONE),
        ("jim", "jan", Relation.NONE),
    ],
)
def test_how_forms_stand_to_each_other(one: str, other: str, expected: Relation) -> None:
    mirrored = expected + 1 if expected >= Relation.SHORT_FOR else expected
    assert (relation(one, other), relation(other, one)) == (expected, mirrored)


@given(st.text("abc ", max_size=8), st.text("abc ", max_size=8))
def test_slips_apart_is_the_edit_distance_as_far_as_it_counts(one: str, other: str) -> None:
    distance = osa_distance(as_bytes(one), as_bytes(other))
    assert slips_apart(one, other) == (distance if distance <= 2 else 9)


def test_slips_are_less_plausible() -> None:
    for right, slip in (
        ("avenue", "avennue"),
        ("christian", "chriatian"),
        ("harbour", "harbuor"),
        ("conseil", "conseill"),
    ):
        assert plausibility(right) > plausibility(slip)


FORMS = ["tern ropes", "tern rope", "tren ropes", "tern ropes account closed", "tern", "skua", "ternropes"]
votes = st.lists(st.builds(Vote, st.sampled_from(["", *FORMS]), st.sampled_from("abcd")), max_size=7)


@given(votes, st.randoms(use_true_random=False))
def test_a_copy_of_a_vote_changes_nothing(cast: list[Vote], random: Random) -> None:
    outcome = consensus(cast)
    assert outcome.form in {vote.form for vote in cast} | {""}
    assert outcome.form in outcome.support or not outcome.support
    if cast:
        assert consensus([*cast, random.choice(cast)]) == outcome


@given(votes, st.randoms(use_true_random=False))
def test_order_decides_nothing_but_ties(cast: list[Vote], random: Random) -> None:
    outcome = consensus(cast)
    if outcome.tie != BY_ORDER:
        assert consensus(random.sample(cast, len(cast))) == outcome


@pytest.mark.parametrize(
    ("names", "expected"),
    [
        (["Tern Rope Wroks", "Tern Rope Works", "Tern Rope Works"], "Tern Rope Works"),
        (["TERN ROPE WORKS LTD", "Tern Rope Works Ltd"], "Tern Rope Works Ltd"),
        (["Tern Rope Works", "Tern Rope Works Ltd", "TERN ROPE WORKS LTD"], "Tern Rope Works Ltd"),
        (["Tern Rope Wor", "Tern Rope Works"], "Tern Rope Works"),
        (["Tern Rope Works - account closed", "Tern Rope Works"], "Tern Rope Works"),
        (["GRUN BOOTE", "Grün Boote"], "Grün Boote"),
        (["unknown", "Tern"], "Tern"),
        (["Noonan Mar. Paints Ltd", "Noonan Marine Paints"], "Noonan Marine Paints"),
        (["Ropes, Tern Ltd", "TERN ROPES LTD"], "TERN ROPES LTD"),
        (["Ropes Tern", "Tern Ropes Ltd", "TERN ROPES LTD"], "Tern Ropes Ltd"),
        (["The Tern Ropes Ltd", "TERN ROPES LTD"], "TERN ROPES LTD"),
        (["The Tern Ropes Ltd", "THE TERN ROPES LTD"], "The Tern Ropes Ltd"),
        (
            ["Faarne Paints Plc", "FARNE PAINTS PLC", "Farne Paints Public Limited Company", "FARNE PAINTS PLC"],
            "FARNE PAINTS PLC",
        ),
        (["Tern Ropes GmbH &", "TERN ROPES GMBH & CO. KG"], "TERN ROPES GMBH & CO. KG"),
        (["Tern Sails Handels Lim", "TERN SAILS HANDELS LIMITED SIRKETI"], "TERN SAILS HANDELS LIMITED SIRKETI"),
        (["Tern Masch.bau GmbH", "TERN MASCH BAU GMBH"], "TERN MASCH BAU GMBH"),
        (["Tern Fastigheter Ekonomisk", "Tern Fastigheter Ek. för."], "Tern Fastigheter Ek. för."),
    ],
)
def test_names_of_organisations(names: Sequence[str], expected: str) -> None:
    assert golden(ORGANISATION, *({"name": name} for name in names))["name"] == expected


@pytest.mark.parametrize(
    ("names", "expected"),
    [
        (["QUAYLE, B.", "Robert Quayle", "Bob Quayle"], "Robert Quayle"),
        (["Quayle Robert", "Robert Quayle", "Robert Quayle"], "Robert Quayle"),
        (["Helen Whitcroft", "Whitcroft Helen"], "Helen Whitcroft"),
        (["Robert Qualye", "Robert Quayle", "R. Quayle"], "Robert Quayle"),
        (["Marinna Quayle", "Marina Quayle", "Marina Quayle"], "Marina Quayle"),
    ],
)
def test_names_of_people(names: Sequence[str], expected: str) -> None:
    assert golden(PERSON, *({"name": name} for name in names))["name"] == expected


def test_an_address_wins_as_a_whole_and_has_its_gaps_filled_from_the_same_address() -> None:
    quay = {"address.line": "1 Quay Road", "address.city": "Whitby"}
    found = golden(
        ORGANISATION, {"address.line": "9 Pier Lane", "address.city": "Oban", "address.postcode": "PA34 4AA"}, quay,
        {"address.line": "1 QUAY RD", "address.postcode": "YO21 1AA", "address.city": "WHITBY"},
    )  # fmt: skip
    assert found == {**quay, "address.postcode": "YO21 1AA"} or found == {
        "address.line": "1 QUAY RD", "address.postcode": "YO21 1AA", "address.city": "WHITBY",
    }  # fmt: skip


@pytest.mark.parametrize(
    ("field", "values", "expected"),
    [
        ("phone", ["01632 960001", "+44 1632 960002", "+44 1632 960002"], "+44 1632 960002"),
        (
            "email",
            ["info@trenropes.example", "info@ternropes.example", "INFO@ternropes.example"],
            "info@ternropes.example",
        ),
        ("tax_number", ["GB980780685", "GB980780684"], "GB980780684"),
        ("phone", ["N/A", "01632 960001"], "01632 960001"),
    ],
)
def test_single_values(field: str, values: Sequence[str], expected: str) -> None:
    assert golden(ORGANISATION, *({"name": "a", field: value} for value in values))[field] == expected


def test_dates_that_only_fill_a_gap_do_not_win() -> None:
    for filler in ("1900-01-01", "2081-11-15", "0192-03-14"):
        dates = golden(PERSON, {"name": "a", "birth_date": filler}, {"name": "a", "birth_date": "1992-03-14"})
        assert (dates["birth_date"] == "1992-03-14") is (filler != "2081-11-15")


def test_losers_are_told_how_many_support_what_won() -> None:
    layout = default_layout(ORGANISATION)
    names = ["Tern Ropes", "TERN ROPES", "Tern Ropes", "Skua"]
    members = [member(ORGANISATION, number, {"name": name}, rank=5 - number) for number, name in enumerate(names, 1)]
    [survivor] = golden_values(layout, rules_from(layout, {}), members)
    why = {loser.record: loser.why for loser in survivor.losers}
    assert survivor.record == "3"
    assert why == {
        "1": "the same value",
        "2": "the same, written otherwise",
        "4": "3 of 4 records support what won",
    }


PEOPLE = st.fixed_dictionaries(
    {},
    optional={
        "name": st.sampled_from(["Robert Quayle", "QUAYLE, ROBERT", "Quayle Robert", "Bob Quayle", "Réne Holm", "unknown"]),
        "name.given": st.sampled_from(["Robert", "R.", "ROBERT"]),
        "name.family": st.sampled_from(["Quayle", "QUAYLE", "Qualye"]),
        "address.line": st.sampled_from(["1 Quay Rd", "1 QUAY ROAD, WHITBY", "9 Pier Lane"]),
        "address.city": st.sampled_from(["Whitby", "WHITBY", "Oban"]),
        "address.country": st.sampled_from(["GB", "United Kingdom", "Freedonia"]),
        "birth_date": st.sampled_from(["1990-05-06", "06.05.1990", "1900-01-01"]),
    },
)  # fmt: skip


@given(
    st.lists(st.tuples(st.sampled_from(["till", "webshop", "ledger"]), PEOPLE), min_size=1, max_size=14), st.randoms()
)
def test_people_by_columns_are_those_found_one_by_one(rows: list[tuple[str, dict[str, str]]], random: Random) -> None:
    layout = default_layout(PERSON)
    delivered = records([(source, f"{number:02d}", fields) for number, (source, fields) in enumerate(rows)])
    tidy = tidy_records(layout, delivered)
    drawn = [random.randrange(1 + len(rows) // 3) for _ in rows]
    labels = np.unique(drawn, return_inverse=True)[1].astype(np.int32)
    clusters = [
        [Contributor(delivered.ids[r], delivered.source_of(r), 1, "", delivered.row(r), tidy.row(r))
         for r in np.flatnonzero(labels == number).tolist()]
        for number in range(int(labels.max()) + 1)
    ]  # fmt: skip
    columns = golden_columns(layout, rules_from(layout, {}), delivered, tidy, labels)
    for number, row in enumerate(golden_rows(layout, rules_from(layout, {}), clusters)):
        assert {name: value for name, column in columns.items() if (value := column.at(number))} == row


def test_a_country_alone_has_no_vote_and_a_slip_of_an_address_is_told_as_one() -> None:
    layout = default_layout(ORGANISATION)
    quay = {"address.line": "1 Quay Road", "address.city": "Whitby", "address.country": "GB"}
    rows = [
        quay,
        {**quay, "address.line": "1 Qauy Road"},
        {"address.country": "United Kingdom"},
        quay,
        {"address.country": "FR"},
    ]
    members = [member(ORGANISATION, number, values) for number, values in enumerate(rows, 1)]
    [survivor] = golden_values(layout, rules_from(layout, {}), members)
    assert survivor.values == quay
    assert {loser.record: loser.why for loser in survivor.losers} == {
        "2": "agrees, but for slips or gaps", "3": "agrees, but for slips or gaps", "4": "the same value",
        "5": "4 of 5 records support what won",
    }  # fmt: skip


def test_a_number_dialled_inside_its_country_supports_the_whole_one() -> None:
    numbers = [
        {"phone": "01632 960864"},
        {"phone": "+44 1632 960864", "address.country": "GB"},
        {"phone": "01632 960111"},
    ]
    assert golden(ORGANISATION, *numbers)["phone"] == "+44 1632 960864"


def test_a_town_is_filled_from_another_street_with_the_same_postcode() -> None:
    lacking = {"name": "Tern", "address.line": "Quay Lane 5", "address.postcode": "YO21 1AB"}
    beside = {
        "name": "Tern",
        "address.line": "Mill Road 9",
        "address.postcode": "YO21 1AB",
        "address.city": "Whitby",
    }
    found = golden(ORGANISATION, lacking, beside)
    assert (found["address.line"], found["address.city"]) == ("Quay Lane 5", "Whitby")
    elsewhere = golden(ORGANISATION, lacking, beside | {"address.postcode": "PA34 4AB", "address.city": "Oban"})
    assert "address.city" not in elsewhere


def in_whitby(line: str, town: str = "Whitby", postcode: str = "") -> dict[str, str]:
    given = {"address.line": line, "address.city": town, "address.postcode": postcode}
    return {"name": "Tern"} | {name: value for name, value in given.items() if value}


@pytest.mark.parametrize(
    ("members", "expected"),
    [
        # A letter too many at the end is outvoted, though the others look cut off.
        ([in_whitby("Quay 5", "Whitbyy"), in_whitby("Quay 5"), in_whitby("Quay 5")], {"address.city": "Whitby"}),
        ([in_whitby("Quay 5", "Whittby"), in_whitby("Quay 5"), in_whitby("Quay 5")], {"address.city": "Whitby"}),
        # A row of houses holds its first; a slip of the street, at one number, is no other street.
        ([in_whitby("Quay 5", ""), in_whitby("Quay 5-7", "Whitby")], {"address.city": "Whitby"}),
        ([in_whitby("5 Harbour Road", ""), in_whitby("5 Harbuor Road", "", "20457")], {"address.postcode": "20457"}),
    ],
)
def test_addresses_of_one_house(members: Sequence[dict[str, str]], expected: dict[str, str]) -> None:
    found = golden(ORGANISATION, *members)
    assert {name: found.get(name) for name in expected} == expected
