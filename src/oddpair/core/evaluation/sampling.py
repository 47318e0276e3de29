"""Estimates from a sample of decided pairs: how good a run is where nobody knows the truth.

Pairs are drawn from strata by score, so that few decisions tell much (W. G. Cochran, "Sampling Techniques", 1977, chapter
5). The interval of a share is E. B. Wilson's ("Probable inference, the law of succession, and statistical inference", JASA
22, 1927); those of precision and recall come from the strata's Beta posteriors (H. Jeffreys' prior), drawn with a fixed seed,
so that they stay honest for small samples and shares near one.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np
import numpy.typing as npt

_Z_95 = 1.959964
_DRAWS = 20_000
_SEED = 1


@dataclass(frozen=True, slots=True)
class Estimate:
    """A share in [0, 1] with its 95 % interval."""

    value: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Stratum:
    """Pairs of a range of scores: how many there are, how many of them were decided, how many of those as the same."""

    called_same: bool
    pairs: int
    decided: int
    same: int


def share(hits: int, total: int) -> Estimate:
    """Return the share ``hits / total`` with its Wilson interval; wide open without any observation."""
    if total == 0:
        return Estimate(0.5, 0.0, 1.0)
    p, z2 = hits / total, _Z_95**2
    middle = (p + z2 / (2 * total)) / (1 + z2 / total)
    half = _Z_95 * sqrt(p * (1 - p) / total + z2 / (4 * total**2)) / (1 + z2 / total)
    return Estimate(p, min(max(middle - half, 0.0), p), max(min(middle + half, 1.0), p))


def estimate_quality(strata: Sequence[Stratum]) -> tuple[Estimate, Estimate]:
    """Return (precision of the pairs called same, share of the true pairs among all given that were called same).

    True pairs outside the strata (scored below the lower limit, or never compared) are not seen by any sample of them.
    """
    random = np.random.default_rng(_SEED)
    draws = np.stack([
        item.pairs * random.beta(item.same + 0.5, item.decided - item.same + 0.5, _DRAWS) for item in strata
    ])  # fmt: skip
    called = np.array([item.called_same for item in strata])
    claimed = sum(item.pairs for item in strata if item.called_same)
    right = draws[called].sum(axis=0)
    return _summary(right / max(claimed, 1)), _summary(right / np.maximum(draws.sum(axis=0), 1e-9))


def _summary(draws: npt.NDArray[np.float64]) -> Estimate:
    low, value, high = (float(x) for x in np.quantile(draws, [0.025, 0.5, 0.975]))
    return Estimate(value, low, high)


def draw_sample(scores: npt.NDArray[np.float64], strata: int, size: int) -> npt.NDArray[np.int64]:
    """Return the places of about ``size`` pairs to decide, as many from each of ``strata`` ranges of equal numbers of pairs."""
    random = np.random.default_rng(_SEED)
    order = np.argsort(scores, kind="stable")
    chosen = [
        random.choice(part, min(max(size // strata, 1), len(part)), replace=False)
        for part in np.array_split(order, strata)
        if len(part)
    ]
    return np.sort(np.concatenate([np.zeros(0, dtype=np.int64), *chosen])).astype(np.int64)
