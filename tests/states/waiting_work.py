"""Work that was asked for and waits for the worker."""

from oddpair.jobs.tasks import run_job
from oddpair.services import work
from oddpair.settings import Settings
from oddpair.store.database import SessionFactory


def run_waiting(sessions: SessionFactory, settings: Settings) -> None:
    """Do all work that waits, as the worker would."""
    found = True
    while found:
        found = False
        for lane in work.LANES:
            with sessions.begin() as session:
                job = work.claim_next(session, lane)
            if job is not None:
                found = True
                run_job(sessions, settings, job.id)
