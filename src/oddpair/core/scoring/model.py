"""The scorer: comparisons prepared for one set of records, weights of their levels, vetoes, conditions and bands."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from ..compare import comparison
from ..compare.base import Bits, Levels, Measured
from ..plan import MatchPlan
from ..records import IntArray, RecordSet
from .conditions import apply_conditions
from .several_values import prepare_rule
from .weights import (
    LevelShares,
    evidence_rows,
    expected_shares,
    measured_different,
    starting_bits,
    weight_table,
)

#: Random pairs on which chance agreement is measured, at most.
_RANDOM_PAIRS = 100_000
_SEED = 1


class Band(StrEnum):
    """What the score of a pair means, by the two limits of the plan."""

    SAME = "same"
    UNSURE = "unsure"
    DIFFERENT = "different"


@dataclass(frozen=True, slots=True)
class ScoredPairs:
    """Scores of pairs: total ``bits``, ``levels`` (one row per comparison), whether the pair is ``vetoed``, and the number of
    the ``condition`` that decided it (-1 where the evidence did)."""

    bits: Bits
    levels: Levels
    vetoed: npt.NDArray[np.bool_]
    condition: npt.NDArray[np.int8]


def probability(bits: npt.NDArray[np.float32]) -> npt.NDArray[np.float64]:
    """Return the probability that a pair is the same, for scores in log2 odds."""
    return 1.0 / (1.0 + np.exp2(-np.clip(bits.astype(np.float64), -60, 60)))


class Scorer:
    """Scores pairs of one set of tidy records by one plan; safe to use from several threads.

    ``shares`` and ``matches_per_record`` are what has been learned of the data; without them the plan's expectations hold,
    with chance agreement measured on random pairs.
    """

    def __init__(self, records: RecordSet, plan: MatchPlan) -> None:
        self.plan = plan
        self._records = records
        self._measures = [prepare_rule(rule, records) for rule in plan.comparisons]
        self.matches_per_record = plan.weights.matches_per_record
        self.shares = self._shares_by_chance()
        self._set_table()
        names = [rule.name for rule in plan.comparisons]
        self._vetoes = [
            (
                names.index(veto.field),
                comparison(plan.comparisons[names.index(veto.field)].using).level_number(veto.level),
            )
            for veto in plan.vetoes
        ]

    def _shares_by_chance(self) -> list[LevelShares]:
        random = np.random.default_rng(_SEED)
        count = len(self._records)
        size = min(_RANDOM_PAIRS, count * 40)
        left = random.integers(0, max(count, 1), size, dtype=np.int32)
        right = ((left + random.integers(1, max(count, 2), size)) % max(count, 1)).astype(np.int32)
        shares = []
        for rule, measure in zip(self.plan.comparisons, self._measures, strict=True):
            levels = measure(left, right).levels if count > 1 else np.zeros(0, dtype=np.int8)
            counts = np.bincount(levels, minlength=len(comparison(rule.using).levels)).astype(np.int64)
            shares.append(measured_different(rule, expected_shares(rule), counts))
        return shares

    def _set_table(self) -> None:
        self.table = weight_table(self.plan, self.shares, starting_bits(len(self._records), self.matches_per_record))

    def learn(self, shares: Sequence[LevelShares], matches_per_record: float) -> None:
        """Take over what was learned of the data."""
        self.shares = list(shares)
        self.matches_per_record = matches_per_record
        self._set_table()

    def measure(self, left: IntArray, right: IntArray) -> Measured:
        """Return the levels and the shared information of pairs: one row per comparison, one column per pair."""
        levels = np.empty((len(self._measures), len(left)), dtype=np.int8)
        shared = np.empty((len(self._measures), len(left)), dtype=np.float32)
        for row, measure in enumerate(self._measures):
            levels[row], shared[row] = measure(left, right)
        return Measured(levels, shared)

    def score(self, left: IntArray, right: IntArray) -> ScoredPairs:
        """Return the scores of the pairs ``(left[k], right[k])``; the order within a pair does not matter."""
        measured = self.measure(left, right)
        bits = evidence_rows(self.table, *measured).sum(axis=0) + np.float32(self.table.starting)
        vetoed = self.vetoed(measured.levels)
        if not self.plan.conditions:
            return ScoredPairs(bits, measured.levels, vetoed, np.full(len(bits), -1, dtype=np.int8))
        bits, forbidden, condition = apply_conditions(self.plan, measured.levels, bits)
        return ScoredPairs(bits, measured.levels, vetoed | forbidden, condition)

    def vetoed(self, levels: Levels) -> npt.NDArray[np.bool_]:
        """Return which pairs a veto forbids."""
        vetoed = np.zeros(levels.shape[1], dtype=np.bool_)
        for row, level in self._vetoes:
            vetoed |= levels[row] == level
        return vetoed

    def may_be_vetoed(self) -> npt.NDArray[np.bool_]:
        """Return which records a veto or a contradicting condition can concern: those that hold what it compares."""
        if any(condition.then == "different" for condition in self.plan.conditions):
            return np.ones(len(self._records), dtype=np.bool_)
        concerned = np.zeros(len(self._records), dtype=np.bool_)
        for row, _ in self._vetoes:
            field = self.plan.comparisons[row].field
            for name, column in self._records.columns.items():
                if name.partition("#")[0] == field or name.startswith(f"{field}."):
                    concerned |= column.codes >= 0
        return concerned

    def evidence(self, left: IntArray, right: IntArray) -> Bits:
        """Return the bits of every comparison (rows) for pairs (columns); with the starting bits, columns add up to the score."""
        return evidence_rows(self.table, *self.measure(left, right))

    def same(self, scored: ScoredPairs) -> npt.NDArray[np.bool_]:
        """Return which pairs reach the upper limit; a vetoed pair is different whatever its score."""
        return (scored.bits >= self.plan.limits.same) & ~scored.vetoed

    def kept(self, scored: ScoredPairs) -> npt.NDArray[np.bool_]:
        """Return which pairs reach the lower limit: those that are the same or in doubt."""
        return (scored.bits >= self.plan.limits.unsure) & ~scored.vetoed
