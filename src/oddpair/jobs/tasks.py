"""What each kind of job does, and how its progress, cancelling and ending are written down."""

import logging
import time
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import asdict, dataclass
from threading import Event
from typing import Any

from ..core.errors import Busy, Cancelled, OddPairError, Unavailable
from ..services import work
from ..services.bring_in import load_delivery, take_back
from ..services.counterparts import lists, run_list
from ..services.findings import run_plan as findings
from ..services.forgetting import forget
from ..services.golden import merge, rules
from ..services.health import check_room
from ..services.journal import entries
from ..services.match import run_plan
from ..services.registers import registers
from ..services.standing import recognise, take_turn
from ..services.standing.directories import Directories
from ..services.tidy import profile, recount, tidy_steps
from ..services.transactions import Session, SessionFactory, transaction
from ..settings import Settings

_REPORT_EVERY_S = 0.2
#: Noting the end is tried so long: a database that was killed is back within seconds.
_KEEP_NOTING_S, _FIRST_PAUSE_S, _LONGEST_PAUSE_S = 600.0, 0.2, 5.0
#: How work ends that the database left alone: it changed nothing, or what it can go on from.
_AGAIN = "again"
#: Kinds of work after which a register's records are others than before.
_CHANGE_RECORDS = frozenset({"load", "take-back", "put-back", "tidy", "merge", "recognise", "turn"})
#: So many faults of a journal are told one by one.
_MOST_PROBLEMS = 100
_log = logging.getLogger(__name__)
Progress = Callable[[str, int, int], None]


@dataclass(frozen=True, slots=True)
class Context:
    """What a task is given besides its arguments."""

    sessions: SessionFactory
    settings: Settings
    progress: Progress
    job_id: int
    directories: Directories

    def whole(self, act: Callable[[Session], Mapping[str, Any]]) -> Mapping[str, Any]:
        """Do an act and note in the same transaction that the job is done; return its result.

        A process that is killed between the two would otherwise do the act twice, or be refused the second time.
        """
        with transaction(self.sessions) as session:
            result = act(session)
            self.end(session, result)
        return result

    def end(self, session: Session, result: Mapping[str, Any]) -> None:
        """Note that the job is done, in the last transaction of work that takes several."""
        work.end(session, self.job_id, "done", "", result)


Arguments = Mapping[str, Any]
#: How work ended, what is to be told of it, its result.
Outcome = tuple[str, str, Mapping[str, Any] | None]
Task = Callable[[Arguments, Context], Mapping[str, Any]]


def _actor(arguments: Arguments) -> str:
    return str(arguments.get("actor", "Odd Pair"))


def _load_delivery(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    folder, delivery, actor = context.settings.deliveries, int(arguments["delivery_id"]), _actor(arguments)
    result = context.whole(lambda session: load_delivery.load(session, delivery, folder, context.progress, actor=actor))
    load_delivery.gather_figures(context.sessions, result)
    load_delivery.drop_file_of_erased(context.sessions, delivery, folder, result)
    return result


def _take_back(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    delivery, actor = int(arguments["delivery_id"]), _actor(arguments)
    return context.whole(
        lambda session: asdict(take_back.take_back(session, delivery, actor=actor, progress=context.progress))
    )


def _put_back(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    delivery, actor = int(arguments["delivery_id"]), _actor(arguments)
    return context.whole(
        lambda session: asdict(take_back.put_back(session, delivery, actor=actor, progress=context.progress))
    )


def _run_plan(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    return run_plan.run_plan(
        context.sessions, str(arguments["register"]), context.progress, actor=_actor(arguments),
        kept=context.settings.kept, at_end=context.end,
    )  # fmt: skip


def _trial(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    trial = run_plan.Trial(str(arguments["title"]), str(arguments["yaml"]))
    return run_plan.run_plan(
        context.sessions, str(arguments["register"]), context.progress, trial=trial, kept=context.settings.kept,
        at_end=context.end,
    )  # fmt: skip


def _counterparts(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    folder, list_id = context.settings.deliveries, int(arguments["list"])
    return run_list.run_list(
        context.sessions, str(arguments["register"]), list_id, folder, context.progress, kept=context.settings.kept,
        at_end=context.end,
    )  # fmt: skip


def _findings(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    return findings.run_plan(
        context.sessions, int(arguments["plan"]), context.progress, kept=context.settings.kept, at_end=context.end
    )


def _merge(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    return merge.merge(
        context.sessions, str(arguments["register"]), actor=_actor(arguments), seen=str(arguments.get("seen", "")),
        progress=context.progress, at_end=context.end, signed=bool(arguments.get("signed")),
    )  # fmt: skip


def _forget(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    return context.whole(
        lambda session: forget.forget(
            session, str(arguments["register"]), arguments["record_ids"], reason=str(arguments["reason"]), actor=_actor(arguments),
            folder=context.settings.deliveries, kept=context.settings.kept, progress=context.progress,
        )
    )  # fmt: skip


def _tidy(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    return context.whole(
        lambda session: tidy_steps.tidy_register(session, str(arguments["register"]), context.progress)
    )


def _golden(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    return rules.refresh_golden(context.sessions, str(arguments["register"]), context.progress)


def _try_rules(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    form = str(arguments["form"]) if arguments.get("form") else None
    return rules.try_rules(context.sessions, str(arguments["register"]), arguments["rules"], form, context.progress)


def _search(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    return context.whole(
        lambda session: registers.make_searchable(session, str(arguments["register"]), context.progress)
    )


def _recount(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    return recount.recount(context.sessions, str(arguments["register"]), arguments["steps"], context.progress)


def _profile(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    scope = profile.Scope(str(arguments["source"]), int(arguments["delivery_id"]))
    return context.whole(
        lambda session: {
            "records": profile.make_profile(session, str(arguments["register"]), scope, context.progress)["records"]
        }
    )


def _recognise(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    return recognise.recognise_register(
        context.sessions, str(arguments["register"]), context.progress, context.directories, actor=_actor(arguments),
        kept=context.settings.kept, at_end=context.end, made=context.settings.deliveries,
    )  # fmt: skip


def _turn(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    return take_turn.take_turn(
        context.sessions, context.settings, int(arguments["turn"]), context.progress, context.directories,
        actor=_actor(arguments), despite=bool(arguments.get("despite")), at_end=context.end,
    )  # fmt: skip


def _verify(arguments: Arguments, context: Context) -> Mapping[str, Any]:
    """Go through the chain of a register's journal; nothing is written, so one transaction reads it as it stands."""
    with transaction(context.sessions) as session:
        found = entries.verify_register(session, str(arguments["register"]), context.progress)
    return {"entries": found.entries, "wrong": len(found.problems), "problems": found.problems[:_MOST_PROBLEMS]}


TASKS: dict[str, Task] = {
    "verify": _verify,
    "turn": _turn,
    "recognise": _recognise,
    "load": _load_delivery, "take-back": _take_back, "put-back": _put_back, "run": _run_plan, "trial": _trial,
    "counterparts": _counterparts, "findings": _findings, "merge": _merge, "forget": _forget,
    "tidy": _tidy, "recount": _recount, "profile": _profile, "golden": _golden, "search": _search,
    "try rules": _try_rules,
}  # fmt: skip


class _Reporter:
    """Writes progress in a transaction of its own, a few times a second; notices a request to cancel, and a disk that fills up."""

    def __init__(self, sessions: SessionFactory, settings: Settings, job_id: int) -> None:
        self._sessions, self._settings, self._job_id = sessions, settings, job_id
        self._stage, self._at = "", 0.0

    def __call__(self, stage: str, done: int, total: int) -> None:
        now = time.monotonic()
        if stage == self._stage and now - self._at < _REPORT_EVERY_S:
            return
        self._stage, self._at = stage, now
        check_room(self._settings)
        stop = False
        # Progress that cannot be told is no reason to fail: the work itself will tell what is wrong.
        with suppress(Unavailable, Busy), transaction(self._sessions) as session:
            stop = work.report(session, self._job_id, stage, done, total)
        if stop:
            raise Cancelled


def _outcome(kind: str, arguments: Arguments, context: Context, job_id: int) -> Outcome:
    """Do the work; return (how it ended, what is to be told, its result)."""
    try:
        check_room(context.settings)
        return "done", "", TASKS[kind](arguments, context)
    except Cancelled as error:
        return "cancelled", str(error), None
    except (Unavailable, Busy) as error:
        return _AGAIN, str(error), None
    except OddPairError as error:
        return "failed", str(error), None
    except Exception:
        _log.exception("job %s of kind %s failed", job_id, kind)
        return (
            "failed",
            "An unexpected error stopped this work; nothing of it was kept. The server's log says more.",
            None,
        )


def _note_end(sessions: SessionFactory, job_id: int, outcome: Outcome, stop: Event) -> None:
    """Write down how a job ended, again and again while the database does not answer."""
    deadline, pause = time.monotonic() + _KEEP_NOTING_S, _FIRST_PAUSE_S
    while True:
        try:
            with transaction(sessions) as session:
                if outcome[0] == _AGAIN:
                    work.begin_again(session, job_id, outcome[1])
                else:
                    work.end(session, job_id, *outcome)
            return
        except OddPairError:
            if time.monotonic() > deadline or stop.wait(pause):
                _log.exception("the end of job %s could not be noted; it is run again at the next start", job_id)
                return
            pause = min(pause * 2, _LONGEST_PAUSE_S)


def run_job(
    sessions: SessionFactory,
    settings: Settings,
    job_id: int,
    stop: Event | None = None,
    directories: Directories | None = None,
) -> None:
    """Run one job that was claimed, and write down what came of it; ``directories`` are those that the process keeps."""
    with transaction(sessions) as session:
        job = work.job_by_id(session, job_id)
        kind, arguments = job.kind, dict(job.arguments)
    reporter = _Reporter(sessions, settings, job_id)
    context = Context(sessions, settings, reporter, job_id, directories or Directories(settings.kept))
    outcome = _outcome(kind, arguments, context, job_id)
    _note_end(sessions, job_id, outcome, stop or Event())
    if kind in _CHANGE_RECORDS and outcome[0] == "done":
        _follow(sessions, job_id)


def _follow(sessions: SessionFactory, job_id: int) -> None:
    """Ask for what follows the records of a register, which have changed."""
    with suppress(OddPairError), transaction(sessions) as session:
        lists.follow(session, work.job_with_slug(session, job_id)[1])
