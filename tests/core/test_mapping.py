import pytest

from oddpair.core.errors import MappingInvalid
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.mapping import ColumnSample, apply_mapping, propose_mapping, validate_mapping

ORGANISATIONS, PEOPLE = (default_layout(kind) for kind in (RegisterKind.ORGANISATION, RegisterKind.PERSON))


def proposed(layout, **columns: list[str]) -> dict[str, str]:
    samples = [ColumnSample(header.replace("_", " "), tuple(values)) for header, values in columns.items()]
    return {item.column: item.target for item in propose_mapping(layout, samples)}


def test_headers_in_several_languages():
    found = proposed(
        ORGANISATIONS,
        Kundennummer=["7"],
        Firmenname=["Tern GmbH"],
        Strasse=["Hafenstr. 1"],
        PLZ=["27568"],
        Ort=["Emden"],
        Telefon=["0471 990123"],
    )
    assert found == {
        "Kundennummer": "id", "Firmenname": "name", "Strasse": "address.line", "PLZ": "address.postcode", "Ort": "address.city", "Telefon": "phone",
    }  # fmt: skip


def test_contents_decide_where_headers_say_nothing():
    found = proposed(
        ORGANISATIONS,
        f1=["Tern Boatyard Ltd", "Skua Ropes GmbH"], f2=["YO21 1AA", "NR32 1XA"], f3=["info@tern.example", "x@skua.example"],
        f4=["+44 1632 960001", "01632 960 002"], f5=["2024-01-02", "2025-03-04"],
    )  # fmt: skip
    assert found == {"f1": "name", "f2": "address.postcode", "f3": "email", "f4": "phone", "f5": "updated_on"}


def test_a_header_that_its_contents_belie_is_not_believed():
    assert proposed(PEOPLE, name=["Ada Quayle"], email=["no", "yes"])["email"] == ""


def test_parts_of_a_name_and_birth_dates_of_people():
    found = proposed(PEOPLE, first_name=["Ada"], surname=["Quayle"], dob=["1970-01-01"], vessel=["Tystie"])
    assert found == {"first name": "name.given", "surname": "name.family", "dob": "birth_date", "vessel": "boat"}


def test_a_wrong_mapping_lists_every_problem():
    mapping = {"a": "id", "b": "id", "c": "nme", **dict.fromkeys("defg", "phone")}
    with pytest.raises(MappingInvalid) as caught:
        validate_mapping(ORGANISATIONS, list("abdefg"), mapping)
    told = "; ".join(caught.value.problems)
    assert "'a' and 'b' are both mapped to 'id', which takes 1" in told
    assert "'d', 'e', 'f' and 'g' are all mapped to 'phone', which takes 3" in told
    assert "no column 'c'" in told
    assert "Did you mean 'name'" in told
    assert "without names nothing can be matched" in told


def test_a_header_known_as_a_whole_is_not_read_in_part():
    numbers = [f"{n * 7919 % 1000003:06d}" for n in range(40)]
    found = proposed(ORGANISATIONS, vat_no=numbers, account_no=[f"{n:05d}" for n in range(40)], firm=["Skua Ltd"] * 40)
    assert (found["account no"], found["vat no"], found["firm"]) == ("id", "tax_number", "name")


def test_several_columns_give_a_field_several_values():
    mapping = {"n": "name", "t": "phone", "m": "phone"}
    assert validate_mapping(ORGANISATIONS, ["n", "t", "m"], mapping) == mapping
    assert apply_mapping(mapping, {"n": "Tern", "m": "01632 960001"})[1] == {"name": "Tern", "phone#2": "01632 960001"}


def test_applying_a_mapping_keeps_only_filled_fields():
    assert apply_mapping({"no": "id", "n": "name", "t": "phone"}, {"no": " 7 ", "n": "Tern", "t": " ", "x": "y"}) == (
        "7",
        {"name": "Tern"},
    )
