import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.addresses import country_code, parse_address
from oddpair.core.contacts.dates import tidy_date
from oddpair.core.contacts.identifiers import split_tax_number
from oddpair.core.contacts.internet import email_domain, tidy_email, tidy_web_site
from oddpair.core.contacts.phones import phone_end, tidy_phone
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.organisations import parse_organisation_name
from oddpair.core.people import given_name_forms, parse_person_name
from oddpair.core.tidying import tidy_row

from .strategies import any_text


@pytest.mark.parametrize(
    ("text", "words", "legal_form", "sites"),
    [
        ("The Skua Rope Works & Co. Ltd, Depot 12", "skua rope works", "limited", "12"),
        ("Gebr. Müller GmbH & Co. KG", "brothers muller", "gmbh", ""),
        ("Żagle Bałtyk Sp. z o.o.", "zagle baltyk", "spzoo", ""),
        ("A/S Skagen Tovværk", "skagen tovvark", "as", ""),
        ("Tern Fish Farm Nord II AS", "tern fishfarm nord", "as", "2 north"),
        ("J. Hansen & Sønner", "j hansen sons", "", ""),
        ("Ltd", "ltd", "", ""),
        ("", "", "", ""),
    ],
)
def test_organisation_names(text: str, words: str, legal_form: str, sites: str) -> None:
    parsed = parse_organisation_name(text)
    assert (" ".join(parsed.words), parsed.legal_form, " ".join(parsed.sites)) == (words, legal_form, sites)


@pytest.mark.parametrize(
    ("full", "given_name", "family", "suffix"),
    [
        ("Capt. van der MEER Jr, Willem", "willem", "van der meer", "junior"),
        ("Dr. Anna-Marie O'Brien", "anna marie", "obrien", ""),
        ("Willem van der Meer", "willem", "van der meer", ""),
        ("QUAYLE SR, JAMES", "james", "quayle", "senior"),
        ("Bakke", "", "bakke", ""),
        ("Anna Holm, Ph.D.", "anna", "holm", ""),
        ("Holm Dr., Anna", "anna", "holm", ""),
        ("Holm, Anna, Jr", "anna", "holm", "junior"),
        ("Dott.ssa Anna Holm", "anna", "holm", ""),
        ("Frau Dr. med. Eva Lund", "eva", "lund", ""),
        ("Mgr inż. Jan Kowalski", "jan", "kowalski", ""),
        ("Li Pan", "li", "pan", ""),
        ("Dr", "", "dr", ""),
    ],
)
def test_person_names(full: str, given_name: str, family: str, suffix: str) -> None:
    parsed = parse_person_name(full)
    assert (" ".join(parsed.given), " ".join(parsed.family), parsed.suffix) == (given_name, family, suffix)


def test_titles_are_no_part_of_a_name_in_either_column() -> None:
    assert parse_person_name("", "Prof. Anna", "Dr. Holm MBA") == parse_person_name("", "Anna", "Holm")


def test_short_forms_work_in_both_directions() -> None:
    forms = given_name_forms()
    assert forms["bob"].short & forms["robert"].full
    assert forms["kasia"].short & forms["katarzyna"].full
    assert not forms["bob"].groups & forms["william"].groups
    assert forms["anna"].full & forms["anne"].full


@pytest.mark.parametrize(
    ("parts", "number", "street", "city", "postcode"),
    [
        (("14 HARBOUR ST, UNIT 3, LOWESTOFT, NR32 1XA",), "14", "harbour street", "lowestoft", "NR321XA"),
        (("14 HARBOUR STREET LOWESTOFT NR32 1XA",), "14", "harbour street", "lowestoft", "NR321XA"),
        (("HAFENSTRASSE 14 27568 BREMERHAVEN",), "14", "hafenstrasse", "bremerhaven", "27568"),
        (("Hafenstr. 12a", "Bremerhaven", "27568", "", "Deutschland"), "12a", "hafenstrasse", "bremerhaven", "27568"),
        (("12 rue du Port, 29200 Brest, France",), "12", "rue du port", "brest", "29200"),
        (("Havnegata 7 B, 5003 BERGEN, NORWAY",), "7b", "havnegata", "bergen", "5003"),
        (("ul. Portowa 5/7, 81-350 Gdynia",), "5-7", "ulica portowa", "gdynia", "81350"),
        (("12-14 Quay Rd", "Hull"), "12-14", "quay road", "hull", ""),
    ],
)
def test_addresses_in_one_line_and_in_parts(
    parts: tuple[str, ...], number: str, street: str, city: str, postcode: str
) -> None:
    parsed = parse_address(*parts)
    assert (parsed.number, parsed.street, parsed.city, parsed.postcode) == (number, street, city, postcode)


def test_units_and_boxes_are_kept_apart_from_the_street() -> None:
    assert parse_address("Unit 3, 14 Harbour Street, Whitby").unit == "3"
    assert parse_address("PO Box 17, Galway, H91 E2K3").box == "17"


@pytest.mark.parametrize("name", ["GB", "United Kingdom", "UK", "Vereinigtes Königreich"])
def test_a_country_by_any_of_its_names(name: str) -> None:
    assert country_code(name) == "GB"


def test_a_phone_is_the_same_with_and_without_its_country() -> None:
    forms = ["+44 (0)1632 960123", "0044 1632 960123", "01632 960 123 ext 7"]
    assert {tidy_phone(form, "GB") for form in forms} == {"+441632960123"}
    assert {phone_end(tidy_phone(form)) for form in forms} == {"32960123"}
    assert tidy_phone("n/a") == tidy_phone("0000000") == ""


def test_mail_web_tax_and_dates() -> None:
    assert tidy_email(" Info+shop@Tern.EXAMPLE ") == "info@tern.example"
    assert email_domain("anna@postbox.example") == ""
    assert tidy_web_site("https://www.shop.skua.co.uk/rope?x=1") == "skua.co.uk"
    assert split_tax_number("GB 980 7806 84") == ("980780684", "980780684")
    assert split_tax_number("980780685", "GB") == ("980780685", "")
    assert {tidy_date(text) for text in ("2021-04-03", "3/4/2021", "03.04.21", "20210403", "3 Apr 2021")} == {
        "2021-04-03"
    }
    assert tidy_date("31/02/2021") == ""


@given(st.sampled_from(list(RegisterKind)), st.data())
def test_tidying_never_raises_and_gives_ascii(kind: RegisterKind, data: st.DataObject) -> None:
    row = {field.name: data.draw(any_text) for field in default_layout(kind).fields}
    assert all(
        value and value.isascii()
        for name, value in tidy_row(default_layout(kind), row).items()
        if not name.startswith(("email", "web_site", "name.original"))
    )
