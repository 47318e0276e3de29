"""Nobody is left without a parent in silence: told, put aside until it is there, or it is made; and only some golden records are recognised."""

from pathlib import Path

import pytest
from sqlalchemy import select, text

from oddpair.core.errors import NotFound, Refused
from oddpair.core.fields import RegisterKind
from oddpair.jobs.tasks import run_job
from oddpair.services import work
from oddpair.services.registers import registers
from oddpair.services.standing.switch import choose_parents, choose_recognisable, switch_recognition
from oddpair.services.state.rebuild import rebuild
from oddpair.settings import Settings
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Delivery, Job

from ..states.registers import bring

FIRMS = "id,company,town\n10,Tern Boatyard Ltd,Oban\n11,Skua Ropes,Wick\n"
PEOPLE = "id,full name,firm\n1,Ann Quayle,10\n2,Bo Eide,TERN BOATYARD LIMITED\n3,Jan Visser,Ruff Paints\n4,Per Lund,77\n5,Kit Bruns,\n6,Al Moe,ruff paints\n"


@pytest.fixture
def settings(tmp_path: Path, deliveries: Path) -> Settings:
    return Settings(data=tmp_path)


@pytest.fixture
def contacts(sessions: SessionFactory) -> str:
    with sessions.begin() as session:
        firms = registers.make_register(session, "Customers", RegisterKind.ORGANISATION).slug
        people = registers.make_register(session, "Contacts", RegisterKind.PERSON).slug
        field = {"name": "firm", "label": "Firm", "kind": "reference", "register": firms}
        registers.change_layout(session, people, [field], actor="ann")
        for slug in (firms, people):
            switch_recognition(session, slug, True, actor="ann")
    return people


def deliver(sessions: SessionFactory, settings: Settings, slug: str, rows: str, source: str = "till") -> None:
    path = settings.data / f"{source}.csv"
    path.write_text(rows, encoding="utf-8")
    bring(sessions, slug, path, settings.deliveries, source)
    do_all(sessions, settings)


def do_all(sessions: SessionFactory, settings: Settings) -> None:
    """Do all work that waits; it comes to an end."""
    for _ in range(30):
        with sessions.begin() as session:
            job = next(filter(None, (work.claim_next(session, lane) for lane in work.LANES)), None)
        if job is None:
            break
        run_job(sessions, settings, job.id)
    else:
        raise AssertionError("work goes on for ever")
    with sessions() as session:
        assert [
            (job.kind, job.arguments, job.message) for job in session.scalars(select(Job).where(Job.status != "done"))
        ] == []


def golden(sessions: SessionFactory, slug: str) -> dict[str, str]:
    """Return source id → golden key of the records of a register that have one."""
    with sessions() as session:
        rows = session.execute(
            text("""
                SELECT s.source_key, g.key FROM source_records s JOIN registers r ON r.id = s.register_id
                JOIN golden_members m ON m.record_id = s.id JOIN golden_records g ON g.id = m.golden_id WHERE r.slug = :slug
            """),
            {"slug": slug},
        )
        return {row[0]: row[1] for row in rows}


def outcomes(sessions: SessionFactory, slug: str) -> dict[str, int]:
    with sessions() as session:
        query = select(Delivery).where(Delivery.source_id.in_(source.id for source in registers.sources(session, slug)))
        latest = session.scalars(query.order_by(Delivery.id.desc())).first()
        assert latest is not None
        return {name: count for name, count in (latest.outcomes or {}).items() if name != "at"}


def in_step(sessions: SessionFactory, *slugs: str) -> None:
    for slug in slugs:
        with sessions() as session:
            assert rebuild(session, slug).problems == []


def test_an_unknown_parent_is_told(sessions: SessionFactory, settings: Settings, contacts: str) -> None:
    deliver(sessions, settings, "customers", FIRMS)
    deliver(sessions, settings, contacts, PEOPLE)
    assert outcomes(sessions, contacts) == {"added": 6, "without a parent": 3}
    assert len(golden(sessions, contacts)) == 6


def test_records_are_put_aside_until_their_parent_is_there(
    sessions: SessionFactory, settings: Settings, contacts: str
) -> None:
    with sessions.begin() as session:
        choose_parents(session, contacts, "aside", actor="ann")
        with pytest.raises(Refused):
            choose_parents(session, contacts, "elsewhere", actor="ann")
    deliver(sessions, settings, "customers", FIRMS)
    deliver(sessions, settings, contacts, PEOPLE)
    assert outcomes(sessions, contacts) == {"added": 3, "refused": 3, "without a parent": 3}
    assert set(golden(sessions, contacts)) == {"1", "2", "5"}
    # The firm comes in from another source: those who wait for it are merged by themselves.
    deliver(sessions, settings, "customers", "id,company,town\n9,Ruff Paints,Urk\n", "webshop")
    assert set(golden(sessions, contacts)) == {"1", "2", "3", "5", "6"}
    deliver(sessions, settings, "customers", "id,company,town\n77,Knot Lamps,Urk\n", "webshop")
    assert set(golden(sessions, contacts)) == {"1", "2", "3", "4", "5", "6"}
    in_step(sessions, contacts, "customers")


def test_an_unknown_parent_is_made_once_by_its_name(
    sessions: SessionFactory, settings: Settings, contacts: str
) -> None:
    with sessions.begin() as session:
        choose_parents(session, contacts, "make", actor="ann")
    deliver(sessions, settings, "customers", FIRMS)
    deliver(sessions, settings, contacts, PEOPLE)
    # An id names nobody: who refers to one that is not there is told.
    assert outcomes(sessions, contacts) == {"added": 6, "without a parent": 1}
    with sessions() as session:
        made = [source for source in registers.sources(session, "customers") if source.name.startswith("named in")]
        assert [source.name for source in made] == ["named in Contacts"]
    assert len(golden(sessions, "customers")) == 3
    deliver(sessions, settings, contacts, PEOPLE.replace("Kit Bruns,", "Kit Bruns,Ruff Paints"))
    assert len(golden(sessions, "customers")) == 3
    in_step(sessions, contacts, "customers")


def test_only_golden_records_with_some_values_are_recognised(
    sessions: SessionFactory, settings: Settings, contacts: str
) -> None:
    with sessions.begin() as session:
        field = {"name": "status", "label": "Status", "kind": "category", "register": ""}
        registers.change_layout(session, "customers", [field], actor="ann")
        with pytest.raises(NotFound):
            choose_recognisable(session, "customers", "colour", ["red"], actor="ann")
        with pytest.raises(Refused):
            choose_recognisable(session, "customers", "status", [" "], actor="ann")
        choose_recognisable(session, "customers", "status", ["Active"], actor="ann")
    head = "id,company,town,phone,status\n"
    old = "10,Tern Boatyard Ltd,Oban,01632 960001,active\n11,Skua Ropes,Wick,01632 960002,dissolved\n"
    deliver(sessions, settings, "customers", head + old)
    before = golden(sessions, "customers")
    fresh = "w1,TERN BOATYARD,Oban,01632 960001,active\nw2,SKUA ROPES,Wick,01632 960002,active\n"
    deliver(sessions, settings, "customers", head + fresh, "webshop")
    after = golden(sessions, "customers")
    assert after["w1"] == before["10"]
    assert after["11"] == before["11"]
    assert after["w2"] not in before.values()
    assert outcomes(sessions, "customers") == {"recognised": 1, "added": 1}
    in_step(sessions, "customers")
    with sessions.begin() as session:
        register = choose_recognisable(session, "customers", "", [], actor="ann")
        assert register.recognisable is None
