"""References to another register: by id, by name, by hand; those that lead nowhere are listed."""

from pathlib import Path

import pytest
from sqlalchemy import select

from oddpair.core.errors import NotFound, PlanInvalid, Refused
from oddpair.core.fields import RegisterKind
from oddpair.core.plan.text import default_plan_text
from oddpair.services.golden import merge
from oddpair.services.golden.golden_page import golden_view
from oddpair.services.golden.send_out import crosswalk_table
from oddpair.services.match import plans, run_plan
from oddpair.services.registers import registers
from oddpair.services.review.pair import pair
from oddpair.services.tidy import references
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Run, RunPair, SourceRecord

from ..states.registers import bring, nothing

FIRMS = "id,company,town\n10,Tern Boatyard Ltd,Oban\n11,Skua Ropes,Wick\n12,Skua Ropes,Whitby\n13,Ruff Paint,Urk\n"
PEOPLE = "id,full name,firm\n1,Ann Quayle,10\n2,Bo Eide,TERN BOATYARD LIMITED\n3,Jan Visser,Skua Ropes\n4,Per Lund,Ruff Paints\n5,Kit Bruns,\n6,Al Moe,Nobody\n"


@pytest.fixture
def slug(sessions: SessionFactory, tmp_path: Path, deliveries: Path) -> str:
    with sessions.begin() as session:
        firms = registers.make_register(session, "Customers", RegisterKind.ORGANISATION).slug
        people = registers.make_register(session, "Contacts", RegisterKind.PERSON).slug
        field = {"name": "firm", "label": "Firm", "kind": "reference", "register": firms}
        registers.change_layout(session, people, [field], actor="ann")
        with pytest.raises(NotFound):
            registers.change_layout(session, people, [{**field, "register": "nowhere"}], actor="ann")
    for register, rows in ((firms, FIRMS), (people, PEOPLE)):
        path = tmp_path / "till.csv"
        path.write_text(rows)
        bring(sessions, register, path, deliveries)
    return people


def test_references_are_resolved_by_id_and_name_and_the_rest_is_listed(sessions: SessionFactory, slug: str) -> None:
    with sessions() as session:
        [firm] = references.references(session, slug)
    assert (firm.by_id, firm.by_name, firm.by_hand, firm.unresolved) == (1, 1, 0, 3)
    open_ = {item.value: [target.source_key for target in item.likely] for item in firm.listed}
    assert open_ == {"Nobody": [], "Ruff Paints": ["13"], "Skua Ropes": ["11", "12"]}


def test_a_link_by_hand_stays_until_the_record_says_something_else(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    with sessions.begin() as session:
        [firm] = references.references(session, slug)
        item = next(item for item in firm.listed if item.value == "Skua Ropes")
        references.link(session, slug, "firm", item.record_id, item.likely[1].record_id, actor="ann")
        references.resolve_anew(session, slug)
        assert references.references(session, slug)[0].by_hand == 1
        with pytest.raises(Refused, match="none of Customers"):
            references.link(session, slug, "firm", item.record_id, item.record_id, actor="ann")
        without = session.scalars(select(SourceRecord.id).where(SourceRecord.source_key == "5")).one()
        with pytest.raises(NotFound):
            references.link(session, slug, "firm", without, item.likely[0].record_id, actor="ann")
    path = tmp_path / "till.csv"
    path.write_text(PEOPLE.replace("Jan Visser,Skua Ropes", "Jan Visser,13"))
    bring(sessions, slug, path, deliveries)
    with sessions() as session:
        [firm] = references.references(session, slug)
    assert (firm.by_id, firm.by_hand) == (2, 0)


def test_golden_records_show_their_relations_both_ways(sessions: SessionFactory, slug: str) -> None:
    for register in (slug, "customers"):
        run_plan.run_plan(sessions, register, nothing)
    merge.merge(sessions, "customers", actor="ann")
    with sessions() as session:
        keys = {row["source_id"]: row["golden_key"] for row in crosswalk_table(session, "customers").rows}
        firm = golden_view(session, "customers", keys["10"])
    assert firm.leads_to == []
    assert [(one.field, one.register, one.key, one.records) for one in firm.led_from] == [("firm", slug, "", 1)] * 2
    merge.merge(sessions, slug, actor="ann")
    with sessions() as session:
        people = {row["source_id"]: row["golden_key"] for row in crosswalk_table(session, slug).rows}
        person = golden_view(session, slug, people["1"])
        assert [(one.register, one.key, one.name) for one in person.leads_to] == [
            ("customers", keys["10"], "tern boatyard ltd")
        ]
        assert {one.key for one in golden_view(session, "customers", keys["10"]).led_from} == {people["1"], people["2"]}


def test_firms_are_matched_by_the_mails_of_their_contacts(
    sessions: SessionFactory, tmp_path: Path, deliveries: Path
) -> None:
    with sessions.begin() as session:
        firms = registers.make_register(session, "Customers", RegisterKind.ORGANISATION).slug
        people = registers.make_register(session, "Contacts", RegisterKind.PERSON).slug
        field = {"name": "firm", "label": "Firm", "kind": "reference", "register": firms}
        registers.change_layout(session, people, [field], actor="ann")
    crowd = "".join(f"x{n},Bystander{n} Works{n},b{n}@other{n}.example\n" for n in range(60))
    contacts = "id,full name,firm,email,phone\n1,Ann Quayle,10,ann@kestrel.example,01632 960111\n2,Bo Eide,11,ann@kestrel.example,01632 960111\n"
    for register, rows in (
        (firms, f"id,company,email\n10,Kestrel Rope Walk,\n11,Leith Quay Cordage,\n{crowd}"),
        (people, contacts),
    ):
        path = tmp_path / "till.csv"
        path.write_text(rows)
        bring(sessions, register, path, deliveries)
    related = "\nrelated:\n  - {register: contacts, by: firm, take: {email: email, phone: phone}}\n"
    plain = default_plan_text(RegisterKind.ORGANISATION)
    run_plan.run_plan(sessions, firms, nothing)
    assert not _told(sessions)
    with sessions.begin() as session:
        for wrong in ("by: firm", "register: contacts", "email: email"):
            text = related.replace(
                wrong, {"by: firm": "by: form", "register: contacts": "register: customers"}.get(wrong, "email: mail")
            )
            with pytest.raises(PlanInvalid):
                plans.save_plan(session, firms, yaml=plain + text, seen_version=1, note="", actor="ann")
        plans.save_plan(session, firms, yaml=plain + related, seen_version=1, note="", actor="ann")
    run_plan.run_plan(sessions, firms, nothing)
    assert _told(sessions)
    with sessions() as session:
        left, right = session.scalars(
            select(SourceRecord.id).where(SourceRecord.source_key.in_(["10", "11"])).order_by("id")
        )
        facing = pair(session, firms, left, right)
    told = [(one.label, one.left, one.right) for one in facing.related]
    assert told == [
        ("E-mail of Contacts", ("ann@kestrel.example",), ("ann@kestrel.example",)),
        ("Phone of Contacts", ("01632 960111",), ("01632 960111",)),
    ]


def _told(sessions: SessionFactory) -> bool:
    """Whether the standing run keeps the pair of the two firms."""
    with sessions() as session:
        ids = [
            session.scalars(select(SourceRecord.id).where(SourceRecord.fields["name"].astext == name)).one()
            for name in ("Kestrel Rope Walk", "Leith Quay Cordage")
        ]
        query = (
            select(RunPair)
            .join(Run, Run.id == RunPair.run_id)
            .where(Run.state == "standing", RunPair.left_id == min(ids), RunPair.right_id == max(ids))
        )
        return session.scalars(query).first() is not None
