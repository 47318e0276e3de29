"""What each kind of job does, and how its progress, cancelling and ending are written down."""

import logging
import time
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass
from typing import Any

from sqlalchemy.orm import Session

from ..core.errors import Cancelled, OddPairError
from ..services import work
from ..services.bring_in import load_delivery, take_back
from ..services.golden import merge
from ..services.match import recount, run_plan
from ..services.tidy import profile, recipes
from ..settings import Settings
from ..store.database import SessionFactory

_REPORT_EVERY_S = 0.2
_log = logging.getLogger(__name__)
Progress = Callable[[str, int, int], None]


@dataclass(frozen=True, slots=True)
class Context:
    """What a task is given besides its arguments."""

    settings: Settings
    progress: Progress


Task = Callable[[Session, Mapping[str, Any], Context], Mapping[str, Any]]


def _load_delivery(session: Session, arguments: Mapping[str, Any], context: Context) -> Mapping[str, Any]:
    return load_delivery.load(session, int(arguments["delivery_id"]), context.settings.deliveries, context.progress)


def _run_plan(session: Session, arguments: Mapping[str, Any], context: Context) -> Mapping[str, Any]:
    return run_plan.run_plan(session, str(arguments["register"]), context.progress)


def _merge(session: Session, arguments: Mapping[str, Any], context: Context) -> Mapping[str, Any]:
    return merge.merge(session, str(arguments["register"]), actor=str(arguments["actor"]), progress=context.progress)


def _take_back(session: Session, arguments: Mapping[str, Any], context: Context) -> Mapping[str, Any]:
    return asdict(take_back.take_back(session, int(arguments["delivery_id"]), actor=str(arguments["actor"])))


def _put_back(session: Session, arguments: Mapping[str, Any], context: Context) -> Mapping[str, Any]:
    return asdict(take_back.put_back(session, int(arguments["delivery_id"]), actor=str(arguments["actor"])))


def _tidy_again(session: Session, arguments: Mapping[str, Any], context: Context) -> Mapping[str, Any]:
    return recipes.tidy_again(session, str(arguments["register"]), context.progress)


def _recount(session: Session, arguments: Mapping[str, Any], context: Context) -> Mapping[str, Any]:
    return recount.recount(session, str(arguments["register"]), arguments["steps"], context.progress)


def _profile(session: Session, arguments: Mapping[str, Any], context: Context) -> Mapping[str, Any]:
    scope = profile.Scope(str(arguments["source"]), int(arguments["delivery_id"]))
    made = profile.make_profile(session, str(arguments["register"]), scope, context.progress)
    return {"records": made["records"]}


TASKS: dict[str, Task] = {
    "load": _load_delivery, "take-back": _take_back, "put-back": _put_back, "run": _run_plan, "merge": _merge,
    "tidy": _tidy_again, "recount": _recount, "profile": _profile,
}  # fmt: skip


class _Reporter:
    """Writes progress in a transaction of its own, a few times a second, and notices a request to cancel."""

    def __init__(self, sessions: SessionFactory, job_id: int) -> None:
        self._sessions, self._job_id = sessions, job_id
        self._stage, self._at = "", 0.0

    def __call__(self, stage: str, done: int, total: int) -> None:
        now = time.monotonic()
        if stage == self._stage and now - self._at < _REPORT_EVERY_S:
            return
        self._stage, self._at = stage, now
        with self._sessions.begin() as session:
            stop = work.report(session, self._job_id, stage, done, total)
        if stop:
            raise Cancelled


def run_job(sessions: SessionFactory, settings: Settings, job_id: int) -> None:
    """Run one job: its work is one transaction; what comes of it is written into the job's row in another."""
    with sessions.begin() as session:
        job = work.claim(session, job_id)
        if job is None:
            return
        kind, arguments = job.kind, dict(job.arguments)
    context = Context(settings, _Reporter(sessions, job_id))
    status, message, result = "done", "", None
    try:
        with sessions.begin() as session:
            result = TASKS[kind](session, arguments, context)
    except Cancelled as error:
        status, message = "cancelled", str(error)
    except OddPairError as error:
        status, message = "failed", str(error)
    except Exception:
        _log.exception("job %s of kind %s failed", job_id, kind)
        status, message = (
            "failed",
            "An unexpected error stopped this work; nothing of it was kept. The server's log says more.",
        )
    with sessions.begin() as session:
        work.end(session, job_id, status, message, result)
