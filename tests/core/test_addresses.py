"""Addresses of many countries: regions, parts of buildings, other names of towns, and several addresses of one record."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.addresses import country_code, parse_address
from oddpair.core.addresses.regions import region_code
from oddpair.core.addresses.towns import standard_town
from oddpair.core.contacts.internet import email_domain, tidy_email
from oddpair.core.contacts.phones import phone_extension
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.tidying import tidy_row

from .strategies import any_text
from .test_compare import level

PERSON = RegisterKind.PERSON


def filled(*parts: str) -> dict[str, str]:
    return {name: value for name, value in parse_address(*parts)._asdict().items() if value}


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("123 N Main St Apt 4B, Springfield, IL 62704-1234",
         "number=123 street=north main street unit=4b city=springfield postcode=62704 region=US-IL country=US"),
        ("12345 SE Stark St, Portland, OR", "number=12345 street=southeast stark street city=portland region=US-OR country=US"),
        ("#4 500 E Fifth Ave Anchorage AK 99501",
         "number=500 street=east 5th avenue unit=4 city=anchorage postcode=99501 region=US-AK country=US"),
        ("P.O. BOX 2215", "box=2215"),
        ("PO BOX 22155 OSLO", "box=22155 city=oslo"),
        ("PO Box 12 Harbour Street", "street=harbour street box=12"),
        ("5 Main St, Wilmington, DE", "number=5 street=main street city=wilmington region=US-DE country=US"),
        ("Hafenstr. 5, 3. OG, 20457 Hamburg, DE", "number=5 street=hafenstrasse floor=3 city=hamburg postcode=20457 country=DE"),
        ("2/14 Marine Parade, Fremantle WA 6160",
         "number=14 street=marine parade unit=2 city=fremantle postcode=6160 region=AU-WA country=AU"),
        ("100 King St W, Suite 200, Toronto ON M5H 2N2",
         "number=100 street=king street west unit=200 city=toronto postcode=M5H2N2 region=CA-ON country=CA"),
        ("14 Quay St, Lowestoft, Suffolk, NR32 1XA",
         "number=14 street=quay street city=lowestoft postcode=NR321XA region=GB-SUFFOLK country=GB"),
        ("Quay Road, Oughterard, Co. Galway", "street=quay road city=oughterard region=IE-G"),
        ("Via Roma 12, 20121 Milano MI, Italia",
         "number=12 street=via roma city=milano postcode=20121 region=IT-MI country=IT"),
        ("1 Av. des Ports, bât. C, 29200 Brest", "number=1 street=avenue des ports building=c city=brest postcode=29200"),
        ("12-16 Dock Rd, Ground floor, Hull HU1 1AA",
         "number=12-16 street=dock road floor=0 city=hull postcode=HU11AA country=GB"),
        ("1234 State Route 9, Lake George, New York 12845",
         "number=1234 street=state route 9 city=lake george postcode=12845 region=US-NY country=US"),
        ("PO Box 12, Halifax NS B3H 1A1", "box=12 city=halifax postcode=B3H1A1 region=CA-NS country=CA"),
        ("12 St Johns Rd, St. Ives TR26 1AA", "number=12 street=saint johns road city=saint ives postcode=TR261AA country=GB"),
        ("Kirchstr. 2, 35. OG, 39882", "number=2 street=kirchstrasse floor=35 postcode=39882"),
        ("Rua das Flores 73, 64748-644 Santos", "number=73 street=rua das flores city=santos postcode=64748644"),
        ("Tannenallee 4, D-57362 NW", "number=4 street=tannenallee postcode=57362"),
        ("Hauptstraße 25, 80331, Bayern", "number=25 street=hauptstrasse postcode=80331 region=DE-BY"),
        ("10c, av. de la Fontaine", "number=10c street=avenue de la fontaine"),
        ("Whitby YO21 1AB", "city=whitby postcode=YO211AB country=GB"),
        ("High Street YO21 1AB", "street=high street postcode=YO211AB country=GB"),
        ("741 Oak Boulevard, United States", "number=741 street=oak boulevard country=US"),
        ("81 Church St., Co.", "number=81 street=church street"),
        ("12 High St, London UK", "number=12 street=high street city=london country=GB"),
    ],
)  # fmt: skip
def test_one_line_of_many_countries(line: str, expected: str) -> None:
    assert " ".join(f"{name}={value}" for name, value in filled(line).items()) == expected


def test_what_stands_in_the_line_and_apart_is_taken_once() -> None:
    apart = filled("5 Main St, Boston, 02134", "Boston", "2134", "Massachusetts", "USA")
    assert apart == filled("5 Main Street", "BOSTON", "02134-5678", "MA", "US")
    assert apart == filled("5 Main Street", "BOSTON", "2134-5678", "MA", "US")
    assert apart["postcode"] == "02134"
    porto = filled("Rua do Cais 5, 4000-123 Porto, Portugal")
    assert porto == filled("Rua do Cais 5", "Porto", "4000-123", "", "PT")


@pytest.mark.parametrize(
    ("text", "country", "postcode", "code"),
    [("Bavaria", "DE", "", "DE-BY"), ("WA", "", "6160", "AU-WA"), ("WA", "", "98101", "US-WA"), ("Calif.", "", "", "US-CA"),
     ("Noord-Brabant", "NL", "", "NL-NB"), ("Toscana", "", "", "IT-52"), ("Zealand", "DK", "", ""), ("", "", "", "")],
)  # fmt: skip
def test_regions_by_code_or_name(text: str, country: str, postcode: str, code: str) -> None:
    assert region_code(text, country, postcode) == code


def test_towns_by_their_own_and_by_other_names() -> None:
    assert standard_town("Cologne") == standard_town("KÖLN")
    assert standard_town("St Peter Port") == standard_town("Saint Peter Port")
    assert standard_town("Mt. Desert") == "mount desert"


@given(any_text, any_text, any_text)
def test_any_text_is_parsed(line: str, city: str, country: str) -> None:
    assert all(value == value.strip() for value in parse_address(line, city, "", "", country))


def test_another_unit_of_a_house_is_not_the_same_address_and_a_range_covers_its_numbers() -> None:
    def line(text: str) -> dict[str, str]:
        return {"address.line": text, "address.city": "Hull", "address.postcode": "HU1 1AA"}

    assert level("address", line("Unit 3, 14 Dock Road"), line("14 Dock Rd, Unit 5")) == "other unit"
    assert level("address", line("Unit 3, 14 Dock Road"), line("14 Dock Road")) == "equal"
    assert level("address", line("12-16 Dock Road"), line("14 Dock Road")) == "same street"
    assert level("address", line("12-16 Dock Road"), line("18 Dock Road")) == "other number"
    assert level("address", line("12b Dock Road"), line("12 Dock Road")) == "same street"


def test_the_best_of_several_addresses_counts() -> None:
    office = {"address.line": "14 Dock Road", "address.city": "Hull"}
    both = {
        "address.line": "3 Pier Lane",
        "address.city": "Whitby",
        "address.line#2": "14 Dock Rd",
        "address.city#2": "HULL",
    }
    assert level("address", office, both) == level("address", both, office) == "equal"
    assert level("address", {**office, "address.line": "15 Dock Road"}, both) == "other number"
    tidy = tidy_row(default_layout(RegisterKind.ORGANISATION), both)
    assert (tidy["address.city"], tidy["address.city#2"]) == ("whitby", "hull")


def test_ideographs_are_compared_beside_their_transliteration() -> None:
    assert level("person_name", {"name": "山田 太郎"}, {"name.family": "山田", "name.given": "太郎"}, PERSON) == "equal"
    one, other = {"name": "鴎海運株式会社"}, {"name": "鷗海運（株）"}
    assert level("organisation_name", one, one) == "equal"
    assert level("organisation_name", one, other) != "equal"


def test_extensions_and_marks_of_mail_providers_are_told_apart() -> None:
    assert [phone_extension(text) for text in ("01632 960001 ext. 7", "01632 960001x22", "01632 960001")] == [
        "7",
        "22",
        "",
    ]
    assert tidy_row(default_layout(RegisterKind.PERSON), {"phone": "01632 960001 ext 7"})["phone.extension"] == "7"
    assert tidy_email("Ada.Q.uayle+boat@QuickMail.example") == tidy_email("adaquayle@quickmail.example")
    assert tidy_email("a.q@seamail.example") != tidy_email("aq@seamail.example")
    assert email_domain("a@quickmail.example") == ""


towns = st.sampled_from(["Springfield", "Lake George", "Anchorage", "St. Albans", "Rose Hill"])
states = st.sampled_from(["IL", "NY", "AK", "VT", "OR", "WA", "CA", "DE", "IN"])


@given(
    st.integers(1, 99_999), st.sampled_from(["", "N ", "SE "]), st.sampled_from(["Harbour", "Quay", "5th", "Gannet"]),
    st.sampled_from(["St", "Ave", "Blvd", "Rd", "Ln", "Dr"]), st.sampled_from(["", ", Apt 4B", " #12", ", Fl 3"]), towns, states,
    st.integers(10_000, 99_999), st.booleans(),
)  # fmt: skip
def test_american_addresses_read_alike_in_one_line_and_in_parts(
    number: int, side: str, name: str, kind: str, inside: str, town: str, state: str, postcode: int, extended: bool
) -> None:
    street = f"{number} {side}{name} {kind}{inside}"
    digits = f"{postcode}-{number:04d}" if extended and number < 10_000 else f"{postcode}"
    whole, parts = (
        parse_address(f"{street}, {town}, {state} {digits}"),
        parse_address(street, town, digits, state, "USA"),
    )
    assert whole == parts
    assert (whole.number, whole.postcode, whole.region) == (str(number), str(postcode), f"US-{state}")
    assert bool(whole.unit or whole.floor) == bool(inside)
    assert parse_address(f"{street}, {town}, {state} {digits}, United States".upper()) == parts


def test_what_may_be_a_country_and_a_region_goes_by_what_stands_around_it() -> None:
    assert parse_address("14 Kai, 20457 Hamburg, DE").country == "DE"
    assert parse_address("14 Quay St, Dover, DE").region == "US-DE"
    assert parse_address("14 Quay Street Galway Ireland").country == "IE"
    assert parse_address("14 Quay Road Jersey").country == "JE"
    assert parse_address("14 Quay Road New Jersey").country == ""
    assert parse_address("Bryggen 3, 5003 Bergen, Norvège").country == "NO"


@pytest.mark.parametrize(
    ("city", "postcode", "country", "expected"),
    [
        ("22278 VERONA", "22278 VERONA", "IT", ("verona", "22278")),
        ("1080 AS Capelle", "1080 AS Capelle", "", ("capelle", "1080AS")),
        ("Springfield, IL 62704", "Springfield, IL 62704", "US", ("springfield", "62704")),
        ("D-57362 Olpe", "", "", ("olpe", "57362")),
        ("", "Nova Recife 76296-824", "BR", ("nova recife", "76296824")),
        ("New York City", "New York City", "US", ("new york", "")),
        ("Lowestoft", "NR32 1XA", "GB", ("lowestoft", "NR321XA")),
        ("Paris 15", "75015", "FR", ("paris 15", "75015")),
    ],
)
def test_town_and_postcode_in_one_cell_are_told_apart(
    city: str, postcode: str, country: str, expected: tuple[str, str]
) -> None:
    parsed = parse_address("14 Harbour Street", city, postcode, "", country)
    assert (parsed.city, parsed.postcode) == expected


@pytest.mark.parametrize(
    ("name", "code"),
    [
        ("UAE", "AE"), ("République française", "FR"), ("Bundesrepublik Deutschland", "DE"), ("Turkey", "TR"),
        ("Česká republika", "CZ"), ("Repubblica Italiana", "IT"), ("РФ", "RU"), ("中华人民共和国", "CN"),
    ],
)  # fmt: skip
def test_countries_are_known_by_the_names_they_give_themselves(name: str, code: str) -> None:
    assert country_code(name) == code
