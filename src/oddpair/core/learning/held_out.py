"""What learning is worth on decisions it has not seen: each is judged by what the others teach.

The decisions are parted into folds, such that pairs that share a record are in one (M. Stone, "Cross-validatory choice and assessment of
statistical predictions", JRSS B 36, 1974). Margins are those of a bootstrap over groups of such pairs (B. Efron, 1979).
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..records import IntArray
from ..scoring.logistic import Vector
from .evidence_model import EvidenceView, teach

Flags = npt.NDArray[np.bool_]
_FOLDS, _DRAWS, _SEED = 5, 2_000, 1


@dataclass(frozen=True, slots=True)
class Difference:
    """How much better something is after than before, with its 95 % interval; more is better."""

    before: float
    after: float
    low: float
    high: float

    @property
    def verdict(self) -> str:
        """Return "better" or "worse" where the margin leaves no doubt, else "not shown"."""
        return "better" if self.low > 0 else "worse" if self.high < 0 else "not shown"


@dataclass(frozen=True, slots=True)
class HeldOut:
    """Of ``decisions`` pairs, judged by what the others taught: the share on which the verdict is right (``right``), and how surely what
    was decided was foreseen, in bits per decision (``foreseen``: 0 is certain, -1 is tossing a coin)."""

    decisions: int
    right: Difference
    foreseen: Difference


def groups_of(left: IntArray, right: IntArray) -> npt.NDArray[np.int64]:
    """Return a number per pair, the same for pairs that share a record, directly or by others."""
    records, places = np.unique(np.stack([left, right]), return_inverse=True)
    one, other = places.reshape(2, -1)
    group = np.arange(len(records))
    while True:
        spread = group.copy()
        np.minimum.at(spread, one, group[other])
        np.minimum.at(spread, other, group[one])
        if (spread == group).all():
            return np.asarray(group[one], dtype=np.int64)
        group = spread


def held_out(
    view: EvidenceView, same: Flags, groups: npt.NDArray[np.int64], same_from: float, wrong_weighs: float
) -> HeldOut | None:
    """Return what learning from decided pairs is worth, or None where too few are decided to set some aside.

    ``same_from`` is the present limit of *same* in bits; ``wrong_weighs`` that of what is learned, see ``learned_plan``.
    """
    names, which = np.unique(groups, return_inverse=True)
    if len(names) < 2 * _FOLDS or same.all() or not same.any():
        return None
    folds = np.random.default_rng(_SEED).permutation(len(names))[which] % _FOLDS
    odds = np.zeros(len(view))
    for fold in range(_FOLDS):
        others, own = np.flatnonzero(folds != fold), np.flatnonzero(folds == fold)
        odds[own] = teach(view.at(others), same[others]).odds(view.at(own))
    said = view.plan.probabilities
    untaught = said.slope * view.bits.astype(np.float64) + said.shift
    after = (odds >= np.log2(wrong_weighs)) == same
    before = (view.bits >= same_from) == same
    draws = np.random.default_rng(_SEED).multinomial(len(names), np.full(len(names), 1 / len(names)), _DRAWS)

    def difference(one: Vector, other: Vector) -> Difference:
        gained, counted = np.bincount(which, weights=other - one), np.bincount(which)
        low, high = np.quantile(draws @ gained / np.maximum(draws @ counted, 1), [0.025, 0.975])
        return Difference(float(one.mean()), float(other.mean()), float(low), float(high))

    return HeldOut(
        len(view),
        difference(before.astype(np.float64), after.astype(np.float64)),
        difference(_foreseen(untaught, same), _foreseen(odds, same)),
    )


def _foreseen(odds: Vector, same: Flags) -> Vector:
    """Return the log2 probability of what was decided."""
    return np.asarray(-np.logaddexp2(0.0, np.where(same, -odds, odds)))
