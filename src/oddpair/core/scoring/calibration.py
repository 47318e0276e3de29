"""Calibration: from scores to probabilities that come true.

Evidence that is not quite independent makes scores too sure of themselves. Decided pairs tell by how much: after J. Platt,
"Probabilistic outputs for support vector machines" (1999), a slope and a shift of the score are fitted by logistic regression.
Ours: both are held near what the plan expects by a normal prior, so that a handful of decisions moves little.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .logistic import Prior, fit_logistic

#: Standard deviations of the prior of the slope and of the shift in bits, around what is expected.
SLOPE_SPREAD, SHIFT_SPREAD = 0.3, 2.0
LEAST_SLOPE = 0.2


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
    design = np.stack([np.log(2.0) * bits.astype(np.float64), np.full(len(bits), np.log(2.0))], axis=1)
    prior = Prior(np.array([expected.slope, expected.shift]), np.array([SLOPE_SPREAD, SHIFT_SPREAD]))
    values = fit_logistic(design, same, prior).values
    return Calibration(max(float(values[0]), LEAST_SLOPE), float(values[1]))
