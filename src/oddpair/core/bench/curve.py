"""What becomes of held pairs at every limit: counted once by score, so that a limit can follow the hand without asking again."""

from dataclasses import dataclass
from math import sqrt

import numpy as np
import numpy.typing as npt

from ..plan import MatchPlan
from ..records import IntArray
from ..text.compiled import kernel
from .held import HeldPairs
from .rescore import Rescored

Counts = npt.NDArray[np.float64]
#: Scores are counted in bins of a quarter of a bit from here to here; what lies outside goes into the outermost bins.
CURVE_FROM, CURVE_TO, BINS_PER_BIT = -40, 60, 4
#: Links that score lower are not followed: no plan would.
JOINING_FROM = -20.0
_BINS = (CURVE_TO - CURVE_FROM) * BINS_PER_BIT
_AT_95 = 1.96


@dataclass(frozen=True, slots=True)
class Curve:
    """Held pairs by score, in bins of a quarter of a bit; each entry counts the candidate pairs that they stand for.

    ``free`` are pairs that the limits decide, ``capped`` those that a condition leaves at most unsure, ``fixed`` counts pairs that a
    condition (by its verdict) or a veto decides wherever the limits are. ``joining`` counts, at the score of the link that does it, how
    often two groups of records become one if every link from there up is followed. ``spread`` is the variance of a bin of free pairs
    that comes of holding only some of them.
    """

    free: Counts
    capped: Counts
    spread: Counts
    joining: Counts
    fixed: dict[str, float]
    always_joined: float


@dataclass(frozen=True, slots=True)
class Counted:
    """A count with how far it may be off, 95 times in a hundred."""

    value: float
    margin: float


def score_bins(bits: npt.NDArray[np.float32]) -> IntArray:
    """Return the bin of every score."""
    # In single precision a score just below a limit would be rounded up to it.
    places = (bits.astype(np.float64) - CURVE_FROM) * BINS_PER_BIT
    bins: IntArray = np.clip(places, 0, _BINS - 1).astype(np.int32)
    return bins


@kernel
def _union(left: IntArray, right: IntArray, parents: IntArray, joins: npt.NDArray[np.bool_]) -> None:
    for pair in range(len(left)):
        one, other = left[pair], right[pair]
        while parents[one] != one:
            parents[one] = parents[parents[one]]
            one = parents[one]
        while parents[other] != other:
            parents[other] = parents[parents[other]]
            other = parents[other]
        joins[pair] = one != other
        if one != other:
            parents[max(one, other)] = min(one, other)


@kernel
def _count(
    bins: IntArray, vetoed: npt.NDArray[np.bool_], verdicts: npt.NDArray[np.int8], weight: npt.NDArray[np.float32],
    free: Counts, capped: Counts, spread: Counts, fixed: Counts,
) -> None:  # fmt: skip
    for pair in range(len(bins)):
        amount = np.float64(weight[pair])
        if vetoed[pair]:
            fixed[4] += amount
        elif verdicts[pair] == 0:
            free[bins[pair]] += amount
            spread[bins[pair]] += amount * (amount - 1.0)
        elif verdicts[pair] == 3:
            capped[bins[pair]] += amount
        else:
            fixed[verdicts[pair]] += amount


def curve_of(held: HeldPairs, rescored: Rescored, records: int) -> Curve:
    """Return the curve of rescored pairs among so many records."""
    scored = rescored.scored
    bins = score_bins(scored.bits)
    verdicts = _verdict_of_condition(rescored.plan)[scored.condition]
    free, capped, spread, fixed = np.zeros(_BINS), np.zeros(_BINS), np.zeros(_BINS), np.zeros(len(_WORDS))
    _count(bins, scored.vetoed, verdicts, held.weight, free, capped, spread, fixed)
    lifted = verdicts == _WORDS.index("same")
    links = np.flatnonzero((lifted | (scored.bits >= JOINING_FROM)) & ~scored.vetoed & (verdicts <= 1))
    # From the highest score down, those that a condition lifts before all.
    ranks = np.where(lifted[links], _BINS, bins[links]).astype(np.int16)
    links = links[np.argsort(-ranks, kind="stable")]
    joins = np.zeros(len(links), dtype=np.bool_)
    _union(held.left[links], held.right[links], np.arange(records, dtype=np.int32), joins)
    joining = links[joins]
    always, weight = lifted[joining], held.weight[joining].astype(np.float64)
    by_score = np.bincount(bins[joining[~always]], weights=weight[~always], minlength=_BINS)
    told = {word: float(fixed[_WORDS.index(word)]) for word in ("same", "unsure", "different")}
    return Curve(free, capped, spread, by_score.astype(np.float64), told, float(weight[always].sum()))


_WORDS = ("", "same", "unsure", "at most unsure", "different")


def _verdict_of_condition(plan: MatchPlan) -> npt.NDArray[np.int8]:
    """Return, per number of a condition (the last: none), what it says."""
    says = ("at most unsure" if condition.never_same else condition.then for condition in plan.conditions)
    return np.array([*map(_WORDS.index, says), 0], dtype=np.int8)


def counted_same(curve: Curve, same_from: float) -> Counted:
    """Return how many candidate pairs are the same if the upper limit is ``same_from``."""
    above = slice(int(score_bins(np.array([same_from], dtype=np.float32))[0]), None)
    value = float(curve.free[above].sum()) + curve.fixed["same"]
    return Counted(value, _AT_95 * sqrt(float(curve.spread[above].sum())))
