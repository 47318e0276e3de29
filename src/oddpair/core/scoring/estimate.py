"""Estimating weights without labels: expectation maximisation on a sample of candidate pairs.

After A. P. Dempster, N. M. Laird and D. B. Rubin, "Maximum likelihood from incomplete data via the EM algorithm" (JRSS B
39, 1977), as W. E. Winkler used it for the model of Fellegi and Sunter (1988). Ours: chance agreement (u) is not part of
the estimate, since it is measured on random pairs and on the values themselves; the shares among pairs of one entity (m)
start from the plan's expectations, which go on counting as ``prior_pairs`` pairs. So a file with few duplicates keeps
the expectations, a large one overrules them, and no share can move further than a factor of eight.
"""

from collections.abc import Sequence

import numpy as np

from ..records import IntArray
from .model import Scorer, probability
from .weights import LevelShares, evidence_rows, starting_bits, weight_table

_ROUNDS = 12
_SETTLED = 0.002
_MOST_FACTOR = 8.0
#: The expected matches per record count as those of this many records.
_PRIOR_RECORDS = 100.0


def learn_weights(scorer: Scorer, left: IntArray, right: IntArray, share_of_candidates: float, *, records: int) -> None:
    """Estimate the shares of levels and the matches per record on candidate pairs and hand them to the scorer.

    ``share_of_candidates`` is the part of all candidate pairs that the sample holds, in (0, 1].
    """
    plan = scorer.plan
    if not len(left):
        return
    measured = scorer.measure(left, right)
    possible = ~scorer.vetoed(measured.levels)
    expected = list(scorer.shares)
    shares: Sequence[LevelShares] = expected
    matches = expected_matches = plan.weights.matches_per_record
    for _ in range(_ROUNDS):
        table = weight_table(plan, shares, starting_bits(records, matches))
        bits = evidence_rows(table, *measured).sum(axis=0) + np.float32(table.starting)
        chance = np.where(possible, probability(bits), 0.0)
        shares = [
            _updated(before, measured.levels[row], chance, plan.weights.prior_pairs)
            for row, before in enumerate(expected)
        ]
        found = 2.0 * float(chance.sum()) / share_of_candidates
        moved = (found + _PRIOR_RECORDS * expected_matches) / (records + _PRIOR_RECORDS)
        settled = abs(np.log2(moved / matches)) < _SETTLED
        matches = moved
        if settled:
            break
    scorer.learn(shares, matches)


def _updated(
    expected: LevelShares, levels: np.ndarray[tuple[int], np.dtype[np.int8]], chance: np.ndarray[tuple[int], np.dtype[np.float64]],
    prior_pairs: float,
) -> LevelShares:  # fmt: skip
    weighted = np.bincount(levels, weights=chance, minlength=len(expected.same))
    weighted[0] = 0.0
    same = (weighted + prior_pairs * expected.same) / (weighted.sum() + prior_pairs)
    same = np.clip(same, expected.same / _MOST_FACTOR, np.minimum(expected.same * _MOST_FACTOR, 1.0))
    return LevelShares(same / same.sum(), expected.different)
