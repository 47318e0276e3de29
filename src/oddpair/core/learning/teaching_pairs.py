"""Which pairs to ask a person about: those whose answers would make the verdicts of all pairs surest.

Each pair is chosen for how much its answer is expected to reduce the variance of the probabilities of all pairs together, given those
chosen before (D. A. Cohn, Z. Ghahramani and M. I. Jordan, "Active learning with statistical models", JAIR 4, 1996; for a logistic model
with its normal approximation, as in D. J. C. MacKay, "Information-based objective functions for active data selection", 1992).
"""

import numpy as np
import numpy.typing as npt
from scipy.special import expit

from ..scoring.logistic import Vector
from .evidence_model import EvidenceView, Taught

#: Pairs that are surer than this teach nothing worth a person's time; so many of the others are looked at.
_SUREST, _MOST_LOOKED_AT = 0.005, 20_000
_SEED = 1


def teaching_pairs(
    view: EvidenceView, weight: npt.NDArray[np.float32], open_pairs: npt.NDArray[np.bool_], taught: Taught, many: int
) -> npt.NDArray[np.intp]:
    """Return the places of up to ``many`` pairs to ask about, the one that teaches most first.

    ``weight`` says for how many pairs each stands, ``open_pairs`` which may be asked about, ``taught`` what is known so far.
    """
    chances = expit(np.log(2.0) * (taught.slope * view.bits.astype(np.float64) + taught.shift))
    pool = np.flatnonzero(open_pairs & (chances > _SUREST) & (chances < 1 - _SUREST))
    if len(pool) > _MOST_LOOKED_AT:
        pool = np.sort(np.random.default_rng(_SEED).choice(pool, _MOST_LOOKED_AT, replace=False))
    design = view.at(pool).design()
    chance = expit(design @ taught.fitted.values)
    doubt = chance * (1 - chance)
    concerned = (design * (weight[pool] * doubt**2)[:, None]).T @ design
    spread: Vector = np.linalg.inv(taught.fitted.curvature).astype(np.float64)
    chosen: list[int] = []
    free = np.ones(len(pool), dtype=np.bool_)
    while len(chosen) < min(many, len(pool)):
        reach = design @ spread
        # By how much the answer reduces the sum of all variances (the formula of a rank-one update of the covariance).
        gain = doubt * ((reach @ concerned) * reach).sum(axis=1) / (1 + doubt * (reach * design).sum(axis=1))
        best = int(np.where(free, gain, -1.0).argmax())
        chosen.append(best)
        free[best] = False
        along = spread @ design[best]
        spread = spread - np.outer(along, along) * doubt[best] / (1 + doubt[best] * float(design[best] @ along))
    return pool[np.array(chosen, dtype=np.intp)]
