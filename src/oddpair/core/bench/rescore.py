"""Scores of held pairs by an edited plan, from comparison levels that are kept.

Only what an edit concerns is computed anew: a changed comparison is measured, everything else is weighed again. What decided pairs and
data taught of comparisons that are still the same, and what the contest for partners added to a pair, stay as the last match left
them; the next one settles both.
"""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..compare.base import Bits, Levels, Measured
from ..plan import ComparisonRule, MatchPlan
from ..records import RecordSet
from ..scoring import Calibration, Correction, ScoredPairs, Scorer
from ..workshop import KeepingWorkshop, rule_identity
from .held import HeldPairs, Settlement

_THREADS = 2
#: What the shares of levels of a comparison are learned from; weights by hand and what decisions taught are laid on top.
_OF_LEARNING = {"field", "using", "options", "among_same", "among_related"}


@dataclass(frozen=True, slots=True)
class Rescored:
    """Held pairs scored by a plan: ``scored``, and per comparison (row) and pair (column) its evidence in bits.

    ``measured_again`` names the comparisons whose levels were not kept.
    """

    plan: MatchPlan
    scored: ScoredPairs
    evidence: Bits
    beside: Bits
    relatives: Bits
    measured_again: tuple[str, ...]

    @property
    def free_bits(self) -> Bits:
        """Return the scores before any condition or veto."""
        return np.asarray(self.evidence.sum(axis=0) + self.beside + self.relatives, dtype=np.float32)

    @property
    def calibration(self) -> Calibration:
        """Return how the plan turns scores into probabilities, before any decision."""
        return Calibration(**self.plan.probabilities.model_dump())

    @property
    def same(self) -> npt.NDArray[np.bool_]:
        """Return which pairs reach the upper limit."""
        return (self.scored.bits >= self.plan.limits.same) & ~self.scored.vetoed

    @property
    def unsure(self) -> npt.NDArray[np.bool_]:
        """Return which pairs are in doubt."""
        limits = self.plan.limits
        return (self.scored.bits >= limits.unsure) & (self.scored.bits < limits.same) & ~self.scored.vetoed


class Rescorer:
    """Scores the held pairs of one pass by plan after plan; what it measured it keeps."""

    def __init__(self, records: RecordSet, held: HeldPairs, workshop: KeepingWorkshop) -> None:
        self.records, self.held, self._workshop = records, held, workshop
        self._rows: dict[bytes, Measured] = {}
        self._stacked: tuple[tuple[bytes, ...], Measured] | None = None

    def settled_by(self, settlement: Settlement) -> "Rescorer":
        """Return a rescorer of the same pairs, whose levels both keep, with what another match settled of them."""
        other = Rescorer(self.records, self.held.settled_by(settlement), self._workshop)
        other._rows = self._rows
        return other

    @property
    def kept_bytes(self) -> int:
        """Return how many bytes of levels are kept."""
        return sum(row.levels.nbytes + row.shared.nbytes for row in self._rows.values())

    def rescore(self, plan: MatchPlan) -> Rescored:
        """Return the scores of the held pairs by a plan of a single pass."""
        held = self.held
        measured, again = self._measured(plan)
        scorer = self.scorer(plan)

        def part(rows: slice) -> tuple[ScoredPairs, Bits, Bits, Bits]:
            left, right = held.left[rows], held.right[rows]
            parts = scorer.parts_of(Measured(measured.levels[:, rows], measured.shared[:, rows]), left, right)
            bits = parts.bits + held.contest[rows]
            undecided = np.full(len(bits), -1, dtype=np.int8)
            settled = scorer.by_conditions(
                ScoredPairs(bits, parts.levels, scorer.vetoed(parts.levels), undecided), bits
            )
            return settled, parts.evidence, parts.starting + held.contest[rows], parts.relatives

        middle = len(held) // 2
        with ThreadPoolExecutor(_THREADS) as pool:
            one, other = pool.map(part, (slice(0, middle), slice(middle, len(held))))
        return Rescored(
            plan, one[0].joined(other[0]), np.concatenate((one[1], other[1]), axis=1),
            np.concatenate((one[2], other[2])), np.concatenate((one[3], other[3])), again,
        )  # fmt: skip

    def scorer(self, plan: MatchPlan) -> Scorer:
        """Return the scorer of a plan, with what was learned of comparisons that are still the same."""
        held, settled = self.held, self.held.settlement
        scorer = Scorer(self.records, plan, taking_part=held.taking_part, prepare=self._workshop.measure_of)
        if plan.weights.estimate == settled.plan.weights.estimate:
            before = {rule.name: rule for rule in settled.plan.comparisons}
            shares = [
                settled.learned[rule.name] if _learn_alike(rule, before.get(rule.name)) else by_chance
                for rule, by_chance in zip(plan.comparisons, scorer.shares, strict=True)
            ]
            scorer.learn(shares, settled.matches_per_record, settled.relatives_per_record)
        if settled.correction is not None:
            scorer.correct(settled.starts, self._correction(plan, settled.correction))
        return scorer

    def _correction(self, plan: MatchPlan, before: Correction) -> Correction:
        """Return the correction of the held pairs for the comparisons of another plan; those that are new go uncorrected."""
        rows = {rule.name: number for number, rule in enumerate(self.held.plan.comparisons)}
        width = max(before.offsets.shape[1], 32)
        slopes = np.ones(len(plan.comparisons), dtype=np.float32)
        offsets = np.zeros((len(plan.comparisons), width), dtype=np.float32)
        for number, rule in enumerate(plan.comparisons):
            row = rows.get(rule.name)
            if row is not None and self.held.plan.comparisons[row].using == rule.using:
                slopes[number] = before.slopes[row]
                offsets[number, : before.offsets.shape[1]] = before.offsets[row]
        return Correction(slopes, offsets, before.between)

    def _measured(self, plan: MatchPlan) -> tuple[Measured, tuple[str, ...]]:
        identities = tuple(self._identity(rule) for rule in plan.comparisons)
        again = []
        for rule, identity in zip(plan.comparisons, identities, strict=True):
            if identity not in self._rows:
                again.append(rule.name)
                self._rows[identity] = self._measure(rule)
        if self._stacked is None or self._stacked[0] != identities:
            rows = [self._rows[identity] for identity in identities]
            stacked = Measured(np.stack([row.levels for row in rows]), np.stack([row.shared for row in rows]))
            self._stacked = (identities, stacked)
        return self._stacked[1], tuple(again)

    def _identity(self, rule: ComparisonRule) -> bytes:
        # Weights do not make levels; of several values the two that counted before go on to count.
        return rule_identity(rule.model_copy(update={"among_same": {}, "bits": {}, "strength": 1.0}), self.records)

    def _measure(self, rule: ComparisonRule) -> Measured:
        measure = self._workshop.measure_of(rule, self.records)
        left, right = self.held.left, self.held.right
        middle = len(left) // 2
        with ThreadPoolExecutor(_THREADS) as pool:
            halves = list(pool.map(
                lambda rows: measure(left[rows], right[rows]), (slice(0, middle), slice(middle, len(left)))
            ))  # fmt: skip
        levels: Levels = np.concatenate([half.levels for half in halves])
        return Measured(levels, np.concatenate([half.shared for half in halves]))


def _learn_alike(rule: ComparisonRule, before: ComparisonRule | None) -> bool:
    """Whether data teach the same of a comparison as of the one of this name before."""
    return before is not None and rule.model_dump(include=_OF_LEARNING) == before.model_dump(include=_OF_LEARNING)
