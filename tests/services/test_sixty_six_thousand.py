"""Everything that touches all records at once; at the long size these are more than a statement takes parameters (65,535)."""

import csv
from pathlib import Path

import pytest
from sqlalchemy import func, select, text

from oddpair.core.fields import RegisterKind
from oddpair.files.writers import table_chunks
from oddpair.services.bring_in import take_back
from oddpair.services.golden import merge, rules
from oddpair.services.golden.golden_list import Asked, Order, golden_list
from oddpair.services.golden.send_out import crosswalk_table, golden_table
from oddpair.services.registers import registers
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Delivery, GoldenRecord, Run

from ..sizes import size
from ..states.registers import bring, nothing

#: Every day as many as a search does not put in order any more.
RECORDS = size(everyday=1_200, long=66_000)
SLUG = "firms"
pytestmark = pytest.mark.timeout(400)


def test_all_records_at_once(sessions: SessionFactory, tmp_path: Path, deliveries: Path) -> None:
    with sessions.begin() as session:
        registers.make_register(session, "Firms", RegisterKind.ORGANISATION)
    path = tmp_path / "firms.csv"
    path.write_text("id,firm,phone\n" + "".join(f"{n},Tern {n},01632 {n:06}\n" for n in range(RECORDS)))
    assert bring(sessions, SLUG, path, deliveries)["new"] == RECORDS
    stand_apart(sessions)

    assert merge.merge(sessions, SLUG, actor="ann")["made"] == RECORDS
    with sessions.begin() as session:
        rules.change_rules(session, SLUG, {"phone": "longest"}, actor="ann")
        registers.change_source(session, SLUG, "firms", actor="ann", own_duplicates=False)
    assert rules.refresh_golden(sessions, SLUG, nothing) == {"golden": RECORDS, "changed": 0}
    with sessions() as session:
        assert sum(1 for _ in crosswalk_table(session, SLUG).rows) == RECORDS
        found = golden_list(session, SLUG, Asked(search="tern"), order=Order("key"), limit=50)
        assert len(found.page.rows) == 50
        assert found.at_least
    assert sent_out(sessions) == RECORDS

    with sessions.begin() as session:
        delivery = session.scalars(select(Delivery.id)).one()
        assert take_back.preview_take_back(session, delivery).withdrawn == RECORDS
        assert take_back.take_back(session, delivery, actor="ann").golden == RECORDS
    assert counted(sessions) == (0, 0)
    with sessions.begin() as session:
        take_back.put_back(session, delivery, actor="ann")
    assert counted(sessions) == (RECORDS, RECORDS)
    # Merging once more, without a new run, finds nothing to do and drops nothing.
    assert sum(merge.merge(sessions, SLUG, actor="ann").values()) == 0
    assert counted(sessions) == (RECORDS, RECORDS)


def stand_apart(sessions: SessionFactory) -> None:
    """A run that found no two alike."""
    with sessions.begin() as session:
        plan = session.scalar(text("SELECT id FROM plans"))
        run = Run(register_id=1, plan_id=plan, report={}, state="standing", records_version=1, at=func.now())
        session.add(run)
        session.flush()
        session.execute(
            text("INSERT INTO run_clusters (run_id, record_id, cluster) SELECT :run, id, id FROM source_records"),
            {"run": run.id},
        )


def counted(sessions: SessionFactory) -> tuple[int, int]:
    with sessions() as session:
        counts = registers.view_of(session, SLUG).counts
        held = session.scalar(select(func.sum(GoldenRecord.size)).where(GoldenRecord.withdrawn_at.is_(None)))
        assert (counts.golden, counts.records_without_golden) == (held or 0, 0)
        return counts.records, counts.golden


def sent_out(sessions: SessionFactory) -> int:
    with sessions() as session:
        table = golden_table(session, SLUG)
        content = b"".join(table_chunks("csv", table.columns, table.rows, table.name))
    return sum(1 for _ in csv.reader(content.decode("utf-8-sig").splitlines())) - 1
