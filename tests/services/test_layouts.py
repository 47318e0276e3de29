"""A register's layout with fields of its own: mapped, tidied, compared, merged and sent out like any other."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import select

from oddpair.core.errors import InputError, Refused
from oddpair.core.fields import FieldKind, RegisterKind, default_layout, layout_document, layout_from
from oddpair.core.tidying import tidy_row
from oddpair.services.bring_in import drafts as bring_in
from oddpair.services.golden import merge
from oddpair.services.golden.send_out import golden_table
from oddpair.services.match import plans, run_plan
from oddpair.services.registers import registers
from oddpair.services.state.layouts import layout_of
from oddpair.services.tidy import tidy_steps
from oddpair.store.database import SessionFactory
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import Source, SourceRecord
from tests.there import there

from ..states.registers import bring, nothing

FAX = {"name": "fax", "label": "Fax", "kind": "phone"}
BERTHS = {"name": "berths", "label": "Berths", "kind": "number"}


@pytest.fixture
def slug(sessions: SessionFactory) -> str:
    with sessions.begin() as session:
        slug = registers.make_register(session, "Marinas", RegisterKind.ORGANISATION).slug
        registers.change_layout(session, slug, [FAX, BERTHS, {"name": "name", "label": "Marina"}], actor="ann")
        return slug


def test_an_added_field_goes_all_the_way_to_the_golden_record(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    path = tmp_path / "till.csv"
    path.write_text(
        "id,Marina,Fax,Berths,country\n1,Tern Marina,01632 960001,1 250,GB\n2,Tern Marina,+44 1632 960001,1250.0,GB\n"
    )
    with sessions.begin() as session:
        draft = bring_in.receive(session, slug, path, "till.csv").delivery
        assert {item["column"]: item["field"] for item in draft.mapping} == {
            "id": "id", "Marina": "name", "Fax": "fax", "Berths": "berths", "country": "address.country",
        }  # fmt: skip
    bring(sessions, slug, path, deliveries)
    with sessions.begin() as session:
        tidy = [record.tidy for record in session.scalars(select(SourceRecord))]
        assert {item["fax"] for item in tidy} == {"+441632960001"}
        assert {item["berths"] for item in tidy} == {"1250"}
        plan, _ = plans.plan_of(session, slug)
        yaml = plan.yaml.replace("comparisons:\n", "comparisons:\n  - {field: fax, using: phone, label: fax}\n", 1)
        assert "field: fax" in yaml
        plans.save_plan(session, slug, yaml=yaml, seen_version=1, note="", actor="ann")
    assert run_plan.run_plan(sessions, slug, nothing)["clusters"] == 1
    merge.merge(sessions, slug, actor="ann")
    with sessions.begin() as session:
        table = golden_table(session, slug)
        assert table.columns[-2:] == ("fax", "berths")
        [row] = table.rows
        assert row["berths"] in ("1 250", "1250.0")
        with pytest.raises(Refused, match="plan would not fit"):
            registers.change_layout(session, slug, [BERTHS], actor="ann")


def test_a_field_that_goes_is_forgotten_by_mappings_and_steps(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    path = tmp_path / "till.csv"
    path.write_text("id,Marina,Berths\n1,Tern Marina,5\n")
    bring(sessions, slug, path, deliveries)
    with sessions.begin() as session:
        tidy_steps.save_tidy_steps(
            session, slug, {"berths": [{"do": "spaces"}], "name": [{"do": "spaces"}]}, seen_version=0, actor="ann"
        )
        registers.change_layout(session, slug, [FAX], actor="bob")
        assert [item["field"] for item in there(session.scalars(select(Source.mapping)).one())] == ["id", "name"]
        tidy_steps.tidy_register(session, slug, nothing)
        record = session.scalars(select(SourceRecord)).one()
        assert "berths" not in record.tidy
        assert record.delivered["Berths"] == "5"
        assert layout_of(register_by_slug(session, slug)).field("name").label == "Name"


@pytest.mark.parametrize(
    ("field", "told"),
    [
        ({"name": "Fax", "label": "x", "kind": "phone"}, "begins with a small letter"), ({"name": "fax", "label": " ", "kind": "phone"}, "a label has"),
        ({"name": "fax", "label": "Fax", "kind": "fon"}, "no kind of field"), ({"name": "firm", "label": "Firm", "kind": "reference"}, "must name the register"), ({"name": "address", "label": "x", "kind": "text"}, "already"),
    ],
)  # fmt: skip
def test_a_wrong_field_is_told_by_name(field: dict[str, str], told: str) -> None:
    with pytest.raises(InputError, match=told) as caught:
        layout_from(RegisterKind.ORGANISATION, [field])
    assert caught.value.column


@given(st.sampled_from(list(FieldKind)), st.text(max_size=30))
def test_fields_of_every_kind_are_tidied_whatever_they_hold_and_layouts_come_back(kind: FieldKind, value: str) -> None:
    leads_to = {"register": "customers"} if kind is FieldKind.REFERENCE else {}
    layout = layout_from(RegisterKind.PERSON, [{"name": "extra", "label": "Extra", "kind": kind.value, **leads_to}])
    assert layout_from(RegisterKind.PERSON, layout_document(layout)) == layout
    tidy = tidy_row(layout, {"name": "Ann Quayle", "extra": value})
    assert all(name.startswith(("extra", "name")) for name in tidy)
    assert layout_document(default_layout(RegisterKind.PERSON)) == []


@pytest.mark.parametrize(
    ("text", "number"),
    [("1 234,50", "1234.5"), ("1,234.50", "1234.5"), ("1.234,5", "1234.5"), ("-007", "-7"), ("+5", "5"), ("0", "0"), ("12 m", ""), ("1'000", "1000")],
)  # fmt: skip
def test_numbers_are_read_with_either_mark(text: str, number: str) -> None:
    layout = layout_from(RegisterKind.ORGANISATION, [BERTHS])
    assert tidy_row(layout, {"berths": text}).get("berths", "") == number
