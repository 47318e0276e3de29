"""The benches of this process: one per register that somebody works on, warmed with its records, as many as memory allows.

Nothing here outlives the process or is the only place where something is known: a bench that is gone is warmed again.
"""

from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from threading import Event, Lock
from time import perf_counter

from ...core.bench import Bench, BenchInput
from ...core.errors import Busy, Cancelled, OddPairError
from ..match.numbers import Numbers
from ..match.run_plan import MatchInput, Trial, read_match_input
from ..transactions import SessionFactory, transaction

Progress = Callable[[str, int, int], None]
#: What is told of work that somebody stopped.
CANCELLED = "Cancelled."
#: So many records of all benches together are held, however many registers there are: about one GiB of tidy values.
_MOST_RECORDS = 1_500_000


@dataclass(slots=True)
class Doing:
    """What a bench is doing, or did last: settling a plan or other work by its name, how far it is, and what went wrong."""

    plan: str = ""
    stage: str = ""
    done: int = 0
    total: int = 0
    running: bool = False
    seconds: float = 0.0
    error: str = ""


@dataclass(slots=True)
class BenchOfRegister:
    """The bench of one register, with the ids of its records and the state of the register that it was read in."""

    bench: Bench
    ids: Numbers
    records_version: int
    related: tuple[str, ...]


class Benches:
    """Warms benches, settles plans on them one at a time, and answers meanwhile; safe to use from several threads."""

    def __init__(self, sessions: SessionFactory, kept: Path, *, most_records: int = _MOST_RECORDS) -> None:
        self.sessions, self._kept, self._most_records = sessions, kept, most_records
        self._benches: OrderedDict[str, BenchOfRegister] = OrderedDict()
        self._doing: dict[str, Doing] = {}
        self._stops: dict[str, Event] = {}
        self._lock = Lock()
        self._worker = ThreadPoolExecutor(1, thread_name_prefix="bench")

    def doing(self, slug: str) -> Doing:
        """Return what the bench of a register is doing, or did last."""
        with self._lock:
            return replace(self._doing.get(slug, Doing()))

    def warm(self, slug: str) -> BenchOfRegister | None:
        """Return the bench of a register, or None as long as it is not warm."""
        with self._lock:
            found = self._benches.get(slug)
        return found if found and found.bench.is_warm else None

    def needed(self, slug: str) -> BenchOfRegister:
        """Return the bench of a register; raise Busy as long as it is not warm."""
        found = self.warm(slug)
        if found is None:
            doing = self.doing(slug)
            raise Busy(doing.error or "The bench is not warm yet")
        return found

    def settle(self, slug: str, yaml: str, *, hold: bool = True) -> None:
        """Begin to settle a plan in the background; what was being done before is cancelled."""

        def work(progress: Progress) -> None:
            progress("read records", 0, 0)
            with transaction(self.sessions) as session:
                given = read_match_input(session, slug, tidy=True, trial=Trial("", yaml), kept=self._kept)
            own = self._bench_for(slug, given)
            own.bench.settle(given.plan, progress, hold_pairs=hold)

        self.begin(slug, yaml, work)

    def begin(self, slug: str, name: str, work: Callable[[Progress], None]) -> None:
        """Begin some work on the bench of a register in the background; what was being done before is cancelled."""
        stop = Event()
        with self._lock:
            before = self._stops.get(slug)
            if before is not None:
                before.set()
            self._stops[slug] = stop
            self._doing[slug] = Doing(plan=name, stage="wait", running=True)
        self._worker.submit(self._do, slug, name, work, stop)

    def cancel(self, slug: str) -> None:
        """Stop what is being settled; what was settled before stays."""
        with self._lock:
            if slug in self._stops:
                self._stops[slug].set()

    def close(self) -> None:
        """Stop all work."""
        with self._lock:
            for stop in self._stops.values():
                stop.set()
        self._worker.shutdown(cancel_futures=True)

    def _do(self, slug: str, name: str, work: Callable[[Progress], None], stop: Event) -> None:
        started = perf_counter()

        def progress(stage: str, done: int, total: int) -> None:
            if stop.is_set():
                raise Cancelled("what was settled before stays")
            with self._lock:
                if self._stops.get(slug) is stop:
                    self._doing[slug] = Doing(name, stage, done, total, True, perf_counter() - started)

        error = ""
        try:
            progress("wait", 0, 0)
            work(progress)
        except Cancelled:
            error = CANCELLED
        except OddPairError as trouble:
            error = str(trouble)
        except Exception as trouble:  # The bench must go on answering, and say that this failed.
            error = f"An unexpected error: {type(trouble).__name__}."
            raise
        finally:
            with self._lock:
                if self._stops.get(slug) is stop:
                    self._doing[slug] = Doing(name, seconds=perf_counter() - started, error=error)

    def _bench_for(self, slug: str, given: MatchInput) -> BenchOfRegister:
        """Return the bench of a register as it is now: the one that is there, if the records have not changed."""
        asked = BenchInput(given.records, given.decisions, tuple(given.promised), given.known)
        related = tuple(one.model_dump_json() for one in given.plan.related)
        with self._lock:
            found = self._benches.get(slug)
            if found is not None and (found.records_version, found.related) == (given.records_version, related):
                found.bench.take(asked)
                self._benches.move_to_end(slug)
                return found
            own = BenchOfRegister(Bench(asked), given.ids, given.records_version, related)
            self._benches[slug] = own
            self._benches.move_to_end(slug)
            while len(self._benches) > 1 and sum(len(one.ids) for one in self._benches.values()) > self._most_records:
                self._benches.popitem(last=False)
            return own
