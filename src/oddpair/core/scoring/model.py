"""The scorer: comparisons prepared for one set of records, weights of their levels, rarity, vetoes and bands.

Evidence follows I. P. Fellegi and A. B. Sunter, "A theory for record linkage" (JASA 64, 1969): each agreement level
contributes log2(m/u) bits, the bits add up. Ours: agreement on a rare value is worth more and on a common one less, by
a share (``strength``) of the difference between the value's information and the usual information of that field, the
lighter side of the pair counting. A value shared by many records so loses its weight by itself.
"""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from ..compare import Comparison, PreparedComparison, comparison
from ..compare.base import Levels
from ..plan import ComparisonRule, MatchPlan
from ..records import IntArray, RecordSet

Bits = npt.NDArray[np.float32]


class Band(StrEnum):
    """What the score of a pair means, by the two limits of the plan."""

    SAME = "same"
    UNSURE = "unsure"
    DIFFERENT = "different"


@dataclass(frozen=True, slots=True)
class ScoredPairs:
    """Scores of pairs: total ``bits``, ``levels`` (one row per comparison), and whether a veto forbids the pair."""

    bits: Bits
    levels: Levels
    vetoed: npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class _Prepared:
    rule: ComparisonRule
    comparison: Comparison
    data: PreparedComparison
    weights: Bits
    agreeing: npt.NDArray[np.bool_]


def _prepare(rule: ComparisonRule, records: RecordSet) -> _Prepared:
    kind = comparison(rule.using)
    weights = np.array([0.0] + [rule.bits[level] for level in kind.levels[1:]], dtype=np.float32)
    agreeing = np.array([level in kind.agreeing for level in kind.levels])
    return _Prepared(rule, kind, kind.prepare(records, rule.field), weights, agreeing)


class Scorer:
    """Scores pairs of one set of tidy records by one plan; safe to use from several threads."""

    def __init__(self, records: RecordSet, plan: MatchPlan) -> None:
        self.plan = plan
        self._prepared = [_prepare(rule, records) for rule in plan.comparisons]
        fields = [rule.field for rule in plan.comparisons]
        self._vetoes = [
            (fields.index(veto.field), self._prepared[fields.index(veto.field)].comparison.level_number(veto.level))
            for veto in plan.vetoes
        ]

    def score(self, left: IntArray, right: IntArray) -> ScoredPairs:
        """Return the scores of the pairs ``(left[k], right[k])``; the order within a pair does not matter."""
        levels = np.empty((len(self._prepared), len(left)), dtype=np.int8)
        bits = np.zeros(len(left), dtype=np.float32)
        for row, item in enumerate(self._prepared):
            levels[row] = item.data.levels_of(left, right)
            bits += self._evidence_row(item, levels[row], left, right)
        vetoed = np.zeros(len(left), dtype=np.bool_)
        for row, level in self._vetoes:
            vetoed |= levels[row] == level
        return ScoredPairs(bits, levels, vetoed)

    def evidence(self, left: IntArray, right: IntArray, levels: Levels) -> Bits:
        """Return the bits of every comparison (rows) for pairs (columns) whose levels are known; columns add up to the score."""
        return np.stack([self._evidence_row(item, levels[row], left, right) for row, item in enumerate(self._prepared)])

    def bands(self, scored: ScoredPairs) -> npt.NDArray[np.object_]:
        """Return the Band of every pair; a vetoed pair is different whatever its score."""
        bands = np.full(len(scored.bits), Band.DIFFERENT, dtype=object)
        bands[(scored.bits >= self.plan.limits.unsure) & ~scored.vetoed] = Band.UNSURE
        bands[(scored.bits >= self.plan.limits.same) & ~scored.vetoed] = Band.SAME
        return bands

    @staticmethod
    def _evidence_row(item: _Prepared, levels: Levels, left: IntArray, right: IntArray) -> Bits:
        bits = item.weights[levels]
        rarity = item.rule.rarity
        if rarity.strength > 0:
            agrees = item.agreeing[levels]
            lighter = np.minimum(item.data.information[left], item.data.information[right])
            extra = np.clip(
                rarity.strength * (lighter - item.data.usual_information), -rarity.most_bits, rarity.most_bits
            )
            # Agreement never turns into evidence against.
            bits = np.where(agrees, np.maximum(bits + extra, np.minimum(bits, 0)), bits)
        return bits.astype(np.float32)
