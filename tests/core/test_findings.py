from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.errors import PlanInvalid
from oddpair.core.fields import Field, FieldKind, Layout, RegisterKind, default_layout
from oddpair.core.findings import Found, Side, find, parse_findings_plan, usual_plan
from oddpair.core.records import RecordSetBuilder
from oddpair.core.tidying import tidy_records

ACCOUNT = Field("bank_account", FieldKind.IDENTIFIER, "Bank account")


def layout(kind: RegisterKind) -> Layout:
    usual = default_layout(kind)
    return Layout(kind, (*usual.fields, ACCOUNT))


FIRMS, STAFF = layout(RegisterKind.ORGANISATION), layout(RegisterKind.PERSON)
PLAN = usual_plan("Suppliers and employees", FIRMS, STAFF)
Rows = list[dict[str, str]]


def side(kind: RegisterKind, rows: Rows, owners: list[int] | None = None) -> Side:
    builder = RecordSetBuilder()
    for number, row in enumerate(rows):
        builder.add("list", f"{number:03d}", row)
    records = tidy_records(layout(kind), builder.build())
    return Side(records, np.array(owners or range(len(rows)), dtype=np.int32))


def look(firms: Rows, staff: Rows, owners: list[int] | None = None) -> tuple[list[Found], dict[str, int]]:
    return find(side(RegisterKind.ORGANISATION, firms, owners), side(RegisterKind.PERSON, staff), PLAN)


def address(line: str, city: str = "Whitby", country: str = "GB", postcode: str = "") -> dict[str, str]:
    return {"address.line": line, "address.city": city, "address.country": country, "address.postcode": postcode}


def said(found: list[Found]) -> list[tuple[int, int, list[str]]]:
    return [(one.one, one.other, [PLAN.shared[thing.rule].title for thing in one.things]) for one in found]


CLERK = {"name": "Ann Holm", **address("12 High Street"), "phone": "01632 960001", "bank_account": "GB12 KITT 0001"}


@pytest.mark.parametrize(
    ("firm", "shares"),
    [
        ({"name": "Tern Paints", "phone": "+44 1632 960001"}, ["phone"]),
        ({"name": "Tern Paints", "bank_account": "gb12kitt0001"}, ["bank account"]),
        ({"name": "Tern Paints", **address("12 High St")}, ["address"]),
        ({"name": "Holm Rope Works Ltd", **address("40 High Street")}, ["family name and address"]),
        ({"name": "Holm Rope Works Ltd", **address("12 High Street")}, ["address"]),
        ({"name": "Tern Paints", **address("40 High Street")}, []),
        ({"name": "Tern Paints", **address("12 High Street", "Boston", "US")}, []),
        ({"name": "Holm Rope Works Ltd", **address("12 High Street", "Bergen", "NO")}, []),
        ({"name": "Tern Paints", "address.line": "12 High Street"}, []),
        ({"name": "Ann Holm Ltd", **address("9 Pier Road")}, []),
    ],
)
def test_what_is_shared_is_told_and_nothing_else(firm: dict[str, str], shares: list[str]) -> None:
    assert said(look([firm], [CLERK])[0]) == ([(0, 0, shares)] if shares else [])


def test_the_towns_business_park_is_nobodys_own() -> None:
    park = [{"name": f"Tenant {n}", **address("1 Harbour Park"), "phone": f"01632 9602{n:02d}"} for n in range(12)]
    clerk = {"name": "Ann Holm", **address("1 Harbour Park"), "phone": "01632 960203"}
    found, common = look(park, [clerk])
    assert said(found) == [(3, 0, ["phone"])]
    assert common["address"] == 12


def test_records_of_one_firm_make_one_finding_and_are_one_holder() -> None:
    firms = [{"name": f"Tern Paints {n}", "phone": "01632 960001"} for n in range(8)]
    found, _ = look(firms, [CLERK], owners=[5] * 8)
    assert said(found) == [(5, 0, ["phone"])]
    assert (found[0].things[0].one_holders, found[0].things[0].other_holders) == (1, 1)


firms = st.lists(
    st.fixed_dictionaries(
        {"name": st.sampled_from(["Holm Rope Works", "Tern Paints", "Skua Lofts"])},
        optional={
            "phone": st.sampled_from(["01632 960001", "01632 960002"]),
            "bank_account": st.sampled_from(["GB12KITT0001", "GB99"]),
            "address.line": st.sampled_from(["12 High Street", "14 High Street", "3 Pier Road"]),
            "address.city": st.sampled_from(["Whitby", "Bergen"]),
        },
    ),
    max_size=8,
)  # fmt: skip


@given(firms, st.randoms(use_true_random=False))
def test_findings_do_not_depend_on_the_order_of_records(rows: Rows, random: Random) -> None:
    order = list(range(len(rows)))
    random.shuffle(order)
    staff = [CLERK, {"name": "Bob Skua", **address("3 Pier Road"), "phone": "01632 960002"}]
    one, counts = look(rows, staff)
    other, turned = look([rows[place] for place in order], staff, owners=order or None)

    def told(found: list[Found]) -> set[tuple]:
        return {
            (
                item.one,
                item.other,
                tuple((t.rule, t.value.casefold(), t.one_holders, t.other_holders, t.bits) for t in item.things),
            )
            for item in found
        }

    assert told(one) == told(other)
    assert counts == turned


def test_plans_of_findings_are_read_and_checked() -> None:
    text = "title: x\nshared:\n  - {title: phone, using: phone, one: phone, other: phone}\n"
    assert parse_findings_plan(text, FIRMS, STAFF).most_holders == 5
    for wrong, says in (("phon}", "Did you mean"), ("phone, usin: x}", "usin")):
        with pytest.raises(PlanInvalid, match=says):
            parse_findings_plan(text.replace("phone}", wrong), FIRMS, STAFF)
    with pytest.raises(PlanInvalid, match="only people"):
        parse_findings_plan(text.replace("using: phone", "using: family name and address"), FIRMS, FIRMS)
    with pytest.raises(PlanInvalid, match="YAML"):
        parse_findings_plan("title: [", FIRMS, STAFF)
    with pytest.raises(PlanInvalid, match="no fields"):
        usual_plan("x", Layout(RegisterKind.ORGANISATION, ()), STAFF)
