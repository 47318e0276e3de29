"""Findings: planted conflicts are found, what was said is remembered, nothing is merged."""

import csv
from pathlib import Path

import pytest

from oddpair.core.errors import Conflict, NotFound, PlanInvalid, Refused
from oddpair.core.fields import RegisterKind
from oddpair.core.mapping import Assignment, assignment_from
from oddpair.demo import add_accounts, make_demo, make_staff
from oddpair.services.bring_in import drafts, load_delivery
from oddpair.services.findings import plans, rows
from oddpair.services.findings.run_plan import run_plan
from oddpair.services.match import run_plan as matching
from oddpair.services.registers import registers
from oddpair.services.today import today
from oddpair.store.database import SessionFactory

from ..states.registers import nothing
from ..states.site import Site
from ..states.state import state

ACCOUNT = {"name": "bank_account", "label": "Bank account", "kind": "identifier"}
NAME = "Suppliers and staff"


def bring(sessions: SessionFactory, slug: str, path: Path, folder: Path) -> None:
    stored = folder / f"{slug}-{path.name}"
    stored.write_bytes(path.read_bytes())
    with sessions.begin() as session:
        draft = drafts.receive(session, slug, stored, path.name)
        if "IBAN" in draft.delivery.columns:
            mapping = [assignment_from(item) for item in draft.delivery.mapping if item.get("column") != "IBAN"]
            drafts.check_loadable(session, draft.delivery.id, [*mapping, Assignment("bank_account", "IBAN")])
        load_delivery.load(session, draft.delivery.id, folder, nothing)


@state()
def suppliers_and_staff(site: Site) -> None:
    """Suppliers and staff with conflicts, planted and found."""
    sessions, deliveries = site.sessions, site.settings.deliveries
    deliveries.mkdir()
    files = make_demo(site.folder / "demo", scale=0.5, only=["Suppliers"])
    add_accounts(next(file.path for file in files if file.source == "ledger"))
    staff = make_staff(site.folder / "demo", files)
    with sessions.begin() as session:
        for name, kind in (("Suppliers", RegisterKind.ORGANISATION), ("Employees", RegisterKind.PERSON)):
            slug = registers.make_register(session, name, kind).slug
            registers.change_layout(session, slug, [ACCOUNT], actor="ann")
    for file in files:
        bring(sessions, "suppliers", file.path, deliveries)
    bring(sessions, "employees", staff.path, deliveries)
    matching.run_plan(sessions, "suppliers", nothing)
    with sessions.begin() as session:
        made = plans.make(session, "suppliers", name=NAME, other="employees", actor="ann")
        plan_id = made.id
    run_plan(sessions, plan_id, nothing)


@pytest.fixture
def conflicts(site: Site) -> list[dict[str, str]]:
    """Suppliers and staff with planted conflicts; returns what was planted."""
    site.begin_with(suppliers_and_staff)
    site.be_there()
    with next(site.folder.rglob("conflicts.csv")).open(encoding="utf-8", newline="") as planted:
        return list(csv.DictReader(planted))


def found(sessions: SessionFactory) -> list[rows.ShownFinding]:
    with sessions() as session:
        return list(rows.findings_page(session, "suppliers", NAME, limit=500).rows)


def again(sessions: SessionFactory) -> dict[str, int]:
    with sessions() as session:
        plan_id = plans.plan_named(session, "suppliers", NAME).id
    return run_plan(sessions, plan_id, nothing)


def test_all_planted_conflicts_are_found_and_hardly_anything_else(
    conflicts: list[dict[str, str]], sessions: SessionFactory
) -> None:
    told = {(item.other.source_key, thing["title"]) for item in found(sessions) for thing in item.things}
    planted = {(one["employee"], one["shares"]) for one in conflicts}
    assert planted <= told
    assert len(told - planted) <= len(planted)
    employees = {one["employee"] for one in conflicts}
    assert len([item for item in found(sessions) if item.other.source_key not in employees]) <= len(planted)


def test_those_that_share_the_same_thing_stand_side_by_side_and_pages_go_through_all(
    conflicts: list[dict[str, str]], sessions: SessionFactory
) -> None:
    everything = found(sessions)
    groups = [(item.things[0]["title"], item.things[0]["value"]) for item in everything]
    assert groups == [key for key in dict.fromkeys(groups) for _ in range(groups.count(key))]
    with sessions() as session:
        first = rows.findings_page(session, "suppliers", NAME, limit=3)
        second = rows.findings_page(session, "suppliers", NAME, cursor=first.behind, limit=3)
    assert [item.place for item in (*first.rows, *second.rows)] == [item.place for item in everything[:6]]


def test_what_was_said_is_remembered_until_more_is_shared(
    conflicts: list[dict[str, str]], sessions: SessionFactory, deliveries: Path, tmp_path: Path
) -> None:
    first = next(item for item in found(sessions) if [thing["title"] for thing in item.things] == ["address"])
    second = next(item for item in found(sessions) if item.place != first.place)
    with sessions.begin() as session:
        with pytest.raises(Refused, match="explains"):
            rows.say(session, "suppliers", NAME, first.place, "explained", actor="bob")
        with pytest.raises(Refused, match="cannot be said"):
            rows.say(session, "suppliers", NAME, first.place, "perhaps", actor="bob")
        with pytest.raises(NotFound):
            rows.say(session, "suppliers", NAME, 10_000, "open", actor="bob")
        rows.say(session, "suppliers", NAME, first.place, "explained", remark="a cousin", actor="bob")
        rows.say(session, "suppliers", NAME, second.place, "of interest", actor="bob")
        counts = dict(plans.plan_named(session, "suppliers", NAME).counts or {})
    assert again(sessions) == {"plan": NAME, "findings": sum(counts.values()), **counts}
    kept = {item.other.source_key: item for item in found(sessions)}
    assert (kept[first.other.source_key].state, kept[first.other.source_key].remark) == ("explained", "a cousin")
    # The supplier takes the employee's telephone as well: it is asked again, and says why.
    more = tmp_path / "till.csv"
    with sessions() as session:
        of = first.one.values
        phone = first.other.values["phone"]
    more.write_text(
        f"id,name,street,town,postcode,phone\nzz,{of['name']},{of.get('address.line', '')},{of.get('address.city', '')},"
        f"{of.get('address.postcode', '')},{phone}\n",
        encoding="utf-8",
    )
    bring(sessions, "suppliers", more, deliveries)
    matching.run_plan(sessions, "suppliers", nothing)
    again(sessions)
    now = [item for item in found(sessions) if item.other.source_key == first.other.source_key]
    [asked] = [item for item in now if item.again]
    assert asked.state == "open"
    assert "explained before (bob: a cousin); now also shares phone" in asked.again
    with sessions.begin() as session:
        [shown] = [item for item in found(sessions) if item.other.source_key == second.other.source_key][:1]
        rows.say(session, "suppliers", NAME, shown.place, "open", actor="bob")
    again(sessions)
    assert "of interest" not in {item.state for item in found(sessions)}


def test_the_report_has_a_line_per_shared_thing(conflicts: list[dict[str, str]], sessions: SessionFactory) -> None:
    with sessions() as session:
        out = rows.report_table(session, "suppliers", NAME)
        lines = list(out.rows)
        assert len(lines) == sum(len(item.things) for item in found(sessions))
        assert all(line["Suppliers: name"] and line["Employees: name"] for line in lines)
        assert list(rows.report_table(session, "suppliers", NAME, state="explained").rows) == []


def test_plans_of_findings_are_made_changed_and_forgotten(
    conflicts: list[dict[str, str]], sessions: SessionFactory
) -> None:
    with sessions.begin() as session:
        for name, other, error in (
            (NAME, "employees", Conflict),
            ("x", "suppliers", Refused),
            ("", "employees", Refused),
        ):
            with pytest.raises(error):
                plans.make(session, "suppliers", name=name, other=other, actor="ann")
        with pytest.raises(PlanInvalid):
            plans.change(
                session, "suppliers", NAME, "title: x\nshared: [{title: a, using: phone, one: fone, other: phone}]"
            )
        only = "title: x\nshared: [{title: phone, using: phone, one: phone, other: phone}]"
        plans.change(session, "suppliers", NAME, only)
    again(sessions)
    assert {thing["title"] for item in found(sessions) for thing in item.things} == {"phone"}
    with sessions.begin() as session:
        plans.forget(session, "suppliers", NAME)
        assert plans.plans(session, "suppliers") == []
        made = plans.make(session, "suppliers", name="later", other="employees", actor="ann")
        with pytest.raises(Refused, match="not run"):
            rows.report_table(session, "suppliers", made.name)


def test_open_findings_stand_among_what_looks_wrong(conflicts: list[dict[str, str]], sessions: SessionFactory) -> None:
    with sessions.begin() as session:
        [wrong] = [one for one in today(session, actor="ann").wrong if one.slug == "suppliers"]
        assert wrong.says == f"{NAME}: {len(found(sessions))} findings are open"
        assert wrong.leads_to == "findings/Suppliers%20and%20staff?state=open"
        for item in found(sessions):
            rows.say(session, "suppliers", NAME, item.place, "not a finding", actor="bob")
        assert [one for one in today(session, actor="ann").wrong if one.slug == "suppliers"] == []
