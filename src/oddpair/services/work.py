"""Background work as rows: what is asked for, how far it is, how it ended.

The queue that wakes the worker is behind a small protocol, so that services and the API do not know it.
"""

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any, Protocol

from sqlalchemy import case, select, update
from sqlalchemy.orm import Session

from ..core.errors import NotFound, Refused
from ..store.registers import register_by_slug
from ..store.tables import Job

ACTIVE = ("queued", "running")


class Enqueue(Protocol):
    """Tells the worker that a job waits."""

    def __call__(self, job_id: int) -> None:
        """Wake the worker for the job; called after the job's row is committed."""


def ask_for(session: Session, slug: str, kind: str, title: str, arguments: Mapping[str, Any]) -> Job:
    """Write a job down; raise Refused if the same kind of work is under way in the register already."""
    register = register_by_slug(session, slug)
    same = select(Job).where(Job.register_id == register.id, Job.kind == kind, Job.status.in_(ACTIVE))
    for job in session.scalars(same):
        if job.arguments == dict(arguments):
            raise Refused(f"'{job.title}' is under way already.")
    return _written(session, register.id, kind, title, arguments)


def ask_again(session: Session, slug: str, kind: str, title: str, arguments: Mapping[str, Any]) -> Job:
    """Write a job down although the same work may be running, which began before what was done now.

    Returns the job that still waits for its turn, if there is one: it will see what was done now.
    """
    register = register_by_slug(session, slug)
    waiting = session.scalars(
        select(Job).where(Job.register_id == register.id, Job.kind == kind, Job.status == "queued").limit(1)
    ).first()
    return waiting or _written(session, register.id, kind, title, arguments)


def _written(session: Session, register_id: int, kind: str, title: str, arguments: Mapping[str, Any]) -> Job:
    job = Job(kind=kind, register_id=register_id, title=title, arguments=dict(arguments), created_at=datetime.now(UTC))
    session.add(job)
    session.flush()
    return job


def job_by_id(session: Session, job_id: int) -> Job:
    """Return the job; raise NotFound."""
    job = session.get(Job, job_id)
    if job is None:
        raise NotFound("job", job_id)
    return job


def recent_jobs(session: Session, limit: int) -> Sequence[Job]:
    """Return the newest jobs, newest first."""
    return session.scalars(select(Job).order_by(Job.id.desc()).limit(limit)).all()


def request_cancel(session: Session, job_id: int) -> Job:
    """Ask a job to stop: one that waits is cancelled at once, one that runs stops at its next report of progress."""
    job = session.get(Job, job_id, with_for_update=True)
    if job is None:
        raise NotFound("job", job_id)
    if job.status not in ACTIVE:
        raise Refused(f"'{job.title}' has ended already.")
    job.cancel_requested = True
    if job.status == "queued":
        job.status, job.message, job.ended_at = "cancelled", "Cancelled before it began.", datetime.now(UTC)
    session.flush()
    return job


def claim(session: Session, job_id: int) -> Job | None:
    """Mark a waiting job as running and return it; None if it was cancelled or another worker has it."""
    job = session.scalar(select(Job).where(Job.id == job_id, Job.status == "queued").with_for_update(skip_locked=True))
    if job is not None:
        job.status, job.started_at = "running", datetime.now(UTC)
    return job


def report(session: Session, job_id: int, stage: str, done: int, total: int) -> bool:
    """Write progress down; return whether the job should stop."""
    began = case((Job.stage == stage, Job.stage_began_at), else_=datetime.now(UTC))
    values = {"stage": stage, "done": done, "total": total, "stage_began_at": began}
    return bool(session.scalar(update(Job).where(Job.id == job_id).values(**values).returning(Job.cancel_requested)))


def end(session: Session, job_id: int, status: str, message: str, result: Mapping[str, Any] | None = None) -> None:
    """Write down how a job ended."""
    values = {
        "status": status,
        "message": message,
        "result": dict(result) if result else None,
        "ended_at": datetime.now(UTC),
    }
    session.execute(update(Job).where(Job.id == job_id).values(**values))


def requeue_interrupted(session: Session) -> list[int]:
    """Put jobs that a stopped worker left behind back into the queue; return all that wait, oldest first.

    Every job is one transaction, so an interrupted one has changed nothing and can simply be run again.
    """
    session.execute(
        update(Job).where(Job.status == "running").values(status="queued", stage="waiting after a restart", done=0)
    )
    return list(session.scalars(select(Job.id).where(Job.status == "queued").order_by(Job.id)))
