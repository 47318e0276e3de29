"""Background work as rows: what is asked for, how far it is, how it ended.

The rows are the queue: the worker claims them, says every few seconds that it still works on them, and is woken by a notice
that the database sends when the transaction that asked for the work commits. Small work has a lane of its own, so that it does
not wait behind long work.
"""

from collections.abc import Collection, Mapping, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import case, or_, select, text, update
from sqlalchemy.orm import Session

from ..core.errors import NotFound, Refused
from ..store.registers import register_by_slug
from ..store.tables import Job, Register

__all__ = ["ACTIVE", "CHANNEL", "LANES", "WORKER", "Job"]
ACTIVE = ("queued", "running")
#: The channel on which the worker is woken.
CHANNEL = "odd_pair_work"
#: Under which name the worker's connection is known to the database.
WORKER = "odd-pair worker"
LANES = ("slow", "quick")
#: Kinds of work that are small whatever the size of the register.
_QUICK = frozenset({"profile", "golden", "try rules"})
#: Whoever has not said for so long that it still works on a job has died.
LEASE_S = 30.0
_MOST_ATTEMPTS = 5


def ask_for(session: Session, slug: str, kind: str, title: str, arguments: Mapping[str, Any]) -> Job:
    """Write a job down; raise Refused if the same work is under way in the register already, whoever asked for it."""
    # One who asks at a time and register: of eight clicks at once, one makes a job.
    query = select(Register).where(Register.slug == slug).with_for_update(key_share=True)
    register = session.scalar(query) or register_by_slug(session, slug)
    same = select(Job).where(Job.register_id == register.id, Job.kind == kind, Job.status.in_(ACTIVE))
    for job in session.scalars(same):
        if _work_of(job.arguments) == _work_of(arguments):
            raise Refused(f"'{job.title}' is under way already.")
    return _written(session, register.id, kind, title, arguments)


def _work_of(arguments: Mapping[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in arguments.items() if name not in ("actor", "seen")}


def follow_up(session: Session, slug: str, kind: str, title: str, arguments: Mapping[str, Any]) -> Job:
    """Write a job down although the same work may be running, which began before what was done now.

    Returns the job that still waits for its turn, if there is one: it will see what was done now.
    """
    register = register_by_slug(session, slug)
    queued = (
        select(Job).where(Job.register_id == register.id, Job.kind == kind, Job.status == "queued").order_by(Job.id)
    )
    waiting = next((job for job in session.scalars(queued) if _work_of(job.arguments) == _work_of(arguments)), None)
    return waiting or _written(session, register.id, kind, title, arguments)


def _written(session: Session, register_id: int, kind: str, title: str, arguments: Mapping[str, Any]) -> Job:
    job = Job(
        kind=kind, register_id=register_id, title=title, arguments=dict(arguments), created_at=datetime.now(UTC),
        lane="quick" if kind in _QUICK else "slow",
    )  # fmt: skip
    session.add(job)
    session.flush()
    session.execute(text(f"NOTIFY {CHANNEL}"))
    return job


def job_by_id(session: Session, job_id: int) -> Job:
    """Return the job; raise NotFound."""
    job = session.get(Job, job_id)
    if job is None:
        raise NotFound("job", job_id)
    return job


def job_with_slug(session: Session, job_id: int) -> tuple[Job, str]:
    """Return the job with the short name of its register; raise NotFound."""
    job = job_by_id(session, job_id)
    return job, session.get_one(Register, job.register_id).slug


def recent_jobs(session: Session, limit: int, slugs: Collection[str]) -> Sequence[tuple[Job, str]]:
    """Return the newest jobs of some registers with their short names, newest first."""
    query = select(Job, Register.slug).join(Register, Register.id == Job.register_id).order_by(Job.id.desc())
    query = query.where(Register.slug.in_(slugs))
    return [(job, slug) for job, slug in session.execute(query.limit(limit))]


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


def claim_next(session: Session, lane: str) -> Job | None:
    """Mark the oldest waiting job of a lane as running and return it; None if there is none."""
    query = select(Job).where(Job.status == "queued", Job.lane == lane).order_by(Job.id).limit(1)
    job = session.scalar(query.with_for_update(skip_locked=True))
    if job is not None:
        job.status, job.started_at, job.beat_at = "running", datetime.now(UTC), datetime.now(UTC)
        job.stage, job.done, job.total = "", 0, 0
        job.attempts += 1
        session.flush()
    return job


def beat(session: Session, job_ids: Sequence[int]) -> None:
    """Say that jobs are still being worked on."""
    session.execute(update(Job).where(Job.id.in_(job_ids), Job.status == "running").values(beat_at=datetime.now(UTC)))


def report(session: Session, job_id: int, stage: str, done: int, total: int) -> bool:
    """Write progress down; return whether the job should stop."""
    began = case((Job.stage == stage, Job.stage_began_at), else_=datetime.now(UTC))
    values = {"stage": stage, "done": done, "total": total, "stage_began_at": began, "beat_at": datetime.now(UTC)}
    return bool(session.scalar(update(Job).where(Job.id == job_id).values(**values).returning(Job.cancel_requested)))


def end(session: Session, job_id: int, status: str, message: str, result: Mapping[str, Any] | None = None) -> None:
    """Write down how a job ended, unless that stands there already."""
    values = {
        "status": status,
        "message": message,
        "result": dict(result) if result else None,
        "ended_at": datetime.now(UTC),
    }
    session.execute(update(Job).where(Job.id == job_id, Job.status == "running").values(**values))


def begin_again(session: Session, job_id: int, reason: str) -> None:
    """Put work that broke off through no fault of its own back into the queue, or end it after too many attempts.

    Work that was done although its answer was lost has noted so, and is left alone.
    """
    job = session.get(Job, job_id, with_for_update=True)
    if job is not None and job.status == "running":
        _back_in_the_queue(job, "waiting for another attempt", reason)
        session.flush()


def _back_in_the_queue(job: Job, stage: str, reason: str) -> None:
    if job.cancel_requested:
        job.status, job.message = "cancelled", "Cancelled on request, when its worker had ended."
    elif job.attempts >= _MOST_ATTEMPTS:
        job.status, job.message = "failed", f"Given up after {job.attempts} attempts: {reason}"
    else:
        job.status, job.stage, job.done, job.total = "queued", stage, 0, 0
        return
    job.ended_at = datetime.now(UTC)


def recover(session: Session, *, mine: Sequence[int] = (), all_at_once: bool = False) -> int:
    """Put jobs whose worker died back into the queue, and end those that were to be cancelled; return how many.

    Work that broke off has changed nothing, or what it can go on from. A worker that starts is the only one, and takes over
    everything (``all_at_once``); later, jobs count as left when their lease has run out, but for those that are ``mine``.
    """
    left = select(Job).where(Job.status == "running", Job.id.not_in(list(mine)))
    if not all_at_once:
        stale = datetime.now(UTC) - timedelta(seconds=LEASE_S)
        left = left.where(or_(Job.beat_at.is_(None), Job.beat_at < stale))
    found = session.scalars(left.with_for_update(skip_locked=True)).all()
    for job in found:
        _back_in_the_queue(job, "waiting after a restart", "the process that worked on it ended each time.")
    session.flush()
    return len(found)
