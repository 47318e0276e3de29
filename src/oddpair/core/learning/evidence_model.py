"""The evidence model that decided pairs teach: how sure scores should be, and what each level of each comparison is worth besides.

The log odds of a pair are ``slope * score + shift + the sum of what its levels are worth besides``: a logistic regression whose prior is
the plan itself. Without decisions it is the plan; each decision moves it as far as it tells, and no level is moved that none speaks of
(D. J. C. MacKay, "Bayesian interpolation", Neural Computation 4, 1992). What it learns are bits per level, so that it can be read and
written into a plan.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..compare import comparison
from ..compare.base import Bits, Levels
from ..plan import MatchPlan
from ..scoring.calibration import LEAST_SLOPE, SHIFT_SPREAD, SLOPE_SPREAD
from ..scoring.logistic import Fitted, Prior, Vector, fit_logistic

#: How many bits a level may be worth besides what the plan says, as a standard deviation, before any decision.
_LEVEL_SPREAD = 1.0
_NATS_PER_BIT = np.log(2.0)
#: The first columns: the score, and what all pairs share; those of the levels follow.
OF_ALL = 2


@dataclass(frozen=True, slots=True)
class EvidenceView:
    """Pairs as they were compared: the ``plan`` of a single pass, a row of ``levels`` per comparison and a column per pair, and the
    scores in ``bits`` before any condition."""

    plan: MatchPlan
    levels: Levels
    bits: Bits

    def __len__(self) -> int:
        return len(self.bits)

    def at(self, rows: npt.NDArray[np.intp]) -> "EvidenceView":
        """Return some of the pairs."""
        return EvidenceView(self.plan, self.levels[:, rows], self.bits[rows])

    def columns(self) -> tuple[tuple[str, str], ...]:
        """Return (comparison, level) of every column after the first two."""
        return tuple(
            (rule.name, level) for rule in self.plan.comparisons for level in comparison(rule.using).levels[1:]
        )

    def design(self) -> Vector:
        """Return a row per pair: its score, 1, and which levels it reached; in nats."""
        rows = [self.bits.astype(np.float64), np.ones(len(self))]
        for rule, levels in zip(self.plan.comparisons, self.levels, strict=True):
            rows.extend(
                (levels == number).astype(np.float64) for number in range(1, len(comparison(rule.using).levels))
            )
        return np.asarray(_NATS_PER_BIT * np.stack(rows, axis=1))


@dataclass(frozen=True, slots=True)
class Taught:
    """What decisions taught: the fit, and (comparison, level) of its columns after the first two."""

    columns: tuple[tuple[str, str], ...]
    fitted: Fitted

    @property
    def slope(self) -> float:
        """Return by what a score is multiplied to become log odds."""
        return max(float(self.fitted.values[0]), LEAST_SLOPE)

    @property
    def shift(self) -> float:
        """Return what is added, in bits."""
        return float(self.fitted.values[1])

    def bits_of_levels(self) -> dict[tuple[str, str], float]:
        """Return, per comparison and level, what it is worth besides, in bits of score."""
        return {
            column: float(value) / self.slope
            for column, value in zip(self.columns, self.fitted.values[OF_ALL:], strict=True)
        }

    def odds(self, view: EvidenceView) -> Vector:
        """Return the log odds of pairs, in bits."""
        return np.asarray(view.design() @ self.fitted.values / _NATS_PER_BIT)


def prior_of(view: EvidenceView) -> Prior:
    """Return what is expected before any decision: what the plan says of scores, and of the levels nothing besides."""
    said = view.plan.probabilities
    count = len(view.columns())
    means = np.concatenate(([said.slope, said.shift], np.zeros(count)))
    return Prior(means, np.concatenate(([SLOPE_SPREAD, SHIFT_SPREAD], np.full(count, _LEVEL_SPREAD))))


def teach(view: EvidenceView, same: npt.NDArray[np.bool_]) -> Taught:
    """Return what decided pairs teach: their evidence, and whether each is the same. The order of the pairs does not matter."""
    return Taught(view.columns(), fit_logistic(view.design(), same, prior_of(view)))
