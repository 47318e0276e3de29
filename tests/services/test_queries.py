"""What lists show: filtered, ordered and paged as asked."""

from pathlib import Path

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import func, select

import oddpair.store
from oddpair.core.errors import NotFound
from oddpair.services.golden import golden_page as golden
from oddpair.services.golden import merge
from oddpair.services.match import review, run_plan
from oddpair.store import golden as golden_store
from oddpair.store.database import SessionFactory
from oddpair.store.matching import ORDERS, decisions_in_force
from oddpair.store.records import records_page
from oddpair.store.registers import register_by_slug, stage_counts
from oddpair.store.tables import Run, RunCluster, RunPair, SourceRecord

from .conftest import nothing


def register_id(sessions: SessionFactory, slug: str) -> int:
    with sessions() as session:
        return register_by_slug(session, slug).id


def test_records_are_paged_without_gap_or_overlap(customers: str, sessions: SessionFactory):
    register = register_id(sessions, customers)
    with sessions() as session:
        total, everything = records_page(session, register, search="", source="", offset=0, limit=1000)
        pages = [
            records_page(session, register, search="", source="", offset=start, limit=25)[1]
            for start in range(0, total, 25)
        ]
    assert [record.id for page in pages for record, _ in page] == [record.id for record, _ in everything]
    assert len(everything) == total
    names = [(source, record.source_key) for record, source in everything]
    assert names == sorted(names)


def test_records_are_found_by_delivered_text_and_wildcards_mean_themselves(customers: str, sessions: SessionFactory):
    register = register_id(sessions, customers)
    with sessions() as session:
        _, [(first, source)] = records_page(session, register, search="", source="till", offset=0, limit=1)
        name = first.fields["name"]
        total, rows = records_page(session, register, search=name.lower(), source=source, offset=0, limit=50)
        assert total >= 1
        assert first.id in {record.id for record, _ in rows}
        assert {shown for _, shown in rows} == {"till"}
        for text in ("%", "_", "\\", "no such thing"):
            assert records_page(session, register, search=text, source="", offset=0, limit=50)[0] == 0


@pytest.mark.parametrize("order", ORDERS)
def test_the_queue_is_ordered_as_asked_and_put_off_pairs_come_last(
    customers: str, sessions: SessionFactory, order: str
):
    with sessions() as session:
        waiting, pairs = review.queue(session, customers, order=order, search="", offset=0, limit=500)
    assert waiting == len(pairs) > 1
    measure = {
        "doubt": lambda pair: abs(pair.score),
        "score": lambda pair: -pair.score,
        "cluster": lambda pair: -pair.cluster_size,
    }[order]
    assert [measure(pair) for pair in pairs] == sorted(measure(pair) for pair in pairs)
    first = pairs[0]
    with sessions.begin() as session:
        review.decide(
            session,
            customers,
            first.left_id,
            first.right_id,
            verdict="later",
            remark="",
            actor="ann",
            seen_decision=None,
        )
    with sessions() as session:
        _, again = review.queue(session, customers, order=order, search="", offset=0, limit=500)
        counts = stage_counts(session, register_by_slug(session, customers).id)
    assert (again[-1].left_id, again[-1].right_id, again[-1].put_off) == (first.left_id, first.right_id, True)
    assert (counts.unsure_waiting, counts.put_off) == (waiting - 1, 1)


def test_the_queue_is_searched_by_name_and_reason(customers: str, sessions: SessionFactory):
    with sessions() as session:
        _, [first] = review.queue(session, customers, order="doubt", search="", offset=0, limit=1)
        _, found = review.queue(session, customers, order="doubt", search=first.left_name.upper(), offset=0, limit=500)
        assert (first.left_id, first.right_id) in {(pair.left_id, pair.right_id) for pair in found}
        assert review.queue(session, customers, order="doubt", search="no such thing", offset=0, limit=9) == (0, [])


def test_only_the_latest_standing_decision_on_unchanged_records_counts(customers: str, sessions: SessionFactory):
    register = register_id(sessions, customers)
    with sessions() as session:
        _, [pair] = review.queue(session, customers, order="doubt", search="", offset=0, limit=1)
    seen = None
    for verdict in ("later", "same", "different"):
        with sessions.begin() as session:
            decided = review.decide(
                session,
                customers,
                pair.left_id,
                pair.right_id,
                verdict=verdict,
                remark="",
                actor="ann",
                seen_decision=seen,
            )
            seen = decided.id
    with sessions() as session:
        assert [item.verdict for item in decisions_in_force(session, register)] == ["different"]
    with sessions.begin() as session:
        review.withdraw(session, decided.id)
        assert [item.verdict for item in decisions_in_force(session, register)] == ["same"]
        session.get_one(SourceRecord, pair.left_id).content_hash = "changed"
        session.flush()
        assert decisions_in_force(session, register) == []


def test_only_the_latest_run_keeps_its_pairs_but_every_run_its_report(customers: str, sessions: SessionFactory):
    with sessions.begin() as session:
        outcome = run_plan.run_plan(session, customers, nothing)
    with sessions() as session:
        assert session.scalar(select(func.count()).select_from(Run)) == 2
        assert set(session.scalars(select(RunPair.run_id))) == {outcome["run_id"]}
        records = session.scalar(select(func.count()).select_from(SourceRecord))
        assert session.scalar(select(func.count()).select_from(RunCluster)) == records == outcome["records"]


@pytest.mark.parametrize("order", ["members", "key", "changed", "name"])
def test_golden_records_are_listed_and_searched(customers: str, sessions: SessionFactory, order: str):
    register = register_id(sessions, customers)
    with sessions.begin() as session:
        merge.merge(session, customers, actor="ann")
    with sessions() as session:
        total, rows = golden_store.golden_page(session, register, search="", order=order, offset=0, limit=500)
        assert total == len(rows) == len(golden_store.all_active(session, register))
        if order == "members":
            assert [count for _, count in rows] == sorted((count for _, count in rows), reverse=True)
        if order == "key":
            assert [record.number for record, _ in rows] == list(range(1, total + 1))
        first = rows[0][0]
        found = golden_store.golden_page(session, register, search=first.key.lower(), order=order, offset=0, limit=9)[1]
        assert [record.key for record, _ in found] == [first.key]
        with pytest.raises(NotFound):
            golden.golden_view(session, customers, "CU-99999")


def test_tables_and_migrations_agree(database_url: str, sessions: SessionFactory):
    config = Config()
    config.set_main_option("script_location", str(Path(oddpair.store.__file__).parent / "migrations"))
    config.attributes["url"] = database_url.replace("postgresql://", "postgresql+psycopg://", 1)
    command.check(config)
    command.downgrade(config, "base")
    command.upgrade(config, "head")
    command.check(config)
