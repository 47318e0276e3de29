"""The worker process: waits for jobs and runs them, one at a time in each lane."""

import logging
import os
import signal
import threading
import time
from contextlib import suppress
from datetime import datetime

import psycopg

from ..core.errors import Busy, OddPairError, Unavailable
from ..services import work
from ..services.offline.warm_up import warm_up
from ..services.review.queue import wake
from ..services.sign_off.sweep import sweep
from ..services.standing.directories import Directories
from ..services.standing.schedules import begin_due_turns
from ..services.transactions import SessionFactory, open_sessions, transaction
from ..settings import Settings
from .memory import give_back_memory
from .tasks import run_job
from .tell import tellers

#: How often lanes look for work that nobody woke them for, and how often a sign of life is given.
_LOOK_EVERY_S, _BEAT_EVERY_S, _RECOVER_EVERY_S = 2.0, 3.0, 15.0
_LOOK_AT_CLOCK_EVERY_S = 5.0
#: Work under way has so long to come to a halt when a stop is asked for; what does not is done again at the next start.
_GRACE_S = 3.0
_NICENESS = 10
#: What a shorter job leaves is little, and looking for it takes longer than such a job.
_LEAVES_MUCH_AFTER_S = 3.0
_log = logging.getLogger(__name__)


class Worker:
    """Runs jobs in a thread per lane; ``stop`` ends it."""

    def __init__(self, settings: Settings, sessions: SessionFactory) -> None:
        self._settings, self._sessions = settings, sessions
        self._stopping = threading.Event()
        self._wake = {lane: threading.Event() for lane in work.LANES}
        self._running: dict[str, int] = {}
        self._directories = Directories(settings.kept)

    def stop(self) -> None:
        """Ask for the end."""
        self._stopping.set()
        for lane in self._wake.values():
            lane.set()

    def run(self) -> None:
        """Work until a stop is asked for."""
        self._recover(all_at_once=True)
        threads = [threading.Thread(target=self._lane, args=(lane,), name=lane, daemon=True) for lane in work.LANES]
        threads += [
            threading.Thread(target=target, daemon=True) for target in (self._listen, self._live, self._keep_time)
        ]
        threads += tellers(self._sessions, self._stopping)
        for thread in threads:
            thread.start()
        self._stopping.wait()
        for thread in threads[: len(work.LANES)]:
            thread.join(_GRACE_S)

    def _recover(self, *, all_at_once: bool = False) -> None:
        while not self._stopping.is_set():
            try:
                with transaction(self._sessions) as session:
                    work.recover(session, mine=list(self._running.values()), all_at_once=all_at_once)
                return
            except OddPairError:
                if not all_at_once:
                    return
                self._stopping.wait(_LOOK_EVERY_S)

    def _lane(self, lane: str) -> None:
        while not self._stopping.is_set():
            job_id = self._claimed(lane)
            if job_id is None:
                self._wake[lane].wait(_LOOK_EVERY_S)
                self._wake[lane].clear()
                continue
            self._running[lane] = job_id
            began = time.monotonic()
            try:
                run_job(self._sessions, self._settings, job_id, self._stopping, self._directories)
            except Exception:
                _log.exception("job %s could not be run", job_id)
            finally:
                del self._running[lane]
                if time.monotonic() - began > _LEAVES_MUCH_AFTER_S:
                    give_back_memory()

    def _claimed(self, lane: str) -> int | None:
        with suppress(Unavailable, Busy), transaction(self._sessions) as session:
            job = work.claim_next(session, lane)
            return job.id if job else None
        return None

    def _live(self) -> None:
        """Say every few seconds that the jobs under way are being worked on, and take over those of a worker that died."""
        since_recovered = 0.0
        while not self._stopping.wait(_BEAT_EVERY_S):
            running = list(self._running.values())
            if running:
                with suppress(OddPairError), transaction(self._sessions) as session:
                    work.beat(session, running)
            since_recovered += _BEAT_EVERY_S
            if since_recovered >= _RECOVER_EVERY_S:
                self._recover()
                # What was put off until a day that is there now comes back.
                with suppress(OddPairError), transaction(self._sessions) as session:
                    wake(session)
                with suppress(OddPairError):
                    sweep(self._sessions)
                since_recovered = 0.0

    def _keep_time(self) -> None:
        """Ask for the turns of schedules that are due; which they are, the database says, so that none is made twice."""
        while not self._stopping.wait(_LOOK_AT_CLOCK_EVERY_S):
            with suppress(OddPairError), transaction(self._sessions) as session:
                begin_due_turns(session, datetime.now().astimezone())

    def _listen(self) -> None:
        """Wake the lanes when a transaction that asked for work has been committed."""
        while not self._stopping.is_set():
            with suppress(psycopg.Error), self._named_connection() as connection:
                connection.execute(f"LISTEN {work.CHANNEL}")
                self._wake_all()
                while not self._stopping.is_set():
                    for _ in connection.notifies(timeout=_LOOK_EVERY_S, stop_after=1):
                        self._wake_all()
            self._stopping.wait(_LOOK_EVERY_S)

    def _named_connection(self) -> psycopg.Connection[tuple[object, ...]]:
        """Return a connection of its own, whose name tells others that a worker waits for work."""
        return psycopg.connect(self._settings.database_url, autocommit=True, application_name=work.WORKER)

    def _wake_all(self) -> None:
        for lane in self._wake.values():
            lane.set()


def main() -> None:
    """Run until a signal stops the process."""
    logging.basicConfig(level=logging.WARNING, format="%(asctime)s worker %(levelname)s %(name)s: %(message)s")
    # Whoever waits at a screen, or for a look-up, goes before work in the background.
    os.nice(_NICENESS)
    settings = Settings()
    with open_sessions(settings.sqlalchemy_url) as sessions:
        worker = Worker(settings, sessions)
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: worker.stop())
        threading.Thread(target=warm_up, daemon=True).start()
        worker.run()
    logging.shutdown()
    # Threads in the middle of a computation would keep the interpreter from ending; what they do is one transaction.
    os._exit(0)
