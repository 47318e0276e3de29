import pytest

from oddpair.core.errors import MappingInvalid
from oddpair.core.fields import Layout, RegisterKind, default_layout
from oddpair.core.mapping import (
    Assignment,
    ColumnSample,
    apply_mapping,
    assignment_from,
    mapping_from_columns,
    mapping_from_document,
    place_labels,
    propose_mapping,
    proposed_mapping,
    validate_mapping,
)
from oddpair.core.mapping.headers import read_header

ORGANISATIONS, PEOPLE = (default_layout(kind) for kind in (RegisterKind.ORGANISATION, RegisterKind.PERSON))


def proposed(layout: Layout, **columns: list[str]) -> dict[str, str]:
    samples = [ColumnSample(header.replace("_", " "), tuple(values)) for header, values in columns.items()]
    return {item.column: item.target for item in propose_mapping(layout, samples)}


def test_headers_in_several_languages() -> None:
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


def test_contents_decide_where_headers_say_nothing() -> None:
    found = proposed(
        ORGANISATIONS,
        f1=["Tern Boatyard Ltd", "Skua Ropes GmbH"], f2=["YO21 1AA", "NR32 1XA"], f3=["info@tern.example", "x@skua.example"],
        f4=["+44 1632 960001", "01632 960 002"], f5=["2024-01-02", "2025-03-04"],
    )  # fmt: skip
    assert found == {"f1": "name", "f2": "address.postcode", "f3": "email", "f4": "phone", "f5": "updated_on"}


def test_a_header_that_its_contents_belie_is_not_believed_unless_it_says_email_or_postcode() -> None:
    assert proposed(PEOPLE, name=["Ada Quayle"], phone=["no", "yes"])["phone"] == ""
    samples = [ColumnSample("name", ("Ada Quayle", "Bo Dahl")), ColumnSample("email", ("none", "ask him"))]
    [_, email] = propose_mapping(PEOPLE, samples)
    assert (email.target, email.reason) == ("email", "the header says so, but hardly any value looks like it")


def test_parts_of_a_name_and_birth_dates_of_people() -> None:
    found = proposed(PEOPLE, first_name=["Ada"], surname=["Quayle"], dob=["1970-01-01"], vessel=["Tystie"])
    assert found == {"first name": "name.given", "surname": "name.family", "dob": "birth_date", "vessel": "boat"}


def test_a_wrong_mapping_lists_every_problem() -> None:
    mapping = mapping_from_columns({"a": "id", "b": "id", "c": "nme", **dict.fromkeys("defg", "phone")})
    more = (
        Assignment("id", constant="7"),
        Assignment("address.city"),
        Assignment("email", "a", "x"),
        Assignment("phone", "a", label="x" * 50),
    )
    with pytest.raises(MappingInvalid) as caught:
        validate_mapping(ORGANISATIONS, list("abdefg"), (*mapping, *more))
    told = "; ".join(caught.value.problems)
    assert "'a', 'b' and '7' are all mapped to 'id', which takes 1" in told
    assert "'d', 'e', 'f', 'g' and 'a' are all mapped to 'phone', which takes 3" in told
    assert "no column 'c'" in told
    assert "Did you mean 'name'" in told
    assert "without names nothing can be matched" in told
    assert "'address.city' needs either a column or a constant" in told
    assert "'email' needs either" in told
    assert "the id of a record cannot be a constant" in told
    assert "a label has at most 40 letters" in told


def test_a_header_known_as_a_whole_is_not_read_in_part() -> None:
    numbers = [f"{n * 7919 % 1000003:06d}" for n in range(40)]
    found = proposed(ORGANISATIONS, vat_no=numbers, account_no=[f"{n:05d}" for n in range(40)], firm=["Skua Ltd"] * 40)
    assert (found["account no"], found["vat no"], found["firm"]) == ("id", "tax_number", "name")


def test_several_columns_give_a_field_several_values() -> None:
    mapping = mapping_from_columns({"n": "name", "t": "phone", "m": "phone"})
    assert validate_mapping(ORGANISATIONS, ["n", "t", "m"], mapping) == mapping
    assert apply_mapping(mapping, {"n": "Tern", "m": "01632 960001"})[1] == {"name": "Tern", "phone#2": "01632 960001"}


def test_labels_keep_the_parts_of_one_address_together_and_constants_fill_in() -> None:
    mapping = (
        Assignment("name", "n"), Assignment("boat", "n"), Assignment("address.city", "town"), Assignment("address.line", "to", label="delivery"),
        Assignment("address.line", "street"), Assignment("address.postcode", "zip", label="delivery"), Assignment("address.country", constant="NO"),
    )  # fmt: skip
    assert validate_mapping(PEOPLE, ["n", "town", "to", "street", "zip"], mapping) == mapping
    row = {"n": "Tern", "town": "Oban", "to": "Kai 1", "street": "Quay 2", "zip": "5003"}
    assert apply_mapping(mapping, row)[1] == {
        "name": "Tern", "boat": "Tern", "address.city": "Oban", "address.line#2": "Kai 1", "address.line": "Quay 2",
        "address.postcode#2": "5003", "address.country": "NO",
    }  # fmt: skip
    assert place_labels(mapping) == {"address.line#2": "delivery", "address.postcode#2": "delivery"}


def test_two_addresses_and_two_phones_are_proposed_with_their_labels() -> None:
    samples = [
        ColumnSample(header, tuple(values))
        for header, values in {
            "Company": ["Tern Ltd"], "Billing street": ["1 Quay Road"], "Billing city": ["Oban"], "Delivery street": ["2 Pier Lane"],
            "Delivery city": ["Wick"], "Office phone": ["01632 960001"], "Mobile": ["01632 960002"],
        }.items()
    ]  # fmt: skip
    assert proposed_mapping(propose_mapping(ORGANISATIONS, samples)) == (
        Assignment("name", "Company"), Assignment("address.line", "Billing street", label="billing"),
        Assignment("address.city", "Billing city", label="billing"), Assignment("address.line", "Delivery street", label="delivery"),
        Assignment("address.city", "Delivery city", label="delivery"), Assignment("phone", "Office phone", label="work"),
        Assignment("phone", "Mobile", label="mobile"),
    )  # fmt: skip


def test_a_map_document_says_columns_or_everything() -> None:
    document = {
        "till": {"no": "id", "who": ["name", "boat"], "x": None},
        "*": [{"field": "phone", "constant": 7, "label": "work"}],
    }
    assert mapping_from_document(document, "till") == (
        Assignment("id", "no"),
        Assignment("name", "who"),
        Assignment("boat", "who"),
    )
    assert mapping_from_document(document, "ledger") == (Assignment("phone", constant="7", label="work"),)
    assert mapping_from_document({}, "ledger") is None
    for wrong in (["x"], {"till": 3}, {"till": [1]}):
        with pytest.raises(MappingInvalid):
            mapping_from_document(wrong, "till")
    with pytest.raises(MappingInvalid, match="no 'colum'"):
        assignment_from({"colum": "x"})


def test_applying_a_mapping_keeps_only_filled_fields() -> None:
    mapping = mapping_from_columns({"no": "id", "n": "name", "t": "phone"})
    assert apply_mapping(mapping, {"no": " 7 ", "n": "Tern", "t": " ", "x": "y"}) == ("7", {"name": "Tern"})


@pytest.mark.parametrize(
    ("header", "kind", "target"),
    [("name.first", "person", "name.given"), ("customer[name][family]", "person", "name.family"), ("Kreditorennummer", "organisation", "id"),
     ("shipping_address.zip", "person", "address.postcode"), ("contact.phone", "organisation", "phone"), ("ADDR1", "person", "address.line"),
     ("PSTCD", "organisation", "address.postcode"), ("Trading As", "organisation", "name+"), ("company", "person", "-"),
     ("company", "organisation", "name"), ("created_at", "person", "-"), ("Last Modified Date", "organisation", "updated_on"),
     ("город", "organisation", "address.city"), ("supplier/address/line2", "organisation", "address.line2")],
)  # fmt: skip
def test_a_header_is_read_by_its_parts_in_any_order(header: str, kind: str, target: str) -> None:
    assert read_header(header, RegisterKind(kind))[0].target == target


def told(kind: RegisterKind, columns: dict[str, list[str]]) -> dict[str, str]:
    samples = [ColumnSample(header, tuple(filter(None, values)), len(values)) for header, values in columns.items()]
    return {item.column: item.target for item in propose_mapping(default_layout(kind), samples)}


GIVEN, FAMILY = ["James", "Susan", "Thomas", "Anna", "Peter"] * 4, ["Selby", "Moen", "Bakker", "Holm", "Quayle"] * 4


def test_an_employer_is_nobodys_name_and_no_rows_are_lost_to_it() -> None:
    columns = {
        "id": [str(n) for n in range(20)],
        "company": ["Tern Ltd", "", "", "", ""] * 4,
        "name.first": GIVEN,
        "name.last": FAMILY,
    }
    assert told(RegisterKind.PERSON, columns) == {
        "id": "id",
        "company": "",
        "name.first": "name.given",
        "name.last": "name.family",
    }


def test_a_file_without_headers_has_its_names_found() -> None:
    families = [f"Selby{letter}" for letter in "abcdefghijklmnopqrst"]
    people = told(RegisterKind.PERSON, {"A": GIVEN, "B": families})
    assert people == {"A": "name.given", "B": "name.family"}
    firms = told(
        RegisterKind.ORGANISATION,
        {"X": [f"Skua {word} Ropes" for word in FAMILY + GIVEN], "Y": [f"{n}" for n in range(40)]},
    )
    assert firms["X"] == "name"


def test_a_column_called_name_is_the_part_that_is_missing_beside_the_other() -> None:
    assert told(RegisterKind.PERSON, {"Prénom": GIVEN, "Nom": FAMILY}) == {"Prénom": "name.given", "Nom": "name.family"}
    assert told(RegisterKind.PERSON, {"Nombre": GIVEN, "Apellidos": FAMILY}) == {
        "Nombre": "name.given",
        "Apellidos": "name.family",
    }


def test_contents_outweigh_a_header_that_they_cannot_be() -> None:
    mails = [f"box{n}@tern.example" for n in range(20)]
    found = told(
        RegisterKind.ORGANISATION,
        {"name": [f"Tern {n} Ropes" for n in FAMILY], "address": mails, "fax": ["01632 960001"] * 20},
    )
    assert found == {"name": "name", "address": "email", "fax": ""}


def test_trading_names_are_further_names_and_an_id_that_is_not_unique_is_none() -> None:
    firms = [f"{name} Ropes Ltd" for name in "abcdefghijklmnopqrst"]
    found = told(
        RegisterKind.ORGANISATION, {"Customer No": ["7"] * 20, "Company": firms, "Trading as": [*firms[:3], *[""] * 17]}
    )
    assert found == {"Customer No": "", "Company": "name", "Trading as": "name"}


def test_technical_headers_are_known() -> None:
    found = proposed(
        ORGANISATIONS,
        KUNNR=["0000100001", "0000100002"], NAME1=["Tern Ropes Ltd", "Skua Ropes"], STRAS=["Quay Road", "Pier Lane"],
        HOUSE_NUM1=["1", "2"], STR_SUPPL1=["Unit 4", ""], PSTLZ=["27568", "27570"], ORT01=["Emden", "Leer"], LAND1=["DE", "DE"],
        TELF1=["0471 990123", ""], STCEG=["DE136695976", ""], ERDAT=["20200102", "20200103"],
    )  # fmt: skip
    assert found == {
        "KUNNR": "id", "NAME1": "name", "STRAS": "address.line", "HOUSE NUM1": "address.number", "STR SUPPL1": "address.line2",
        "PSTLZ": "address.postcode", "ORT01": "address.city", "LAND1": "address.country", "TELF1": "phone", "STCEG": "tax_number", "ERDAT": "",
    }  # fmt: skip
    people = proposed(
        PEOPLE, contactid=["1"], firstname=["Ada"], lastname=["Quayle"], createdon=["2020-01-02"], NIF=["77"]
    )
    assert people["createdon"] == ""
    assert (people["contactid"], people["NIF"]) == ("id", "identifier")


def test_numbers_are_those_of_houses_where_they_repeat_beside_streets() -> None:
    streets, houses = [f"{word} Road" for word in ("Quay", "Pier")] * 15, [str(number % 9) for number in range(30)]
    ids, names = [f"C{number}" for number in range(30)], [f"Tern {number} Ltd" for number in range(30)]
    assert proposed(ORGANISATIONS, code=ids, name=names, street=streets, Número=houses)["Número"] == "address.number"
    assert proposed(ORGANISATIONS, code=ids, name=names, Número=houses)["Número"] == ""
    assert proposed(ORGANISATIONS, code=ids, name=names, street=streets, route_no=houses)["route no"] == ""
    assert proposed(ORGANISATIONS, name=names, street=streets, Número=[*map(str, range(30))])["Número"] == "id"
