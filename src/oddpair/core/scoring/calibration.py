"""Calibration: from scores to probabilities that come true.

Evidence that is not quite independent makes scores too sure of themselves. Decided pairs tell by how much: after J. Platt,
"Probabilistic outputs for support vector machines" (1999), a slope and a shift of the score are fitted by logistic regression.
Ours: both are held near what the plan expects by a normal prior, so that a handful of decisions moves little (maximum a posteriori, by
Newton's method with steps halved until they help).
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.special import expit

Vector = npt.NDArray[np.float64]

#: Standard deviations of the prior of the slope and of the shift in bits, around what is expected.
_SLOPE_SPREAD, _SHIFT_SPREAD = 0.3, 2.0
_ROUNDS, _SMALLEST_STEP = 100, 1e-7
_LEAST_SLOPE = 0.2


@dataclass(frozen=True, slots=True)
class Calibration:
    """How scores in bits become log2 odds: ``slope * bits + shift``."""

    slope: float = 1.0
    shift: float = 0.0

    def probability(self, bits: npt.NDArray[np.float32]) -> npt.NDArray[np.float64]:
        """Return the probability that a pair is the same; rising in the score, 0.5 at even odds."""
        odds = self.slope * bits.astype(np.float64) + self.shift
        return np.asarray(1.0 / (1.0 + np.exp2(-np.clip(odds, -60, 60))), dtype=np.float64)


_UNCHANGED = Calibration()


def fit_calibration(
    bits: npt.NDArray[np.float32], same: npt.NDArray[np.bool_], expected: Calibration = _UNCHANGED
) -> Calibration:
    """Return the calibration that decided pairs (their scores, and whether they are the same) make most likely, near the
    ``expected`` one as long as there are few."""
    if not len(bits):
        return expected
    same = same.astype(np.float64)
    design = np.stack([np.log(2.0) * bits.astype(np.float64), np.full(len(bits), np.log(2.0))], axis=1)
    precision = np.diag([1 / _SLOPE_SPREAD**2, 1 / _SHIFT_SPREAD**2])
    start = np.array([expected.slope, expected.shift])

    def regret(values: Vector) -> float:
        """Return how unlikely the decisions are, in nats: convex, so that every descent ends at its only minimum."""
        odds = design @ values
        return float(np.logaddexp(0.0, odds).sum() - same @ odds + (values - start) @ precision @ (values - start) / 2)

    values = start.copy()
    for _ in range(_ROUNDS):
        chance = expit(design @ values)
        gradient = design.T @ (same - chance) - precision @ (values - start)
        curvature = (design * (chance * (1 - chance))[:, None]).T @ design + precision
        step = np.linalg.solve(curvature, gradient)
        # A full step may overshoot where scores are large, and end further off than it began: halved until it helps.
        present = regret(values)
        while regret(values + step) > present and float(np.abs(step).max()) > _SMALLEST_STEP:
            step = step / 2
        values = values + step
        if float(np.abs(step).max()) < _SMALLEST_STEP:
            break
    return Calibration(max(float(values[0]), _LEAST_SLOPE), float(values[1]))
