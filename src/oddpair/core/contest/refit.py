"""Evidence fitted anew to the outcome of a contest: a slope per comparison and an offset per level.

Who lost a contest to a sure partner is another entity, however well it agrees; levels at which such losers gather say less than
was expected. Both kinds of numbers are held near no change by normal priors, and fitted by logistic regression on the
pairs that the contest settled either way (maximum a posteriori, Newton's method). Those still in doubt are left out: fitted
to its own hesitation, evidence would only shrink.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.special import expit

from .messages import Bits

#: Standard deviations of the priors of slopes (around 1) and of offsets in bits (around 0).
_SLOPE_SPREAD, _OFFSET_SPREAD = 0.3, 2.0
_ROUNDS, _SETTLED = 12, 1e-4
#: Pairs below these odds in bits cannot be anybody's partner and teach nothing; of the others so many suffice.
_LEAST_ODDS, _MOST_PAIRS = -12.0, 30_000
_LEAST_SLOPE = 0.3
#: A pair at least this likely to be the same, or to be different, is settled.
_SETTLED_CHANCE = 0.9


@dataclass(frozen=True, slots=True)
class Refit:
    """``slopes`` per comparison and ``offsets`` in bits per comparison and level, by which evidence is corrected."""

    slopes: npt.NDArray[np.float64]
    offsets: npt.NDArray[np.float64]

    @staticmethod
    def none(comparisons: int, levels: int) -> "Refit":
        """Return the correction that changes nothing."""
        return Refit(np.ones(comparisons), np.zeros((comparisons, levels)))

    def corrected(self, evidence: Bits, levels: npt.NDArray[np.int8]) -> Bits:
        """Return corrected evidence: one row per comparison, one column per pair."""
        rows = np.arange(len(self.slopes))[:, None]
        return np.asarray(self.slopes[:, None] * evidence + self.offsets[rows, levels], dtype=np.float64)


def refit(evidence: Bits, levels: npt.NDArray[np.int8], starting: Bits, chances: Bits, width: int) -> Refit:
    """Return the correction under which the pairs' evidence best tells their ``chances`` of being the same.

    ``evidence`` and ``levels`` have a row per comparison and a column per pair, ``width`` is the number of levels at most.
    """
    settled = (chances >= _SETTLED_CHANCE) | (chances <= 1.0 - _SETTLED_CHANCE)
    worth = np.flatnonzero(settled & (evidence.sum(axis=0) + starting >= _LEAST_ODDS))
    chosen = worth[:: max(len(worth) // _MOST_PAIRS, 1)]
    rows, pairs = evidence.shape[0], len(chosen)
    if not pairs:
        return Refit.none(rows, width)
    design = np.zeros((pairs, rows + rows * width), dtype=np.float64)
    design[:, :rows] = evidence[:, chosen].T
    for row in range(rows):
        level = levels[row, chosen].astype(np.int64)
        design[np.arange(pairs), rows + row * width + level] = level > 0
    used = np.flatnonzero(design.any(axis=0))
    if not len(used):
        return Refit.none(rows, width)
    design = design[:, used] * np.log(2.0)
    is_slope = used < rows
    prior = is_slope.astype(np.float64)
    precision = np.where(is_slope, 1 / _SLOPE_SPREAD**2, 1 / _OFFSET_SPREAD**2)
    base, target = starting[chosen] * np.log(2.0), (chances[chosen] > 0.5).astype(np.float64)
    values = prior.copy()
    for _ in range(_ROUNDS):
        chance = expit(base + design @ values)
        gradient = design.T @ (target - chance) - precision * (values - prior)
        curvature = (design * (chance * (1 - chance))[:, None]).T @ design + np.diag(precision)
        step = np.linalg.solve(curvature, gradient)
        step *= min(1.0, 1.0 / max(float(np.abs(step).max()), 1e-9))
        values = values + step
        if float(np.abs(step).max()) < _SETTLED:
            break
    slopes, offsets = np.ones(rows), np.zeros(rows * width)
    slopes[used[is_slope]] = np.maximum(values[is_slope], _LEAST_SLOPE)
    offsets[used[~is_slope] - rows] = values[~is_slope]
    return Refit(slopes, offsets.reshape(rows, width))
