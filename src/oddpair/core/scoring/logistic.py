"""Logistic regression with normal priors: the most likely values given what was decided (maximum a posteriori).

Newton's method, with steps halved until they help; the regret is convex, so that every descent ends at its only minimum. Its curvature
there makes the normal approximation of what remains uncertain (P. S. Laplace; see D. J. C. MacKay, "Bayesian interpolation", 1992).
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.special import expit

Vector = npt.NDArray[np.float64]
_ROUNDS, _SMALLEST_STEP = 100, 1e-7


@dataclass(frozen=True, slots=True)
class Prior:
    """What is expected of each value before anything is decided, and how far off that may be (standard deviations)."""

    means: Vector
    spreads: Vector


@dataclass(frozen=True, slots=True)
class Fitted:
    """The most likely ``values``, and the ``curvature`` there: the inverse covariance of what remains uncertain."""

    values: Vector
    curvature: Vector


def fit_logistic(design: Vector, same: npt.NDArray[np.bool_], prior: Prior) -> Fitted:
    """Return what decisions make most likely: ``design`` has a row per decided pair and a column per value, in nats of log odds."""
    same_as_number = same.astype(np.float64)
    precision = np.diag(prior.spreads**-2.0)

    def regret(values: Vector) -> float:
        """Return how unlikely the decisions are, in nats."""
        odds = design @ values
        off = values - prior.means
        return float(np.logaddexp(0.0, odds).sum() - same_as_number @ odds + off @ precision @ off / 2)

    def curvature(values: Vector) -> Vector:
        chance = expit(design @ values)
        return np.asarray((design * (chance * (1 - chance))[:, None]).T @ design + precision)

    values = prior.means.copy()
    for _ in range(_ROUNDS):
        gradient = design.T @ (same_as_number - expit(design @ values)) - precision @ (values - prior.means)
        step = np.linalg.solve(curvature(values), gradient)
        # A full step may overshoot where scores are large, and end further off than it began: halved until it helps.
        present = regret(values)
        while regret(values + step) > present and float(np.abs(step).max()) > _SMALLEST_STEP:
            step = step / 2
        values = values + step
        if float(np.abs(step).max()) < _SMALLEST_STEP:
            break
    return Fitted(values, curvature(values))
