"""The worker as a process of its own, on a real queue."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from oddpair.core.fields import RegisterKind
from oddpair.jobs.queue import JobQueue
from oddpair.services import work
from oddpair.services.registers import registers
from oddpair.store.database import SessionFactory


@pytest.fixture
def slug(sessions: SessionFactory) -> str:
    with sessions.begin() as session:
        return registers.make_register(session, "Customers", RegisterKind.ORGANISATION).slug


def start_worker(database_url: str, data: Path) -> subprocess.Popen[bytes]:
    environment = {**os.environ, "ODD_PAIR_DATABASE_URL": database_url, "ODD_PAIR_DATA": str(data)}
    return subprocess.Popen([sys.executable, "-m", "oddpair.jobs.worker"], env=environment)


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


def test_a_job_asked_for_while_no_worker_ran_and_one_from_the_queue_are_both_done(
    sessions: SessionFactory, slug: str, database_url: str, request: pytest.FixtureRequest
):
    with sessions.begin() as session:
        stranded = work.ask_for(session, slug, "merge", "Merge", {"register": slug, "actor": "ann"}).id
        work.claim(session, stranded)
    request.getfixturevalue("worker")
    assert wait_for_end(sessions, stranded) == ("failed", "There is no run to merge yet. Run the match first.")
    queue = JobQueue(database_url)
    queue.open()
    with sessions.begin() as session:
        fresh = work.ask_for(session, slug, "run", "Run", {"register": slug}).id
    queue(fresh)
    assert wait_for_end(sessions, fresh) == ("failed", "There are no records to match yet. Bring in a delivery first.")
    queue.close()


def test_the_same_work_is_not_asked_for_twice(sessions: SessionFactory, slug: str):
    with sessions.begin() as session:
        work.ask_for(session, slug, "run", "Run the match", {"register": slug})
    with pytest.raises(Exception, match="'Run the match' is under way already"), sessions.begin() as session:
        work.ask_for(session, slug, "run", "Run the match", {"register": slug})
