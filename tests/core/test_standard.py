"""Values in standard form."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.records import encode
from oddpair.core.standard import standard_columns, standard_values
from oddpair.core.standard.letters import proper_case, proper_name

from .strategies import any_text

ORGANISATION, PERSON = default_layout(RegisterKind.ORGANISATION), default_layout(RegisterKind.PERSON)


@pytest.mark.parametrize(
    ("written", "expected"),
    [
        ("SKUA ROPE WORKS AND SONS LTD", "Skua Rope Works and Sons Ltd"),
        ("TERN GMBH & CO. KG", "Tern GmbH & Co. KG"),
        ("o'brien marine services", "O'Brien Marine Services"),
        ("SKF BOATS II PLC", "SKF Boats II PLC"),
        ("BAKER'S YARD A/S", "Baker's Yard A/S"),
        ("YACHTHAVEN SP. Z O.O.", "Yachthaven Sp. z o.o."),
        ("SEGELVEREIN E.V.", "Segelverein e.V."),
        ("ÉCOLE DE VOILE SARL", "École de Voile SARL"),
        ("iSail GmbH", "iSail GmbH"),
        ("MARINA DA SILVA SE", "Marina da Silva SE"),
        ("TERN AG & CO KG", "Tern AG & Co KG"),
        ("2ND AVENUE", "2nd Avenue"),
    ],
)
def test_capitals_of_organisations_and_places(written: str, expected: str) -> None:
    assert proper_case(written) == expected


@pytest.mark.parametrize(
    ("written", "expected"),
    [("O'BRIEN-MCKAY", "O'Brien-McKay"), ("VAN DER MEER", "van der Meer"), ("van der MEER", "van der Meer"), ("DeVries", "DeVries")],
)  # fmt: skip
def test_capitals_of_people(written: str, expected: str) -> None:
    assert proper_name(written) == expected


@pytest.mark.parametrize(
    ("delivered", "name", "given_name", "family"),
    [
        ({"name": "QUAYLE, Dr. ROBERT"}, "Dr. Robert Quayle", "Robert", "Quayle"),
        ({"name": "van der MEER Jr, Willem"}, "Willem van der Meer Jr", "Willem", "van der Meer"),
        ({"name": "Kjaer Sr, Lise Frederik"}, "Lise Frederik Kjaer Sr", "Lise Frederik", "Kjaer"),
        ({"name.given": "Helen", "name.family": "Kirkby Jr"}, "Helen Kirkby Jr", "Helen", "Kirkby"),
        (
            {"name.given": "HELEN", "name.family": "KIRKBY, SR", "name.suffix": "Sr"},
            "Helen Kirkby Sr",
            "Helen",
            "Kirkby",
        ),
        ({"name": "R. J. QUAYLE SR"}, "R. J. Quayle Sr", "R. J.", "Quayle"),
        ({"name": "Anna Holm née Lykke"}, "Anna Holm née Lykke", "Anna", "Holm"),
        ({"name.given": "ROBERT", "name.family": "QUAYLE"}, "Robert Quayle", "Robert", "Quayle"),
        ({"name": "Holm, Anna", "name.given": "Anna"}, "Anna Holm", "Anna", "Holm"),
        ({"name": "山田 太郎"}, "山田 太郎", "太郎", "山田"),
        ({"name": "BAKKE"}, "Bakke", "", "Bakke"),
    ],
)
def test_people_are_in_parts_and_have_a_name_to_be_called_by(
    delivered: dict[str, str], name: str, given_name: str, family: str
) -> None:
    found = standard_values(PERSON, delivered)
    assert (found["name"], found.get("name.given", ""), found.get("name.family", "")) == (name, given_name, family)


@pytest.mark.parametrize(
    ("delivered", "expected"),
    [
        (
            {"line": "14 HARBOUR ST, LOWESTOFT, NR321XA", "country": "UK"},
            {"line": "14 Harbour Street", "city": "Lowestoft", "postcode": "NR32 1XA", "country": "GB"},
        ),
        (
            {"line": "Hafenstr. 12", "city": "BREMERHAVEN", "postcode": "D-27568", "country": "Deutschland"},
            {"line": "Hafenstraße 12", "city": "Bremerhaven", "postcode": "27568", "country": "DE"},
        ),
        ({"line": "HAMBURGER STR.5", "country": "DE"}, {"line": "Hamburger Straße 5", "country": "DE"}),
        ({"line": "Seestr 5", "country": "CH"}, {"line": "Seestrasse 5", "country": "CH"}),
        (
            {"line": "120 main st", "city": "springfield", "region": "Illinois", "postcode": "62704", "country": "USA"},
            {"line": "120 Main Street", "city": "Springfield", "region": "IL", "postcode": "62704", "country": "US"},
        ),
        (
            {"line": "Havnegata", "number": "3 B", "city": "Bergen", "country": "Norge"},
            {"line": "Havnegata 3 B", "city": "Bergen", "country": "NO"},
        ),
        (
            {"line": "HARBOUR STREET", "number": "3", "city": "WELLS-NEXT-THE-SEA", "postcode": "nr231aa"},
            {"line": "3 Harbour Street", "city": "Wells-next-the-Sea", "postcode": "NR23 1AA"},
        ),
        ({"line": "〒104-0043 東京都中央区湊1丁目2番3号"}, {"line": "〒104-0043 東京都中央区湊1丁目2番3号", "postcode": "1040043"}),
    ],
)  # fmt: skip
def test_addresses_are_written_as_their_country_does(delivered: dict[str, str], expected: dict[str, str]) -> None:
    found = standard_values(ORGANISATION, {f"address.{part}": text for part, text in delivered.items()})
    assert found == {f"address.{part}": text for part, text in expected.items()}


@pytest.mark.parametrize(
    ("field", "written", "expected"),
    [
        ("phone", "(01632) 960 704", "+441632960704"),
        ("phone", "+44 1632 960704 ext. 7", "+441632960704;ext=7"),
        ("phone", "ask reception", "ask reception"),
        ("email", "INFO@Tern.Example", "info@tern.example"),
        ("web_site", "HTTPS://www.Tern.example/", "www.tern.example"),
        ("tax_number", "GB 980 7806 84", "GB980780684"),
        ("updated_on", "05/17/2016 08:54 AM", "2016-05-17"),
        ("updated_on", "last spring", "last spring"),
    ],
)
def test_single_values(field: str, written: str, expected: str) -> None:
    assert standard_values(ORGANISATION, {field: written, "address.country": "UK"})[field] == expected


some_text = st.one_of(
    any_text,
    st.sampled_from(
        ["QUAYLE, Dr. ROBERT", "1 QUAY RD, WHITBY YO21 1AA", "5003 Bergen, Havnegata 3, Norway", "UK", "Deutschland", "NR321XA",
         "01632 960704 x7", "a@B.example", "van der MEER", "IL", "12 b", "Anna née Holm", "Holm Jr", "TERN A.S.", "PT SKUA TBK"]
    ),
)  # fmt: skip


@pytest.mark.parametrize("layout", [ORGANISATION, PERSON])
@given(st.data())
def test_the_standard_form_of_a_standard_form_is_itself(layout: object, data: st.DataObject) -> None:
    chosen = ORGANISATION if layout is ORGANISATION else PERSON
    values = data.draw(st.fixed_dictionaries({}, optional=dict.fromkeys(chosen.names, some_text)))
    once = standard_values(chosen, values)
    assert all(once.values())
    assert standard_values(chosen, once) == once


@given(st.lists(st.fixed_dictionaries({}, optional=dict.fromkeys(PERSON.names, some_text)), min_size=1, max_size=6))
def test_by_columns_it_is_the_same(rows: list[dict[str, str]]) -> None:
    columns = {name: encode(row.get(name) for row in rows) for name in PERSON.names}
    standard = standard_columns(PERSON, columns)
    for place, row in enumerate(rows):
        found = {name: value for name, column in standard.items() if (value := column.at(place))}
        assert found == standard_values(PERSON, row)
    assert all(isinstance(column.codes, np.ndarray) for column in standard.values())


def test_a_number_of_a_record_without_a_country_has_that_of_whoever_gave_it() -> None:
    values = {"phone": "01632 960902"}
    assert standard_values(ORGANISATION, values) == values
    assert standard_values(ORGANISATION, values, {"phone": "United Kingdom"}) == {"phone": "+441632960902"}
    elsewhere = {**values, "address.country": "DK"}
    assert standard_values(ORGANISATION, elsewhere, {"phone": "GB"}) == standard_values(ORGANISATION, elsewhere)
