"""The bench: a plan is tried on held pairs at once, and settled by a whole match that keeps what it can.

``settle`` runs the match itself, ``pipeline.run``, with a workshop that keeps what was made before: its figures are those of a run.
``redraw`` scores the pairs that the last settled match held, from kept levels: an answer within a blink, exact but for what only a match
can tell (what is learned anew, which partners contest each other, pairs of blocks that did not exist).
"""

from collections import OrderedDict
from dataclasses import dataclass, replace
from threading import RLock

import numpy as np
import numpy.typing as npt

from ..blocking import BlockIndex
from ..clustering import Decisions
from ..pipeline import MatchResult, own_duplicates_of, run, sources_that_meet
from ..plan import MatchPlan
from ..records import IntArray, RecordSet
from ..scope import Known, sides_of_scope
from ..scoring import Scorer
from ..tidying import Progress
from ..workshop import KeepingWorkshop
from .held import SAMPLING, HeldPairs, Settlement, hold, settlement_of
from .rescore import Rescored, Rescorer

#: Levels of pairs that only a whole match needs are kept in so many bytes; so many pairs are held, at most.
_KEPT_BYTES, MOST_HELD = 256_000_000, 2_000_000
#: Settled matches that are kept: of the plan in force, of the draft, and of one more.
_MOST_SETTLED = 3


@dataclass(frozen=True, slots=True)
class BenchInput:
    """What is matched on the bench: tidy records and all that a run would know of them."""

    records: RecordSet
    decisions: Decisions
    promised: tuple[str, ...]
    known: Known | None


@dataclass(frozen=True, slots=True)
class Redrawn:
    """Held pairs of one pass, scored by a plan; ``others_blocks`` says that the plan brings up other pairs than those held."""

    held: HeldPairs
    rescored: Rescored
    others_blocks: bool


class Bench:
    """Tries plans on one set of records; safe to use from several threads."""

    def __init__(self, given: BenchInput) -> None:
        self.given = given
        self._workshop = KeepingWorkshop(_KEPT_BYTES)
        self._settled: OrderedDict[str, MatchResult] = OrderedDict()
        self._rescorers: list[Rescorer] = []
        #: What the match of a plan, by its name, settled as if nobody had decided anything.
        self._undecided: tuple[str, tuple[Settlement, ...]] = ("", ())
        #: The same held pairs with what the match of another plan settled, by its name and the number of the pass.
        self._others: dict[tuple[str, int], Rescorer] = {}
        self._lock = RLock()

    def take(self, given: BenchInput) -> None:
        """Take over what is decided and promised now; the records must be the same, and those that were given first stay."""
        given = replace(given, records=self.given.records)
        with self._lock:
            alike = given.promised == self.given.promised and (_told(given.decisions), given.known is None) == (
                _told(self.given.decisions),
                self.given.known is None,
            )
            if not alike or given.known is not None:
                self._settled.clear()
                self._others.clear()
            if given.promised != self.given.promised or given.known is not None:
                self._undecided = ("", ())
            self.given = given

    @property
    def kept_bytes(self) -> int:
        """Return how many bytes of levels are kept."""
        return self._workshop.kept_bytes + sum(one.kept_bytes for one in self._rescorers)

    @property
    def records(self) -> RecordSet:
        """Return the tidy records, with what all of them together teach."""
        return self._workshop.finished(self.given.records)

    @property
    def is_warm(self) -> bool:
        """Whether pairs are held."""
        return bool(self._rescorers)

    def settle(self, plan: MatchPlan, progress: Progress | None = None, *, hold_pairs: bool = True) -> MatchResult:
        """Return what a run of the plan finds; hold its pairs from now on, if asked to. ``progress`` may raise Cancelled."""
        found = self.settled(plan)
        if found is None or (hold_pairs and not self._holds(plan)):
            given = self.given
            found = run(
                given.records, plan, decisions=given.decisions, without_duplicates=given.promised, are_tidy=True, known=given.known,
                progress=progress, workshop=self._workshop, sampling=SAMPLING,
            )  # fmt: skip
            if hold_pairs:
                self._hold(found)
        with self._lock:
            self._settled[_name(plan)] = found
            self._settled.move_to_end(_name(plan))
            while len(self._settled) > _MOST_SETTLED:
                gone, _ = self._settled.popitem(last=False)
                for key in [key for key in self._others if key[0] == gone]:
                    del self._others[key]
        return found

    def settle_undecided(self, plan: MatchPlan, progress: Progress | None = None) -> None:
        """Match by a plan as if nobody had decided anything: what decisions say of a plan can only be told where they have no part in its
        scores. ``progress`` may raise Cancelled."""
        given = self.given
        found = run(
            given.records, plan, without_duplicates=given.promised, are_tidy=True, known=given.known, progress=progress,
            workshop=self._workshop,
        )  # fmt: skip
        with self._lock:
            self._undecided = (_name(plan), tuple(settlement_of(one) for one in found.passes))
            self._others.clear()

    def knows_undecided(self, plan: MatchPlan) -> bool:
        """Whether it is known how a plan matches as if nobody had decided anything."""
        with self._lock:
            return self._undecided[0] == _name(plan)

    def settled(self, plan: MatchPlan) -> MatchResult | None:
        """Return what the match of a plan found, if it is still known."""
        with self._lock:
            return self._settled.get(_name(plan))

    def redraw(self, plan: MatchPlan, number: int = 0, *, undecided: bool = False) -> Redrawn:
        """Return the pairs held of a pass (the last one, where fewer are), scored as pass ``number`` of the plan does.

        What only a match tells is that of the plan's own, if it was settled, else of the one that was settled last; ``undecided`` takes
        that of the match as if nobody had decided anything.
        """
        rescorer = self._rescorer(plan, number, undecided)
        own = _of_pass(plan, number)
        blocking, before = own.blocking, rescorer.held.plan.blocking
        return Redrawn(rescorer.held, rescorer.rescore(own), blocking != before)

    def redraw_pairs(
        self, plan: MatchPlan, number: int, left: IntArray, right: IntArray, *, undecided: bool = False
    ) -> Redrawn:
        """Return any pairs, ``left`` < ``right``, scored as ``redraw`` scores those that are held."""
        rescorer = self._rescorer(plan, number, undecided)
        ones = np.ones(len(left), dtype=np.float32)
        contest = rescorer.held.settlement.contest_of(left, right)
        held = replace(rescorer.held, left=left, right=right, weight=ones, contest=contest)
        rescored = Rescorer(rescorer.records, held, self._workshop).rescore(_of_pass(plan, number))
        return Redrawn(held, rescored, others_blocks=False)

    def scorer(self, plan: MatchPlan, number: int = 0) -> Scorer:
        """Return the scorer of pass ``number`` of the plan, with what was learned of the records."""
        return self._rescorer(plan, number, undecided=False).scorer(_of_pass(plan, number))

    def blocks(self, plan: MatchPlan, number: int = 0) -> BlockIndex:
        """Return the blocks of pass ``number`` of the plan."""
        own = _of_pass(plan, number)
        sides = sides_of_scope(self.records, own.scope, self.given.known)
        return self._workshop.index(self.records, own, sides, lambda stage, done, total: None)

    def meets(self, plan: MatchPlan, number: int = 0) -> npt.NDArray[np.bool_]:
        """Return which sources are compared with which in pass ``number`` of the plan."""
        own = _of_pass(plan, number)
        free = own_duplicates_of(self.given.records, self.given.promised) & ~np.bool_(own.scope.one_to_one)
        return sources_that_meet(self.given.records, own, free, set())

    def _rescorer(self, plan: MatchPlan, number: int, undecided: bool) -> Rescorer:
        """Return what scores the held pairs of a pass, with what the match settled that counts for it."""
        with self._lock:
            held = self._rescorers[min(number, len(self._rescorers) - 1)]
            if undecided:
                _, settled = self._undecided
                if number >= len(settled):
                    return held
                return self._settled_otherwise(held, ("undecided", number), settled[number])
            found = self._settled.get(_name(plan))
            if found is None or number >= len(found.passes) or found.passes[number].plan == held.held.plan:
                return held
            return self._settled_otherwise(held, (_name(plan), number), settlement_of(found.passes[number]))

    def _settled_otherwise(self, held: Rescorer, key: tuple[str, int], settlement: Settlement) -> Rescorer:
        if key not in self._others:
            self._others[key] = held.settled_by(settlement)
        return self._others[key]

    def _holds(self, plan: MatchPlan) -> bool:
        own = [one for _, one in plan.in_order()]
        with self._lock:
            return [rescorer.held.plan for rescorer in self._rescorers] == own

    def _hold(self, found: MatchResult) -> None:
        rescorers = []
        for one in found.passes:
            taking_part = int((one.outcomes > 0).sum())
            held = hold(one, taking_part, MOST_HELD)
            rescorers.append(Rescorer(found.records, held, self._workshop))
        with self._lock:
            self._rescorers = rescorers
            self._others.clear()


def _told(decisions: Decisions) -> tuple[bytes, bytes]:
    return decisions.same.tobytes(), decisions.different.tobytes()


def _of_pass(plan: MatchPlan, number: int) -> MatchPlan:
    """Return what pass ``number`` of a plan amounts to; the last one, where it has fewer."""
    return plan.of_pass(min(number, len(plan.in_order()) - 1))


def _name(plan: MatchPlan) -> str:
    """Return what tells a plan from others."""
    return plan.model_dump_json()
