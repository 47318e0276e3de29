"""Delivered values as one would sign them, and what golden records gain by it."""

from collections.abc import Sequence

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.addresses import WrittenAddress, parse_address, parts_as_written
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.organisations import parse_organisation_name, without_remarks
from oddpair.core.people import given_name_first
from oddpair.core.survivorship.clean_values import clean_columns, clean_values
from oddpair.core.tidying import tidy_records

from .strategies import records
from .test_consensus import golden

ORGANISATION, PERSON = RegisterKind.ORGANISATION, RegisterKind.PERSON


def apart(*cells: str) -> tuple[str, ...]:
    return tuple(parts_as_written(WrittenAddress(*cells), parse_address(*cells)))


@pytest.mark.parametrize(
    ("cells", "expected"),
    [
        (("741 Oak Boulevard, United States",), ("741 Oak Boulevard", "", "", "", "United States")),
        (("81 Church St., Co.",), ("81 Church St", "", "", "", "")),
        (("1933 Church Place, 11891-2457, United States",), ("1933 Church Place", "", "11891-2457", "", "United States")),
        (("22 rue de la Liberté, F-79562",), ("22 rue de la Liberté", "", "F-79562", "", "")),
        (("Tannenallee 4, D-57362 NW",), ("Tannenallee 4", "", "D-57362", "", "")),
        (("Molenplein 239, 6606 DL Gouda",), ("Molenplein 239", "Gouda", "6606 DL", "", "")),
        (("25813 Husum, Hafenstrasse 12",), ("Hafenstrasse 12", "Husum", "25813", "", "")),
        (("54, ZI Voltaire, 87749",), ("54, ZI Voltaire", "", "87749", "", "")),
        (("12 rue Victor Hugo",), ("12 rue Victor Hugo", "", "", "", "")),
        (("5 Rue de Paris, 75001 Paris",), ("5 Rue de Paris", "Paris", "75001", "", "")),
        (("Rue de Paris 4", "Paris"), ("Rue de Paris 4", "Paris", "", "", "")),
        (("120 Main St Springfield, IL 62704",), ("120 Main St", "Springfield", "62704", "IL", "")),
        (("Hafenstr. 1", "73979 Jindřichův Hradec"), ("Hafenstr. 1", "Jindřichův Hradec", "73979", "", "")),
        (("", "Pelotas, Rio Grande do Sul", "", "Rio Grande do Sul"), ("", "Pelotas", "", "Rio Grande do Sul", "")),
        (("54 Quay", "", "76549 A Coruña"), ("54 Quay", "A Coruña", "76549", "", "")),
    ],
)  # fmt: skip
def test_each_part_of_an_address_goes_to_its_field(cells: Sequence[str], expected: Sequence[str]) -> None:
    assert apart(*cells) == expected
    assert apart(*expected) == expected


@pytest.mark.parametrize(
    ("name", "expected"),
    [
        ("Tern Ropes Ltd - Accounts Dept", "Tern Ropes Ltd"),
        ("*BLOCKED* Tern Ropes (COD only)", "Tern Ropes"),
        ("TERN ROPES LTD (COD O", "TERN ROPES LTD"),
        ("Skua Sails Lda - Attn: Ana Caldeira", "Skua Sails Lda"),
        ("Skua Sails Lda attn Ana Caldeira", "Skua Sails Lda"),
        ("SKUA SAILS LDA Z.HD.", "SKUA SAILS LDA"),
        ("Skua Sails Lda *bl", "Skua Sails Lda"),
        ("Tern Ropes and Skua Sails AG - Acco", "Tern Ropes and Skua Sails AG"),
        ("Tern Ropes - Acco", "Tern Ropes - Acco"),
        ("Home Care of Oban", "Home Care of Oban"),
        ("Tern Ropes (Whitby)", "Tern Ropes"),
        ("Tern Ropes (Hull)", "Tern Ropes (Hull)"),
        ("The Old Attic - Tern", "The Old Attic - Tern"),
        ("(new)", "(new)"),
        ("-" * 400_000, "-" * 400_000),
    ],
)
def test_remarks_are_no_part_of_a_name(name: str, expected: str) -> None:
    assert without_remarks(name, "whitby") == expected
    assert without_remarks(expected, "whitby") == expected


@given(st.text(max_size=40))
def test_a_name_never_loses_all_its_words(text: str) -> None:
    assert bool(without_remarks(text)) == bool(text)
    assert given_name_first(text, "") == text or "," in text


@pytest.mark.parametrize(
    ("name", "family", "expected"),
    [
        ("HOLM Anna", "holm", "Anna Holm"), ("HOLM ANNA", "holm", "ANNA HOLM"), ("de Vries, Jan", "vries", "Jan de Vries"),
        ("Nagy Anna", "nagy", "Nagy Anna"), ("Holm, Jr.", "holm", "Holm, Jr."), ("Anna HOLM", "holm", "Anna HOLM"),
    ],
)  # fmt: skip
def test_given_names_stand_first(name: str, family: str, expected: str) -> None:
    assert given_name_first(name, family) == expected


@pytest.mark.parametrize(
    ("cut", "words"),
    [
        ("Osttriex Finona Sociedade Anon", "osttriex finona"), ("Stolarka Waloander Spółka z og", "stolarka waloander"),
        ("Hukaon Nova Societe a responsa", "hukaon nova"), ("Ormskirk Community Association", "ormskirk community association"),
        ("Tern International Trading", "tern international trading"), ("Meeuw besloten vennootschap", "meeuw"),
    ],
)  # fmt: skip
def test_a_legal_form_that_was_cut_off_is_no_word_of_the_name(cut: str, words: str) -> None:
    assert " ".join(parse_organisation_name(cut).words) == words


@pytest.mark.parametrize(
    ("members", "expected"),
    [
        ([{"name": "Osttriex Finona Sociedade Anon"}, {"name": "Osttriex Finona S.A."}], {"name": "Osttriex Finona S.A."}),
        ([{"name": "ZIÄ™CIK PRZETWÃ³RSTWO"}, {"name": "ZIĘCIK PRZETWÓRSTWO"}], {"name": "ZIĘCIK PRZETWÓRSTWO"}),
        ([{"name": "MACHADO & FILLHOS"}, {"name": "MACHADO & FILHOS"}, {"name": "MACHADO & FILHOS"}], {"name": "MACHADO & FILHOS"}),
        ([{"name": "Oberfl?chen Tern"}, {"name": "OBERFLÄCHEN TERN"}, {"name": "Oberflachen Tern"}], {"name": "Oberflachen Tern"}),
        ([{"name": "BÄCKEREI GATA1ONA"}, {"name": "GATALONA BAECKEREI"}], {"name": "GATALONA BAECKEREI"}),
        (
            [{"name": "Tern", "address.line": "Calle Goya 94, 36518"}, {"name": "Tern", "address.city": "Sant Martí"}],
            {"address.line": "Calle Goya 94", "address.postcode": "36518", "address.city": "Sant Martí"},
        ),
        (
            [{"name": "Tern", "address.city": "Lyon", "address.postcode": "69001"}, {"name": "Tern", "address.line": "4, Rue Hugo"}],
            {"address.line": "4, Rue Hugo", "address.postcode": "69001", "address.city": "Lyon"},
        ),
        (
            [{"name": "Tern", "address.line": "Harbbour Road 9", "address.city": "Elche"},
             {"name": "Tern", "address.line": "Harbour Road 9", "address.city": "Elche"}],
            {"address.line": "Harbour Road 9"},
        ),
    ],
)  # fmt: skip
def test_golden_values_are_those_that_one_would_sign(members: list[dict[str, str]], expected: dict[str, str]) -> None:
    for order in (members, members[::-1]):
        row = golden(ORGANISATION, *order)
        assert {name: row.get(name) for name in expected} == expected


MESSY = st.fixed_dictionaries(
    {},
    optional={
        "name": st.sampled_from(["Tern Ltd (OLD)", "HOLM Anna", "Holm, Anna", "MÃ¼ller KG", "n/a", "TERN"]),
        "address.line": st.sampled_from(["Quay 4, 5003 Bergen", "4 Quay Road, Whitby YO21 1AA", "Calle Goya 94", "12 rue Hugo, FR"]),
        "address.city": st.sampled_from(["5003 Bergen", "Whitby", "Bergen, Vestland", "YO21 1AA"]),
        "address.postcode": st.sampled_from(["5003", "5003 Bergen", "Whitby"]),
        "address.country": st.sampled_from(["NO", "GB", "-"]),
    },
)  # fmt: skip


@given(st.lists(MESSY, min_size=1, max_size=8), st.sampled_from(RegisterKind))
def test_columns_are_cleaned_as_each_record_is_and_once_is_enough(
    rows: list[dict[str, str]], kind: RegisterKind
) -> None:
    delivered = records([("till", f"{number}", values) for number, values in enumerate(rows)])
    tidy = tidy_records(default_layout(kind), delivered)
    clean = clean_columns(delivered, tidy)
    for place in range(len(rows)):
        expected = clean_values(delivered.row(place), tidy.row(place))
        assert clean.row(place) == expected
        assert clean_values(expected, tidy.row(place)) == expected
