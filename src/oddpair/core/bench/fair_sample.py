"""A fair sample of held pairs: drawn by chance from strata of like odds, most where an answer tells most.

The strata are those of the odds by the plan that the sample is drawn by, whatever plan is measured with it later (W. G. Cochran, "Sampling
Techniques", 1977, chapters 5 and 5A). How many pairs of each are drawn follows J. Neyman (JRSS 97, 1934), with the plan's own
probabilities standing in for what is not known yet. Strata of many more pairs than there are true ones are not drawn from: no sample would
tell anything of them.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..records import IntArray
from .held import HeldPairs
from .rescore import Rescored

Strata = npt.NDArray[np.int8]
Flags = npt.NDArray[np.bool_]
#: Log2 odds at which strata begin; the lowest ones are drawn from only as long as what lies below is worth it.
STRATA_FROM = (-20.0, -17.0, -14.0, -11.0, -8.0, -5.0, -3.0, -1.5, 0.0, 1.5, 3.0, 5.0, 8.0)
#: Strata are drawn from as long as they hold no more than so many pairs for every true one that is expected in all.
_MOST_PAIRS_PER_TRUE_ONE, _FEW_PAIRS = 2.0, 200
#: No stratum's pairs are taken to be surer than this before any of them is decided.
_LEAST_SPREAD = 0.03


@dataclass(frozen=True, slots=True)
class StratumOfPairs:
    """A stratum: from which odds (log2) on, how many candidate pairs it holds, and how many of them are expected to be true."""

    odds_from: float
    pairs: float
    expected: float


def strata_of(rescored: Rescored) -> Strata:
    """Return the stratum of every held pair by its odds, conditions and vetoes left aside; -1 below the lowest."""
    odds = rescored.calibration.slope * rescored.free_bits + np.float32(rescored.calibration.shift)
    return (np.searchsorted(np.array(STRATA_FROM, dtype=np.float32), odds, side="right") - 1).astype(np.int8)


def strata_drawn_from(held: HeldPairs, rescored: Rescored) -> tuple[int, tuple[StratumOfPairs, ...]]:
    """Return (the lowest stratum that pairs are drawn from, all strata)."""
    strata, chances = strata_of(rescored), rescored.calibration.probability(rescored.free_bits)
    weight = held.weight.astype(np.float64)
    # What lies below all strata comes first.
    pairs = np.bincount(strata + 1, weights=weight, minlength=len(STRATA_FROM) + 1)
    expected = np.bincount(strata + 1, weights=weight * chances, minlength=len(STRATA_FROM) + 1)
    unlikely = np.array(STRATA_FROM) < 0
    too_many = np.flatnonzero(
        unlikely & (pairs[1:] > np.maximum(_MOST_PAIRS_PER_TRUE_ONE * expected.sum(), _FEW_PAIRS))
    )
    lowest = int(too_many.max(initial=-1)) + 1
    told = tuple(
        StratumOfPairs(*row) for row in zip(STRATA_FROM, pairs[1:].tolist(), expected[1:].tolist(), strict=True)
    )
    return lowest, told


def draw_fairly(
    held: HeldPairs, rescored: Rescored, open_pairs: Flags, drawn: IntArray, many: int, seed: int
) -> npt.NDArray[np.intp]:
    """Return the places of about ``many`` further pairs to decide, in an order that says nothing of them.

    ``open_pairs`` may be drawn; ``drawn`` says how many of every stratum are drawn already.
    """
    random = np.random.default_rng(seed)
    lowest, told = strata_drawn_from(held, rescored)
    strata = strata_of(rescored)
    sizes = np.array([one.pairs for one in told])
    chances = np.clip(np.array([one.expected for one in told]) / np.maximum(sizes, 1e-9), 0, 1)
    spread = sizes * np.maximum(np.sqrt(chances * (1 - chances)), _LEAST_SPREAD)
    spread[:lowest] = 0.0
    total = many + int(drawn.sum())
    wanted = np.ceil(np.maximum(total * spread / max(float(spread.sum()), 1e-9) - drawn, 0.0))
    wanted *= min(1.0, many / max(float(wanted.sum()), 1.0))
    chosen = [np.zeros(0, dtype=np.intp)]
    for stratum in range(lowest, len(STRATA_FROM)):
        pool = np.flatnonzero((strata == stratum) & open_pairs)
        size = min(round(float(wanted[stratum])), len(pool))
        if size:
            weight = held.weight[pool].astype(np.float64)
            chosen.append(random.choice(pool, size, replace=False, p=weight / weight.sum()))
    return random.permutation(np.concatenate(chosen))
