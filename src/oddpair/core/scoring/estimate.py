"""Estimating weights: expectation maximisation on a sample of candidate pairs, and on decided pairs where there are any.

After A. P. Dempster, N. M. Laird and D. B. Rubin, "Maximum likelihood from incomplete data via the EM algorithm" (JRSS B
39, 1977), as W. E. Winkler used it for the model of Fellegi and Sunter (1988). Ours: chance agreement (u) is not part of
the estimate, since it is measured on random pairs and on the values themselves; the shares among pairs of one entity (m)
start from the plan's expectations, which go on counting as ``prior_pairs`` pairs. So a file with few duplicates keeps
the expectations, a large one overrules them, and no share can move further than a factor of eight. A decided pair takes part
like any other, only that its verdict is known (K. Nigam et al., "Text classification from labeled and unlabeled documents using
EM", Machine Learning 39, 2000) and counts several times.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..plan import ComparisonRule
from ..records import IntArray
from .model import Scorer, probability
from .weights import (
    LevelShares,
    of_as_much_known,
    starting_bits,
    taken_by_relatives,
    weigh,
    weight_table,
)

_ROUNDS = 12
_SETTLED = 0.002
_MOST_FACTOR, _MOST_FACTOR_OF_RELATED = 8.0, 3.0
#: A pair that a person decided counts as much as this many undecided ones.
_DECISION_WEIGHT = 3.0
#: The expected matches per record count as those of this many records.
_PRIOR_RECORDS = 100.0


@dataclass(frozen=True, slots=True)
class Decided:
    """Pairs of record numbers that a person decided, and whether they are the same."""

    left: IntArray
    right: IntArray
    same: npt.NDArray[np.bool_]


def learn_weights(
    scorer: Scorer, left: IntArray, right: IntArray, share_of_candidates: float, *, records: int, decided: Decided | None = None
) -> None:  # fmt: skip
    """Estimate the shares of levels and the matches per record and hand them to the scorer.

    ``left`` and ``right`` are sampled candidate pairs, ``share_of_candidates`` in (0, 1] the part of all that they are.
    """
    plan = scorer.plan
    known = decided or Decided(left[:0], right[:0], np.zeros(0, dtype=np.bool_))
    sampled = len(left)
    if not sampled and not len(known.left):
        return
    measured = scorer.measure(np.concatenate((left, known.left)), np.concatenate((right, known.right)))
    possible = ~scorer.vetoed(measured.levels)
    expected = list(scorer.shares)
    shares: Sequence[LevelShares] = expected
    matches = expected_matches = plan.weights.matches_per_record
    relatives = expected_relatives = plan.weights.relatives_per_record
    for _ in range(_ROUNDS):
        starting = np.full(measured.levels.shape[1], starting_bits(records, matches), dtype=np.float32)
        weighed = weigh(weight_table(plan, shares), *measured, starting)
        by_chance = weighed.evidence.sum(axis=0) + starting
        by_relation = weighed.against_relatives + np.float32(np.log2(matches / relatives))
        bits = by_chance + taken_by_relatives(by_chance, by_relation)
        chance = np.where(possible, probability(bits), 0.0)
        chance[sampled:] = _DECISION_WEIGHT * known.same
        # What is not the same is related or unrelated, by the odds of the two.
        related = (1.0 - probability(bits)) * probability(by_chance - by_relation)
        related[sampled:] *= _DECISION_WEIGHT * ~known.same
        shares = [
            _updated(plan.comparisons[row], before, measured.levels[row], (chance, related), plan.weights.prior_pairs)
            for row, before in enumerate(expected)
        ]

        def per_record(chances: npt.NDArray[np.float64], expected_per_record: float) -> float:
            found = 2.0 * float(chances[:sampled].sum()) / share_of_candidates
            return (found + _PRIOR_RECORDS * expected_per_record) / (records + _PRIOR_RECORDS)

        before_matches, matches = matches, per_record(chance, expected_matches)
        relatives = per_record(related, expected_relatives)
        if abs(np.log2(matches / before_matches)) < _SETTLED:
            break
    scorer.learn(shares, matches, relatives)


def _updated(
    rule: ComparisonRule, expected: LevelShares, levels: npt.NDArray[np.int8],
    chances: tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]], prior_pairs: float,
) -> LevelShares:  # fmt: skip
    """Return the shares among pairs that are the same and among relatives, with their ``chances`` of being either."""

    def moved(
        start: npt.NDArray[np.float64], chance: npt.NDArray[np.float64], factor: float
    ) -> npt.NDArray[np.float64]:
        weighted = np.bincount(levels, weights=chance, minlength=len(start)).astype(np.float64)
        weighted[0] = 0.0
        share = (weighted + prior_pairs * start) / (of_as_much_known(rule, weighted) + prior_pairs)
        share = np.clip(share, start / factor, np.minimum(start * factor, 1.0))
        return np.asarray(share / of_as_much_known(rule, share), dtype=np.float64)

    related = (
        moved(expected.related, chances[1], _MOST_FACTOR_OF_RELATED) if len(expected.related) else expected.related
    )
    return LevelShares(moved(expected.same, chances[0], _MOST_FACTOR), expected.different, related)
