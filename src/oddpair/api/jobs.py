"""Background work: list, progress pushed to the browser, cancel."""

import asyncio
from collections.abc import AsyncIterable
from datetime import UTC, datetime
from typing import Any

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.sse import EventSourceResponse
from pydantic import BaseModel

from ..core.errors import OddPairError
from ..services import work
from ..services.people.who import registers_known
from ..services.transactions import transaction
from .dependencies import RecordId, Transaction, state, who_asks

router = APIRouter(tags=["jobs"])
_LOOK_EVERY_S = 0.3
_SHOWN = 20


class JobOut(BaseModel):
    """Background work: queued, running, done, failed or cancelled; ``stage_s`` is how long its stage has gone on, in seconds."""

    id: int
    kind: str
    register_slug: str
    title: str
    status: str
    stage: str
    done: int
    total: int
    stage_s: float
    message: str
    result: dict[str, Any] | None
    created_at: datetime
    ended_at: datetime | None


class JobsOut(BaseModel):
    """The newest jobs, newest first."""

    jobs: list[JobOut]


def job_out(job: work.Job, slug: str) -> JobOut:
    """Return a job as it is sent; ``slug`` is its register's."""
    values = {name: getattr(job, name) for name in JobOut.model_fields if name not in ("register_slug", "stage_s")}
    begun = job.stage_began_at
    stage_s = (datetime.now(UTC) - begun).total_seconds() if begun else 0.0
    defaults = {"status": "queued", "stage": "", "done": 0, "total": 0, "message": ""}
    filled = {name: defaults[name] if value is None and name in defaults else value for name, value in values.items()}
    return JobOut(register_slug=slug, stage_s=round(stage_s, 1), **filled)


def _recent(request: Request) -> JobsOut:
    """Return the newest jobs that the person who asks may know of; raise NotSignedIn once nobody is signed in any more."""
    who = who_asks(request)
    with transaction(state(request).sessions) as session:
        found = work.recent_jobs(session, _SHOWN, registers_known(session, who))
        return JobsOut(jobs=[job_out(job, slug) for job, slug in found])


@router.get("/jobs")
def list_jobs(request: Request) -> JobsOut:
    """The newest jobs."""
    return _recent(request)


@router.get("/jobs/events", response_class=EventSourceResponse)
async def events(request: Request) -> AsyncIterable[JobsOut]:
    """A stream that sends the newest jobs whenever one of them changes."""
    stopping: asyncio.Event | None = getattr(request.app.state, "stopping", None)
    last: JobsOut | None = None
    while not (stopping and stopping.is_set()) and not await request.is_disconnected():
        try:
            now = await run_in_threadpool(_recent, request)
        except OddPairError:
            # The stream ends; the browser asks again, and tells meanwhile that nobody answers, or that nobody is signed in any more.
            return
        if now != last:
            yield now
            last = now
        await asyncio.sleep(_LOOK_EVERY_S)


@router.get("/jobs/{job_id}")
def get_job(session: Transaction, job_id: RecordId) -> JobOut:
    """One job."""
    return job_out(*work.job_with_slug(session, job_id))


@router.post("/jobs/{job_id}/cancel")
def cancel(session: Transaction, job_id: RecordId) -> JobOut:
    """Ask a job to stop; what it did is not kept."""
    work.request_cancel(session, job_id)
    return job_out(*work.job_with_slug(session, job_id))
