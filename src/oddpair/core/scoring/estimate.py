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
    evidence_rows,
    of_as_much_known,
    starting_bits,
    weight_table,
)

_ROUNDS = 12
_SETTLED = 0.002
_MOST_FACTOR = 8.0
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
    for _ in range(_ROUNDS):
        starting = np.full(measured.levels.shape[1], starting_bits(records, matches), dtype=np.float32)
        bits = evidence_rows(weight_table(plan, shares), *measured, starting).sum(axis=0) + starting
        chance = np.where(possible, probability(bits), 0.0)
        chance[sampled:] = _DECISION_WEIGHT * known.same
        shares = [
            _updated(plan.comparisons[row], before, measured.levels[row], chance, plan.weights.prior_pairs)
            for row, before in enumerate(expected)
        ]
        found = 2.0 * float(chance[:sampled].sum()) / share_of_candidates
        moved = (found + _PRIOR_RECORDS * expected_matches) / (records + _PRIOR_RECORDS)
        settled = abs(np.log2(moved / matches)) < _SETTLED
        matches = moved
        if settled:
            break
    scorer.learn(shares, matches)


def _updated(
    rule: ComparisonRule,
    expected: LevelShares,
    levels: npt.NDArray[np.int8],
    chance: npt.NDArray[np.float64],
    prior_pairs: float,
) -> LevelShares:
    weighted = np.bincount(levels, weights=chance, minlength=len(expected.same)).astype(np.float64)
    weighted[0] = 0.0
    same = (weighted + prior_pairs * expected.same) / (of_as_much_known(rule, weighted) + prior_pairs)
    same = np.clip(same, expected.same / _MOST_FACTOR, np.minimum(expected.same * _MOST_FACTOR, 1.0))
    return LevelShares(same / of_as_much_known(rule, same), expected.different)
