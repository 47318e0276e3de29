"""The demo data of the version before this one, in mid-work, migrate: nothing is lost, and the work goes on."""

import gzip
import subprocess
import uuid
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import psycopg
import pytest
from sqlalchemy import select, text

from oddpair.core.errors import Conflict, Refused
from oddpair.jobs.tasks import run_job
from oddpair.launch.postgres import PrivatePostgres, program
from oddpair.services import work
from oddpair.services.golden import golden_page, merge, undo
from oddpair.services.golden.merge_preview import preview_merge
from oddpair.services.golden.send_out import crosswalk_table
from oddpair.services.journal.entries import verify
from oddpair.services.journal.search import Asked, search
from oddpair.services.registers import registers
from oddpair.services.state.rebuild import rebuild
from oddpair.services.tidy import corrections
from oddpair.settings import Settings
from oddpair.store.database import SessionFactory, make_engine, make_sessions, migrate
from oddpair.store.tables import Decision, JournalEntry, Pin
from tests.there import there

from . import desk as review

SLUG = "customers"
#: A dump of a register in which deliveries came, went and returned, people decided, pinned, split, undid and corrected.
DUMP = Path(__file__).parent / "demo_of_version_0008.sql.gz"


@pytest.fixture
def old_url(postgres: PrivatePostgres) -> Iterator[str]:
    name = f"old_{uuid.uuid4().hex[:8]}"
    with psycopg.connect(postgres.url("postgres", admin=True), autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE template0 OWNER odd_pair_app")
        command = [program("psql"), "--quiet", "--set=ON_ERROR_STOP=1", "--no-psqlrc", postgres.url(name)]
        subprocess.run(command, input=gzip.decompress(DUMP.read_bytes()), check=True, capture_output=True)
        yield postgres.url(name).replace("postgresql://", "postgresql+psycopg://", 1)
        connection.execute(f"DROP DATABASE {name} WITH (FORCE)")


@pytest.fixture
def old(old_url: str) -> Iterator[SessionFactory]:
    """The database as it was, before its migration."""
    engine = make_engine(old_url)
    yield make_sessions(engine)
    engine.dispose()


def rows(sessions: SessionFactory, query: str) -> list[tuple[object, ...]]:
    with sessions() as session:
        return [tuple(row) for row in session.execute(text(query))]


MEMBERS = "SELECT g.key, m.record_id FROM golden_members m JOIN golden_records g ON g.id = m.golden_id ORDER BY 1, 2"
KEYS = "SELECT g.key, l.key, g.withdrawn_at IS NULL FROM golden_records g LEFT JOIN golden_records l ON l.id = g.leads_to ORDER BY 1"
RECORDS = "SELECT id, source_key, state, fields, tidy FROM source_records ORDER BY 1"
DECIDED = "SELECT id, left_id, right_id, verdict, remark, actor, at, withdrawn_at FROM decisions ORDER BY 1"
PINNED = "SELECT golden_id, field, value, reason, actor, at, lifted_at FROM pins ORDER BY 1, 2"


def work_off(sessions: SessionFactory, folder: Path) -> list[str]:
    """Do the work that waits after a migration; return how it ended."""
    ended = []
    for lane in work.LANES:
        while True:
            with sessions.begin() as session:
                job = work.claim_next(session, lane)
            if job is None:
                break
            run_job(sessions, Settings(data=folder), job.id)
            with sessions() as session:
                done = work.job_by_id(session, job.id)
                ended.append(f"{done.kind}: {done.status} {done.message}".strip())
    return ended


def test_everything_is_there_afterwards_and_the_journal_holds(
    old: SessionFactory, old_url: str, tmp_path: Path
) -> None:
    before = {query: rows(old, query) for query in (MEMBERS, KEYS, RECORDS, DECIDED, PINNED)}
    acts = rows(old, "SELECT count(*) FROM journal")[0][0]
    assert all(before.values())
    migrate(old_url)
    for query, was in before.items():
        assert rows(old, query) == was
    ended = work_off(old, tmp_path)
    assert ended
    assert all(": done" in job for job in ended), ended
    with old() as session:
        assert [state.problems for state in verify(session)] == [[]] * 1
        entries = session.scalars(select(JournalEntry).where(JournalEntry.chain > 0)).all()
        assert 0 < len(entries) <= int(str(acts)) + len(ended)
        assert {entry.kind for entry in entries} >= {"merge", "split", "undo", "pin", "lift", "run"}
        assert rebuild(session, SLUG).problems == []
        session.rollback()
    assert rows(old, MEMBERS) == before[MEMBERS]


def test_the_work_goes_on(old: SessionFactory, old_url: str, tmp_path: Path) -> None:
    migrate(old_url)
    work_off(old, tmp_path)
    with old() as session:
        assert registers.view_of(session, SLUG).run_due == []
        decided = session.scalars(select(Decision).where(Decision.withdrawn_at.is_(None))).all()
        keys = {(row["source"], row["source_id"]): row["golden_key"] for row in crosswalk_table(session, SLUG).rows}
        preview = preview_merge(session, SLUG)
    merge.merge(old, SLUG, actor="ann", seen=preview.seen)
    holds = {row[0]: row[1] for row in rows(old, "SELECT record_id, golden_id FROM golden_members")}
    for decision in decided:
        if decision.verdict != "later" and {decision.left_id, decision.right_id} <= holds.keys():
            together = holds[decision.left_id] == holds[decision.right_id]
            assert together == (decision.verdict == "same"), (decision.left_id, decision.right_id)
    with old() as session:
        # Keys that stood for a record lead to where it is now.
        now = {(row["source"], row["source_id"]): row["golden_key"] for row in crosswalk_table(session, SLUG).rows}
        for record, key in keys.items():
            assert golden_page.golden_view(session, SLUG, key).golden.key in set(now.values()), record
        pinned = there(session.scalar(select(Pin).where(Pin.lifted_at.is_(None))))
        assert pinned.value in str(
            rows(
                old, f"SELECT values FROM golden_records WHERE id = {pinned.golden_id} OR leads_to = {pinned.golden_id}"
            )
        )


def undone(sessions: SessionFactory, step: int) -> bool:
    with suppress(Refused, Conflict), sessions.begin() as session:
        return undo.undo_step(session, step, actor="ann", with_later=True) > 0
    return False


def test_what_was_done_before_can_be_undone_and_withdrawn(old: SessionFactory, old_url: str, tmp_path: Path) -> None:
    migrate(old_url)
    work_off(old, tmp_path)
    with old() as session:
        merges = select(JournalEntry).where(JournalEntry.kind == "merge").order_by(JournalEntry.id.desc())
        steps = [entry.id for entry in session.scalars(merges)]
        standing = there(
            session.scalar(select(Decision).where(Decision.withdrawn_at.is_(None), Decision.remark == "asked them"))
        )
        [batch] = corrections.batches(session, SLUG, 10)
        assert [entry.summary for entry in search(session, SLUG, Asked(), before=None, limit=500).entries]
    # Steps on which a delivery that was taken back rests stay; others can be undone.
    assert any(undone(old, step) for step in steps)
    with old.begin() as session:
        review.withdraw(session, standing.id, actor="bob")
    with old.begin() as session:
        assert corrections.undo(session, SLUG, batch.batch, actor="bob") == batch.records
    with old() as session:
        assert rebuild(session, SLUG).problems == []
        session.rollback()
        assert all(not state.problems for state in verify(session))
