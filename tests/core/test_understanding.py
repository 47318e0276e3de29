"""What the tables know of names in many countries, and what a cell may list."""

import pytest
from hypothesis import given

from oddpair.core.compare.given_names import forms_of_given_names, initials_of_forms
from oddpair.core.contacts.internet import email_domain, split_emails, tidy_email
from oddpair.core.contacts.phones import split_phones, tidy_phone
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.organisations import parse_organisation_name, parse_organisation_names
from oddpair.core.people import parse_person_name, parse_person_names
from oddpair.core.tidying import tidy_row
from oddpair.core.tidying.tidiers import is_placeholder

from .strategies import any_text


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("Skua Rope Works Ltd", "SKUA ROPE WORKS LIMITED"), ("Skua Pty. Ltd.", "Skua Proprietary Limited"),
        ("Skua Sdn. Bhd.", "SKUA SDN BHD"), ("Skua L.L.C.", "Skua LLC"), ("Skua, Inc.", "Skua Incorporated"),
        ("Möwe GmbH", "MOEWE Gesellschaft mit beschränkter Haftung"), ("Möwe e.K.", "Möwe eingetragener Kaufmann"),
        ("Meeuw B.V.", "Meeuw besloten vennootschap"), ("Mouette S.A.R.L.", "MOUETTE société à responsabilité limitée"),
        ("Gaviota S.L.", "Gaviota Sociedad Limitada"), ("Gaivota Lda.", "GAIVOTA LIMITADA"), ("Gabbiano S.p.A.", "Gabbiano SPA"),
        ("Mewa Sp. z o.o.", "MEWA SPÓŁKA Z OGRANICZONĄ ODPOWIEDZIALNOŚCIĄ"), ("Racek s.r.o.", "Racek spol. s r.o."),
        ("Sirály Kft.", "SIRALY KFT"), ("Galeb d.o.o.", "Galeb DOO"), ("Måke AS", "MAAKE A/S"), ("Måge ApS", "Maage Anpartsselskab"),
        ("Mås AB", "MAS Aktiebolag"), ("Lokki Oy", "LOKKI osakeyhtiö"), ("Máfur ehf.", "Mafur EHF"), ("Kajakas OÜ", "KAJAKAS OU"),
        ("Kaija SIA", "kaija sia"), ("Žuvėdra UAB", "ZUVEDRA UAB"), ("Martı Ltd. Şti.", "MARTI LTD STI"), ("株式会社スクア", "スクア 株式会社"),
        ("ООО Чайка", "Чайка ООО"), ("Γλάρος Ε.Π.Ε.", "ΓΛΑΡΟΣ ΕΠΕ"),
    ],
)  # fmt: skip
def test_two_ways_of_writing_a_legal_form_are_one_name(one: str, other: str) -> None:
    left, right = parse_organisation_name(one), parse_organisation_name(other)
    assert left.legal_form == right.legal_form != ""
    assert "".join(left.words) == "".join(right.words) != ""


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("Möller & Söhne", "Moller and Sons"), ("Gebrüder Möller", "Moeller Bros"), ("Le Goff et Fils", "LE GOFF & SONS"),
        ("García e Hijos", "Garcia & Sons"), ("Fratelli Rossi", "Rossi Flli"), ("De Vries & Zonen", "de vries zn"),
        ("Skua Intl Mfg Svcs", "Skua International Manufacturing Services"), ("Skua Fish Farm", "Skua Fishfarm"),
        ("Tern Co-operative", "TERN COOP"), ("St. Mary's Harbour", "Saint Marys Hbr"),
    ],
)  # fmt: skip
def test_family_endings_and_short_words_meet(one: str, other: str) -> None:
    assert sorted(parse_organisation_name(one).words) == sorted(parse_organisation_name(other).words)


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("Tern Ltd trading as The Rope Shop", ["tern", "rope shop"]),
        ("Tern GmbH (vormals Skua Seilerei)", ["tern", "skua seilerei"]),
        ("Tern Ltd c/o Skua Accountants", ["tern"]),
        ("Act Now Ltd", ["act now"]),
    ],
)
def test_second_names_stand_apart_and_somebody_elses_fall_away(text: str, names: list[str]) -> None:
    assert [" ".join(name.words) for name in parse_organisation_names(text)] == names


def test_a_name_at_birth_is_a_second_name() -> None:
    assert [(name.given, name.family) for name in parse_person_names("Anna Holm née Lykke")] == [
        (("anna",), ("holm",)), (("anna",), ("lykke",)),
    ]  # fmt: skip
    assert [name.family for name in parse_person_names("", "Anna", "Holm geb. Lykke")] == [("holm",), ("lykke",)]
    assert parse_person_names("Anna Holm") == [parse_person_name("Anna Holm")]


@given(any_text)
def test_any_text_has_at_least_one_name(text: str) -> None:
    assert len(parse_organisation_names(text)) >= 1
    assert len(parse_person_names(text)) >= 1


@pytest.mark.parametrize(
    ("text", "count"),
    [("01632 960001 / 01632 960002", 2), ("01632 960001; 960002", 2), ("0471/990123", 1), ("01632 960001 or 07700 900123", 2),
     ("01632 960001, ext. 12", 1), ("", 1)],
)  # fmt: skip
def test_phones_that_a_cell_lists(text: str, count: int) -> None:
    assert len(split_phones(text)) == count
    if count > 1:
        assert all(tidy_phone(part, "GB").startswith("+44") for part in split_phones(text))


def test_e_mails_that_a_cell_lists_and_the_domain_that_says_nothing() -> None:
    assert split_emails("a@tern.example; b@tern.example") == ["a@tern.example", "b@tern.example"]
    assert split_emails("a@tern.example") == ["a@tern.example"]
    assert email_domain(tidy_email("A+shop@POSTBOX.example")) == ""
    assert email_domain(tidy_email("a@mail.tern.example")) == "tern.example"


@pytest.mark.parametrize(
    "text", ["n/a", "UNKNOWN", "-", "0000", "99999", "Unbekannt", "k.A.", "test", "xxx", "brak danych", "?"]
)
def test_what_only_fills_a_gap_is_missing(text: str) -> None:
    assert is_placeholder(text)
    assert (
        tidy_row(default_layout(RegisterKind.ORGANISATION), {"name": text, "phone": text, "address.city": text}) == {}
    )


@pytest.mark.parametrize(
    "text", ["Tern", "5003", "00100", "Test Valley Boats", "11 Quay Road", "Null Bay Marina", "12"]
)
def test_a_value_is_not_taken_for_a_gap(text: str) -> None:
    assert not is_placeholder(text)


def test_columns_of_their_own_read_like_one_line() -> None:
    parts = {
        "address.line": "Harbour Street",
        "address.number": "14",
        "address.line2": "Unit 3",
        "address.city": "Whitby",
    }
    whole = {"address.line": "14 Harbour St, Unit 3", "address.city": "Whitby"}
    assert tidy_row(default_layout(RegisterKind.ORGANISATION), parts) == tidy_row(
        default_layout(RegisterKind.ORGANISATION), whole
    )
    person = {"name.given": "Robert", "name.middle": "James", "name.family": "Quayle", "name.suffix": "Jr."}
    assert tidy_row(default_layout(RegisterKind.PERSON), person) == tidy_row(
        default_layout(RegisterKind.PERSON), {"name": "Robert James Quayle Jr"}
    )


def test_forms_of_given_names_allow_one_slip_and_know_their_initials() -> None:
    vocabulary = ["joe", "josph", "gitte", "xqz", "b"]
    forms = forms_of_given_names(vocabulary)
    assert forms["joe"].short & forms["josph"].full
    assert "xqz" not in forms
    sets = initials_of_forms(vocabulary, forms)
    assert sets[2] & sets[4], "Gitte may have been baptised Birgitte"
    assert not sets[3] & sets[4]
