"""The scorer: comparisons prepared for one set of records, weights of their levels, vetoes, conditions and bands."""

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import nullcontext
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from ..compare import comparison
from ..compare.base import Bits, Levels, Measure, Measured
from ..plan import ComparisonRule, MatchPlan
from ..records import IntArray, RecordSet
from .conditions import apply_conditions
from .several_values import prepare_rule
from .weights import (
    LevelShares,
    correct_evidence,
    expected_shares,
    measured_different,
    starting_bits,
    taken_by_relatives,
    weigh,
    weight_table,
)

#: Random pairs on which chance agreement is measured, at most.
_RANDOM_PAIRS = 100_000
_SEED = 1
_THREADS = 2
#: Comparisons of few records are prepared more quickly than threads are started.
_FEW_RECORDS = 2_000


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

    def at(self, pairs: npt.NDArray[np.bool_] | npt.NDArray[np.intp] | slice) -> "ScoredPairs":
        """Return the scores of some of the pairs."""
        return ScoredPairs(self.bits[pairs], self.levels[:, pairs], self.vetoed[pairs], self.condition[pairs])

    def joined(self, more: "ScoredPairs") -> "ScoredPairs":
        """Return these pairs and behind them others with as many comparisons."""
        return ScoredPairs(
            np.concatenate((self.bits, more.bits)), np.concatenate((self.levels, more.levels), axis=1),
            np.concatenate((self.vetoed, more.vetoed)), np.concatenate((self.condition, more.condition)),
        )  # fmt: skip


def probability(bits: npt.NDArray[np.float32]) -> npt.NDArray[np.float64]:
    """Return the probability that a pair is the same, for scores in log2 odds."""
    return 1.0 / (1.0 + np.exp2(-np.clip(bits.astype(np.float64), -60, 60)))


@dataclass(frozen=True, slots=True)
class Parts:
    """What scores are made of: ``levels`` and ``evidence`` have a row per comparison and a column per pair; per pair there is where
    its score starts and what ``relatives`` take from it."""

    levels: Levels
    evidence: Bits
    starting: Bits
    relatives: Bits

    @property
    def bits(self) -> Bits:
        """Return the scores."""
        return np.asarray(self.evidence.sum(axis=0) + self.starting + self.relatives, dtype=np.float32)


@dataclass(frozen=True, slots=True)
class Correction:
    """How evidence is corrected between some sources: ``slopes`` per comparison, ``offsets`` in bits per comparison and level; ``between``
    says between which sources (a symmetric matrix)."""

    slopes: Bits
    offsets: Bits
    between: npt.NDArray[np.bool_]


class Scorer:
    """Scores pairs of one set of tidy records by one plan; safe to use from several threads.

    ``shares`` and ``matches_per_record`` are what has been learned of the data; without them the plan's expectations hold,
    with chance agreement measured on random pairs. ``starts`` says where scores start, for every two sources.
    """

    starts: Bits

    def __init__(
        self, records: RecordSet, plan: MatchPlan, *, taking_part: int | None = None,
        prepare: Callable[[ComparisonRule, RecordSet], Measure] = prepare_rule, shares: Sequence[LevelShares] = (),
    ) -> None:  # fmt: skip
        """Prepare the comparisons of ``plan``; how common a value is, all records tell, how likely a pair is beforehand, those
        ``taking_part`` (all, where no number is given). ``prepare`` makes the measure of a comparison, or gives one that was kept;
        ``shares`` are those of levels where they are known already."""
        self.plan = plan
        self._records = records
        self._taking_part = len(records) if taking_part is None else taking_part
        with ThreadPoolExecutor(_THREADS) if len(records) > _FEW_RECORDS else nullcontext() as pool:
            prepared = pool.map if pool else map
            self._measures = list(prepared(lambda rule: prepare(rule, records), plan.comparisons))
        self.correction: Correction | None = None
        self.matches_per_record = plan.weights.matches_per_record
        self.relatives_per_record = plan.weights.relatives_per_record
        self.shares = list(shares) or self._shares_by_chance()
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
        self.table = weight_table(self.plan, self.shares)
        sources = len(self._records.sources)
        self.starts = np.full(
            (sources, sources), starting_bits(self._taking_part, self.matches_per_record), dtype=np.float32
        )

    def learn(self, shares: Sequence[LevelShares], matches_per_record: float, relatives_per_record: float) -> None:
        """Take over what was learned of the data."""
        self.shares = list(shares)
        self.matches_per_record, self.relatives_per_record = matches_per_record, relatives_per_record
        self._set_table()

    def correct(self, starts: Bits, correction: Correction) -> None:
        """Take over where scores start between every two sources, and how evidence is corrected between some of them."""
        self.starts = starts.astype(np.float32)
        self.correction = correction

    def measure(self, left: IntArray, right: IntArray) -> Measured:
        """Return the levels and the shared information of pairs: one row per comparison, one column per pair."""
        levels = np.empty((len(self._measures), len(left)), dtype=np.int8)
        shared = np.empty((len(self._measures), len(left)), dtype=np.float32)
        for row, measure in enumerate(self._measures):
            levels[row], shared[row] = measure(left, right)
        return Measured(levels, shared)

    def score(self, left: IntArray, right: IntArray) -> ScoredPairs:
        """Return the scores of the pairs ``(left[k], right[k])``; the order within a pair does not matter."""
        return self.scored(self.parts(left, right))

    def score_within_clusters(self, left: IntArray, right: IntArray) -> ScoredPairs:
        """Return the scores of pairs as clusters take them: those that would be the same, did not what they differ in tell them for
        relatives, count as vetoed, so that no third record joins them, and so do those that a condition keeps apart. Other conditions
        speak of their own pair alone.
        """
        parts = self.parts(left, right)
        scored = self.scored(parts)
        limits = self.plan.limits
        # Who reaches the upper limit in spite of what relatives share is no relative.
        below = min(self.plan.clustering.relatives_below, limits.same)
        related = (parts.bits < below) & (parts.bits - parts.relatives >= limits.same)
        apart = [number for number, condition in enumerate(self.plan.conditions) if condition.then == "kept apart"]
        vetoed = scored.vetoed | related | np.isin(scored.condition, apart)
        return ScoredPairs(scored.bits, scored.levels, vetoed, scored.condition)

    def scored(self, parts: Parts) -> ScoredPairs:
        """Return the scores that parts add up to, with vetoes and conditions."""
        bits = parts.bits
        undecided = np.full(len(bits), -1, dtype=np.int8)
        return self.by_conditions(ScoredPairs(bits, parts.levels, self.vetoed(parts.levels), undecided), bits)

    def vetoed(self, levels: Levels) -> npt.NDArray[np.bool_]:
        """Return which pairs a veto forbids."""
        vetoed = np.zeros(levels.shape[1], dtype=np.bool_)
        for row, level in self._vetoes:
            vetoed |= levels[row] == level
        return vetoed

    def may_be_vetoed(self) -> npt.NDArray[np.bool_]:
        """Return which records a veto or a contradicting condition can concern: those that hold what it compares."""
        if any(condition.then in ("different", "kept apart") for condition in self.plan.conditions):
            return np.ones(len(self._records), dtype=np.bool_)
        concerned = np.zeros(len(self._records), dtype=np.bool_)
        for row, _ in self._vetoes:
            field = self.plan.comparisons[row].field
            for name, column in self._records.columns.items():
                if name.partition("#")[0] == field or name.startswith(f"{field}."):
                    concerned |= column.codes >= 0
        return concerned

    def parts(self, left: IntArray, right: IntArray) -> Parts:
        """Return what the scores of pairs are made of, before any condition of the plan."""
        return self.parts_of(self.measure(left, right), left, right)

    def parts_of(self, measured: Measured, left: IntArray, right: IntArray) -> Parts:
        """Return what the scores of measured pairs are made of, before any condition of the plan."""
        starting = self.starting(left, right)
        weighed = weigh(self.table, *measured, starting)
        first = starting_bits(self._taking_part, self.matches_per_record)
        by_relation = np.float32(np.log2(self.matches_per_record / self.relatives_per_record) - first) + starting
        by_chance = weighed.evidence.sum(axis=0) + starting
        relatives = taken_by_relatives(by_chance, weighed.against_relatives + by_relation)
        return Parts(
            measured.levels, self._corrected(left, right, measured.levels, weighed.evidence), starting, relatives
        )

    def _corrected(self, left: IntArray, right: IntArray, levels: Levels, evidence: Bits) -> Bits:
        if self.correction is not None:
            sources, correction = self._records.source_codes, self.correction
            concerned = correction.between[sources[left], sources[right]]
            correct_evidence(levels, correction.slopes, correction.offsets, concerned, evidence)
        return evidence

    def starting(self, left: IntArray, right: IntArray) -> Bits:
        """Return where the scores of pairs start: the log2 odds before anything is compared, by their two sources."""
        sources = self._records.source_codes
        return self.starts[sources[left], sources[right]]

    def same(self, scored: ScoredPairs) -> npt.NDArray[np.bool_]:
        """Return which pairs reach the upper limit; a vetoed pair is different whatever its score."""
        return (scored.bits >= self.plan.limits.same) & ~scored.vetoed

    def kept(self, scored: ScoredPairs, below: float = 0.0) -> npt.NDArray[np.bool_]:
        """Return which pairs reach the lower limit, or come within ``below`` bits of it: those that are the same or in doubt."""
        return (scored.bits >= self.plan.limits.unsure - below) & ~scored.vetoed

    def by_conditions(self, scored: ScoredPairs, bits: Bits) -> ScoredPairs:
        """Return scored pairs with other ``bits``, moved again to where the plan's conditions say."""
        if not self.plan.conditions:
            return ScoredPairs(bits, scored.levels, scored.vetoed, scored.condition)
        bits, forbidden, condition = apply_conditions(self.plan, scored.levels, bits)
        return ScoredPairs(bits, scored.levels, scored.vetoed | forbidden, condition)
