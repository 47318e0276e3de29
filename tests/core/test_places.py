"""Addresses and phones of every country of the scenario, written the ways sources write them."""

from random import Random

import pytest

from oddpair.core.addresses import parse_address
from oddpair.core.contacts.phones import phone_end, tidy_phone
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.tidying import tidy_records, with_what_all_teach
from oddpair.demo.places import COUNTRIES, Country, Place, fill, make_place

from .strategies import records
from .test_compare import level

BY_CODE = {country.code: country for country in COUNTRIES}
#: Streets without a type word or a number by which street and town can be told apart without commas.
_NEEDS_COMMAS = frozenset({"GR", "JP", "FR", "PL"})


def places(country: Country, count: int = 60) -> list[Place]:
    random = Random(country.code)
    return [make_place(random, country) for _ in range(count)]


def ordered(place: Place, comma: str) -> str:
    last = f"{place.town} {place.postcode}" if place.country.code in ("GB", "IE") else f"{place.postcode} {place.town}"
    return f"{place.line}{comma}{last}"


def parts(place: Place) -> tuple[str, str, str, str]:
    parsed = parse_address(place.line, place.town, place.postcode, "", place.country.name)
    return parsed.number, parsed.street, parsed.city, parsed.postcode


def one_line(text: str, country: str = "") -> tuple[str, str, str, str]:
    parsed = parse_address(text, country=country)
    return parsed.number, parsed.street, parsed.city, parsed.postcode


@pytest.mark.parametrize("code", sorted(BY_CODE))
def test_split_addresses_are_parsed_without_a_mistake(code: str) -> None:
    for place in places(BY_CODE[code]):
        number, street, city, postcode = parts(place)
        assert number == place.number.lower()
        assert street
        assert city
        assert postcode == "".join(letter for letter in place.postcode if letter.isalnum())


@pytest.mark.parametrize("code", sorted(BY_CODE))
def test_one_line_with_commas_gives_what_parts_give(code: str) -> None:
    found = places(BY_CODE[code])
    good = [one_line(ordered(place, ", "), code) == parts(place) for place in found]
    assert sum(good) / len(good) >= 0.95, [
        ordered(place, ", ") for place, right in zip(found, good, strict=True) if not right
    ][:3]


@pytest.mark.parametrize("code", sorted(BY_CODE))
def test_one_line_does_not_need_its_country_said(code: str) -> None:
    found = places(BY_CODE[code])
    good = [one_line(ordered(place, ", ").upper()) == parts(place) for place in found]
    assert sum(good) / len(good) >= 0.9, [
        ordered(place, ", ") for place, right in zip(found, good, strict=True) if not right
    ][:3]


@pytest.mark.parametrize("code", sorted(set(BY_CODE) - _NEEDS_COMMAS))
def test_even_without_commas_most_addresses_are_told_apart(code: str) -> None:
    found = places(BY_CODE[code])
    good = [one_line(ordered(place, " ").upper()) == parts(place) for place in found]
    assert sum(good) / len(good) >= 0.8, [
        ordered(place, " ") for place, right in zip(found, good, strict=True) if not right
    ][:3]


@pytest.mark.parametrize("code", sorted(set(BY_CODE) - _NEEDS_COMMAS - {"GB", "IE"}))
@pytest.mark.parametrize(("comma", "least"), [(", ", 0.95), (" ", 0.8)])
def test_the_postcode_and_the_town_may_stand_before_the_street(code: str, comma: str, least: float) -> None:
    found = [place for place in places(BY_CODE[code]) if not place.unit]
    texts = [f"{place.postcode} {place.town}{comma}{place.line}" for place in found]
    good = [one_line(text, code) == parts(place) for text, place in zip(texts, found, strict=True)]
    assert sum(good) / len(good) >= least, [text for text, right in zip(texts, good, strict=True) if not right][:3]


@pytest.mark.parametrize(
    ("text", "number", "street", "city"),
    [
        ("14 Harbour St Lowestoft", "14", "harbour street", "lowestoft"),
        ("Hafenstraße 12 Husum", "12", "hafenstrasse", "husum"),
        ("14 Park Road West", "14", "park road west", ""),
        ("14 Quay Road New Jersey", "14", "quay road new jersey", ""),
        ("120 Main St Springfield, IL 62704-1234", "120", "main street", "springfield"),
        ("Springfield, IL 62704", "", "", "springfield"),
        ("14 Harbour Street Lowestoft Suffolk NR32 1XA", "14", "harbour street", "lowestoft"),
        ("P.O. Box 12 Lowestoft NR32 1XA", "", "", "lowestoft"),
        ("20457 Hamburg Am Alten Hafen 3", "3", "am alten hafen", "hamburg"),
        ("12345 Harbour Road Unit 7", "12345", "harbour road", ""),
        ("〒104-0043 東京都中央区湊1丁目2番3号", "1-2-3", "cou", "zhongyangqu"),
        ("東京都中央区湊一丁目2-3 港ビル3F", "1-2-3", "cou", "zhongyangqu"),
        ("湊１－２－３　301号室", "1-2-3", "cou", ""),
        ("2-3 Minato 1-chome, Chuo-ku, Tokyo 104-0043, Japan", "1-2-3", "minato chuo ku", "tokyo"),
        ("1-chome 2-3 Minato", "1-2-3", "minato", ""),
        ("Via Sassi 12, 00184 Roma RM, Italy", "12", "via sassi", "roma"),
    ],
)
def test_one_line_of_every_shape(text: str, number: str, street: str, city: str) -> None:
    parsed = parse_address(text)
    assert (parsed.number, parsed.street, parsed.city) == (number, street, city)


@pytest.mark.parametrize("code", sorted(BY_CODE))
def test_postcodes_and_numbers_are_found_even_where_the_town_is_not(code: str) -> None:
    for place in places(BY_CODE[code], 30):
        number, _, _, postcode = one_line(ordered(place, " ").upper(), code)
        assert postcode == "".join(letter for letter in place.postcode if letter.isalnum())
        assert number == place.number.lower()


@pytest.mark.parametrize("code", sorted(BY_CODE))
def test_a_national_number_and_its_international_form_are_one(code: str) -> None:
    random = Random(code)
    country = BY_CODE[code]
    for pattern in (country.phone, country.mobile):
        national = fill(pattern, random)
        tidy = tidy_phone(national, code)
        assert tidy.startswith("+")
        assert tidy_phone(tidy) == tidy
        assert tidy_phone(f"00{tidy[1:]}") == tidy
        spaced = f"{tidy[:4]} ({tidy[4:6]}) {tidy[6:]}"
        assert phone_end(tidy_phone(spaced)) == phone_end(tidy) == phone_end(tidy_phone(national))


@pytest.mark.parametrize("code", ["GB", "DE", "NO", "NL", "IE", "DK"])
def test_the_same_address_written_two_ways_compares_as_equal_and_a_neighbour_does_not(code: str) -> None:
    place = next(item for item in places(BY_CODE[code]) if item.number.isdigit() and not item.unit)
    split = {
        "address.line": place.line,
        "address.city": place.town,
        "address.postcode": place.postcode,
        "address.country": place.country.name,
    }
    assert level("address", split, {"address.line": ordered(place, ", ").upper()}) == "equal"
    neighbour = Place(place.country, place.town, place.postcode, place.street, str(int(place.number) + 2), "")
    assert level("address", split, {"address.line": ordered(neighbour, ", ")}) == "other number"


def test_a_country_is_known_by_its_postcode_where_the_shape_tells() -> None:
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records([
        ("till", "1", {"name": "a", "address.line": "1 QUAY ROAD, WHITBY YO21 1AA"}),
        ("till", "2", {"name": "b", "address.line": "1 PIER ROAD, GALWAY H91 E2K3"}),
        ("till", "3", {"name": "c", "address.line": "HAVNEGATA 3, 5003 BERGEN"}),
        ("till", "4", {"name": "d", "address.line": "HAVNEGATA 3, 5003 BERGEN, NORGE"}),
    ]))  # fmt: skip
    assert [tidy.column("address.country").at(place) for place in range(4)] == ["GB", "IE", "", "NO"]


@pytest.mark.parametrize(
    "text",
    ["", ",", ", ,", "Unit", "PO Box", "12", "NR32 1XA", "Germany", "flat 4 flat 5", "12-", "–", "1/2/3 a b c, d"],
)
def test_scraps_are_parsed_without_trouble(text: str) -> None:
    parsed = parse_address(text)
    assert all(
        value == value.strip()
        for value in (parsed.number, parsed.street, parsed.unit, parsed.box, parsed.city, parsed.postcode)
    )


def test_a_town_is_learned_from_the_postcode_of_others_and_taken_from_the_street() -> None:
    structured = [
        ("till", f"{number}", {"name": "a", "address.line": "1 Quay Road", "address.postcode": "NE33 1AA", "address.city": "South Shields"})
        for number in range(4)
    ]  # fmt: skip
    lines = [
        ("webshop", "5", {"name": "a", "address.line": "14 STATION PARADE SOUTH SHIELDS", "address.postcode": "NE331AA"}),
        ("webshop", "6", {"name": "a", "address.line": "14 Station Parade", "address.postcode": "NE33 1AB"}),
    ]  # fmt: skip
    layout = default_layout(RegisterKind.ORGANISATION)
    learned = with_what_all_teach(tidy_records(layout, records([*structured, *lines])))
    assert [learned.column("address.city").at(place) for place in (0, 4, 5)] == ["south shields", "south shields", ""]
    assert [learned.column("address.street").at(place) for place in (4, 5)] == ["station parade", "station parade"]
    once = tidy_records(layout, records([structured[0], *lines]))
    assert with_what_all_teach(once).column("address.city").at(1) == ""
