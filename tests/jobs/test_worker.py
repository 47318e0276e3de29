"""The worker as a process of its own, on a real queue."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from oddpair.core.fields import RegisterKind
from oddpair.jobs.memory import give_back_memory
from oddpair.jobs.tasks import run_job
from oddpair.services import work
from oddpair.services.registers import registers
from oddpair.settings import Settings
from oddpair.store.database import SessionFactory
from tests.there import there

from ..waiting import until


@pytest.fixture
def slug(sessions: SessionFactory) -> str:
    with sessions.begin() as session:
        return registers.make_register(session, "Customers", RegisterKind.ORGANISATION).slug


def start_worker(database_url: str, data: Path) -> subprocess.Popen[bytes]:
    environment = {**os.environ, "ODD_PAIR_DATABASE_URL": database_url, "ODD_PAIR_DATA": str(data)}
    return subprocess.Popen([sys.executable, "-m", "oddpair.launch.process", "oddpair.jobs.worker"], env=environment)


@pytest.fixture
def worker(database_url: str, tmp_path: Path) -> Iterator[subprocess.Popen[bytes]]:
    process = start_worker(database_url, tmp_path)
    yield process
    process.send_signal(signal.SIGTERM)
    assert process.wait(20) == 0


def wait_for_end(sessions: SessionFactory, job_id: int) -> tuple[str, str]:
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        with sessions() as session:
            job = work.job_by_id(session, job_id)
            if job.status not in work.ACTIVE:
                return job.status, job.message
        time.sleep(0.05)
    raise AssertionError("the job never ended")


def test_a_job_that_another_worker_left_and_one_asked_for_later_are_both_done(
    sessions: SessionFactory, slug: str, request: pytest.FixtureRequest
) -> None:
    with sessions.begin() as session:
        stranded = work.ask_for(session, slug, "merge", "Merge", {"register": slug, "actor": "ann"}).id
        assert there(work.claim_next(session, "slow")).id == stranded
    request.getfixturevalue("worker")
    assert wait_for_end(sessions, stranded) == ("failed", "There is no run to merge yet. Run the match first.")
    with sessions.begin() as session:
        fresh = work.ask_for(session, slug, "run", "Run", {"register": slug}).id
    assert wait_for_end(sessions, fresh) == ("failed", "There are no records to match yet. Bring in a delivery first.")


def test_the_same_work_is_not_asked_for_twice(sessions: SessionFactory, slug: str) -> None:
    with sessions.begin() as session:
        work.ask_for(session, slug, "run", "Run the match", {"register": slug})
    with pytest.raises(Exception, match="'Run the match' is under way already"), sessions.begin() as session:
        work.ask_for(session, slug, "run", "Run the match", {"register": slug})


def test_small_work_does_not_wait_behind_long_work(sessions: SessionFactory, slug: str) -> None:
    with sessions.begin() as session:
        long, small = (
            work.ask_for(session, slug, kind, kind, {"register": slug, "source": "", "delivery_id": 0}).id
            for kind in ("run", "profile")
        )
        assert [there(work.claim_next(session, lane)).id for lane in work.LANES] == [long, small]
        assert [work.claim_next(session, lane) for lane in work.LANES] == [None, None]


def test_the_end_of_a_job_is_noted_although_the_database_was_away(
    sessions: SessionFactory, slug: str, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    with sessions.begin() as session:
        work.ask_for(session, slug, "run", "Run the match", {"register": slug})
        job_id = there(work.claim_next(session, "slow")).id
    noted, tries = work.end, []

    def broken_twice(session: Session, *arguments: Any) -> None:
        tries.append(arguments)
        if len(tries) < 3:
            session.execute(text("SELECT pg_terminate_backend(pg_backend_pid())"))
        noted(session, *arguments)

    monkeypatch.setattr(work, "end", broken_twice)
    run_job(sessions, Settings(data=tmp_path), job_id)
    assert len(tries) == 3
    with sessions() as session:
        assert work.job_by_id(session, job_id).status == "failed"


def test_processes_that_work_was_shared_out_to_end_with_whoever_started_them(tmp_path: Path) -> None:
    script = tmp_path / "shares_out.py"
    script.write_text(
        "import os, sys, time\nfrom oddpair.core.processes import processes\n"
        "if __name__ == '__main__':\n    with processes() as pool:\n"
        "        print(pool.start(os.getpid).result(), flush=True)\n        time.sleep(60)\n"
    )
    parent = subprocess.Popen([sys.executable, script], stdout=subprocess.PIPE, text=True)
    with there(parent.stdout) as output:
        child = int(output.readline())
    parent.kill()
    parent.wait()
    until(lambda: not is_alive(child), 10)


def is_alive(process: int) -> bool:
    try:
        return Path(f"/proc/{process}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except FileNotFoundError:
        return False


def test_memory_that_a_job_left_free_is_given_back() -> None:
    def held() -> int:
        fields = Path("/proc/self/statm").read_text().split()
        return int(fields[1]) * os.sysconf("SC_PAGE_SIZE")

    give_back_memory()
    before = held()
    # Small pieces, which the C library keeps when they are freed; one of the last keeps the others from being cut off.
    pieces = [bytes(3000) for _ in range(60_000)]
    kept = pieces[-1]
    full = held()
    pieces.clear()
    give_back_memory()
    assert full - before > 150_000_000
    assert held() - before < 0.3 * (full - before)
    assert len(kept) == 3000
