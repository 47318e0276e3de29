"""Estimates from a sample of decided pairs: how good a run is where nobody knows the truth.

Pairs are drawn from strata by score, so that few decisions tell much (W. G. Cochran, "Sampling Techniques", 1977, chapter
5). The interval of a share is E. B. Wilson's ("Probable inference, the law of succession, and statistical inference", JASA
22, 1927); those of precision and recall come from the strata's Beta posteriors, drawn with a fixed seed, so that they stay
honest for small samples and shares near one.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np
import numpy.typing as npt

_Z_95 = 1.959964
_DRAWS = 2_000
_SEED = 1


@dataclass(frozen=True, slots=True)
class Estimate:
    """A share in [0, 1] with its 95 % interval."""

    value: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Stratum:
    """Pairs of a range of scores: how many there are, how many of them were decided, how many of those as the same.

    ``expected`` is the share of true pairs expected among them, which counts as much as one decision; without any expectation 0.5, which
    is H. Jeffreys' prior.
    """

    called_same: bool
    pairs: float
    decided: int
    same: int
    expected: float = 0.5

    @property
    def chance(self) -> float:
        """Return the share of true pairs that expectation and decisions make likely."""
        return (self.same + self.expected) / (self.decided + 1)


@dataclass(frozen=True, slots=True)
class Quality:
    """Precision of the pairs called same, share of the true pairs that were called same, and F1 of both."""

    precision: Estimate
    recall: Estimate
    f1: Estimate


def share(hits: int, total: int) -> Estimate:
    """Return the share ``hits / total`` with its Wilson interval; wide open without any observation."""
    if total == 0:
        return Estimate(0.5, 0.0, 1.0)
    p, z2 = hits / total, _Z_95**2
    middle = (p + z2 / (2 * total)) / (1 + z2 / total)
    half = _Z_95 * sqrt(p * (1 - p) / total + z2 / (4 * total**2)) / (1 + z2 / total)
    return Estimate(p, min(max(middle - half, 0.0), p), max(min(middle + half, 1.0), p))


def estimate_quality(strata: Sequence[Stratum]) -> Quality:
    """Return the quality of what was called same, as far as the strata tell; what is decided is known, the others of a stratum are like it.

    True pairs outside the strata (scored below the lower limit, or never compared) are not seen by any sample of them.
    """
    draws = _drawn(strata)
    called = np.array([item.called_same for item in strata], dtype=np.bool_)
    claimed, right, true = _claimed(strata, called), draws[called].sum(axis=0), draws.sum(axis=0)
    # Where nothing that was decided speaks against it, the share may be one (L. D. Brown, T. T. Cai and A. DasGupta, "Interval
    # estimation for a binomial proportion", Statistical Science 16, 2001).
    no_wrong = all(item.decided == item.same for item in strata if item.called_same)
    none_missed = not any(item.same for item in strata if not item.called_same)
    return Quality(
        _summary(right / max(claimed, 1e-9) if claimed else np.ones(_DRAWS), no_wrong),
        _summary(right / np.maximum(true, 1e-9) if strata else np.ones(_DRAWS), none_missed),
        _summary(2 * right / np.maximum(claimed + true, 1e-9), no_wrong and none_missed),
    )


def f1_gained(strata: Sequence[Stratum], called_before: Sequence[bool]) -> Estimate:
    """Return by how much F1 is higher for what is called same now than for what was before, of the same strata; the margins of the two
    are not independent, so that a difference may be sure where neither figure is."""
    draws = _drawn(strata)
    true = draws.sum(axis=0)

    def f1(called: npt.NDArray[np.bool_]) -> npt.NDArray[np.float64]:
        return np.asarray(2 * draws[called].sum(axis=0) / np.maximum(_claimed(strata, called) + true, 1e-9))

    now = np.array([item.called_same for item in strata], dtype=np.bool_)
    low, value, high = np.quantile(f1(now) - f1(np.array(called_before, dtype=np.bool_)), [0.025, 0.5, 0.975])
    return Estimate(float(value), float(low), float(high))


def _drawn(strata: Sequence[Stratum]) -> npt.NDArray[np.float64]:
    """Return how many true pairs every stratum (row) may hold, drawn again and again (columns)."""
    random = np.random.default_rng(_SEED)
    return np.stack([
        np.zeros(_DRAWS),
        *(
            item.same + max(item.pairs - item.decided, 0.0)
            * random.beta(item.same + item.expected, item.decided - item.same + 1 - item.expected, _DRAWS)
            for item in strata
        ),
    ])[1:]  # fmt: skip


def _claimed(strata: Sequence[Stratum], called: npt.NDArray[np.bool_]) -> float:
    return sum(max(item.pairs, item.decided) for item, yes in zip(strata, called.tolist(), strict=True) if yes)


def decisions_needed(strata: Sequence[Stratum], margin: float) -> int:
    """Return how many more pairs have to be decided until precision and recall are known to ``margin``, drawn where they tell most.

    J. Neyman's allocation (JRSS 97, 1934): from each stratum in proportion to its size times the spread within it, which is taken from
    what is decided so far.
    """
    chances = np.array([item.chance for item in strata])
    pairs = np.array([item.pairs for item in strata])
    called = np.array([item.called_same for item in strata], dtype=np.bool_)
    spread = pairs * np.sqrt(chances * (1 - chances))
    claimed, true = float(pairs[called].sum()), float((pairs * chances).sum())
    if not claimed or not true:
        return 0
    recall = float((pairs * chances)[called].sum()) / true
    # A pair called same moves recall by what is not found of it, one that is not by what is.
    by_recall = spread * np.where(called, 1 - recall, recall) / true
    wanted = (np.array([_Z_95 / margin]) * np.stack([np.where(called, spread / claimed, 0.0), by_recall])).sum(
        axis=1
    ) ** 2
    shares = np.stack([np.where(called, spread, 0.0), by_recall])
    shares = shares / np.maximum(shares.sum(axis=1, keepdims=True), 1e-12)
    needed = np.minimum((wanted[:, None] * shares).max(axis=0), pairs)
    return int(np.ceil(np.maximum(needed - np.array([item.decided for item in strata]), 0.0)).sum())


def _summary(draws: npt.NDArray[np.float64], may_be_one: bool) -> Estimate:
    low, value, high = (float(x) for x in np.quantile(draws, [0.025, 0.5, 0.975]))
    return Estimate(value, low, 1.0 if may_be_one else high)


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
