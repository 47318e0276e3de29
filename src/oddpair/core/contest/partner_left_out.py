"""Calibration by leaving the partner out: how often the winner of a contest is false.

A record whose partner is sure would win somebody else if its partner were not there, and whoever it would win is false. So the
runners-up of sure records tell what records without a partner win, in the spirit of searches against decoys (J. E. Elias and
S. P. Gygi, "Target-decoy search strategy", Nature Methods 4, 2007): of all winners at some odds, the expected number of false
ones over the observed number is the local false discovery rate (B. Efron, "Large-scale simultaneous hypothesis testing", JASA
99, 2004). Runners-up are few, so what they tell of one bin is chance: their number is made to fall with rising odds by pooling
adjacent violators (M. Ayer et al., 1955), and so is the rate. Where there are few sure records the rate is pulled towards what
the odds themselves say.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .messages import Bits, Choices

#: Below this many sure records nothing is calibrated; so many more pull half of the way: no decision makes a leap.
_LEAST_SURE, _HALF_WAY_SURE = 20, 20.0
_SURE_PROBABILITY = 0.9
#: Odds are counted in bins of one bit from here to here.
_FROM, _TO = -12, 40
#: As many winners as the model expects them are added to every bin.
_PRIOR_WINNERS = 1.0
_NONE = -1000.0


@dataclass(frozen=True, slots=True)
class OddsCurve:
    """A rising curve from uncontested log2 odds to calibrated ones: straight between ``points`` and in steps of equal size
    beyond them; no change where there are no points. ``sure`` records it was learned from.
    """

    points: Bits
    values: Bits
    sure: int

    def __call__(self, odds_bits: Bits) -> Bits:
        """Return the calibrated log2 odds."""
        if not len(self.points):
            return odds_bits
        inside = np.interp(odds_bits, self.points, self.values)
        below = np.minimum(odds_bits - self.points[0], 0.0)
        above = np.maximum(odds_bits - self.points[-1], 0.0)
        return np.asarray(inside + below + above, dtype=np.float64)


def _best_two(odds_bits: Bits, choices: Choices) -> tuple[Bits, Bits, npt.NDArray[np.int64]]:
    """Return, per choice group, the odds of the best candidate and of the best that is no duplicate of it, and the place of the
    best pair."""
    pairs = len(odds_bits)
    group = np.repeat(np.arange(len(choices.starts) - 1), np.diff(choices.starts))
    pair = choices.order % max(pairs, 1)
    ordered = np.lexsort((pair, -odds_bits[pair], group))
    firsts = choices.starts[:-1]
    best = pair[ordered[firsts]]
    second = np.full(len(firsts), _NONE)
    other = choices.twins[ordered] != choices.twins[ordered[firsts]][group]
    np.maximum.at(second, group[other], odds_bits[pair[ordered[other]]])
    return odds_bits[best], second, best


def _never_falling(odds: Bits, weights: Bits) -> Bits:
    """Return the nearest values that never fall, by pooling neighbours that do."""
    values: list[float] = []
    sizes: list[float] = []
    counts: list[int] = []
    for value, weight in zip(odds.tolist(), weights.tolist(), strict=True):
        values.append(value)
        sizes.append(weight)
        counts.append(1)
        while len(values) > 1 and values[-2] > values[-1]:
            size = sizes[-2] + sizes[-1]
            pooled = (values[-2] * sizes[-2] + values[-1] * sizes[-1]) / size
            values[-2:], sizes[-2:], counts[-2:] = [pooled], [size], [counts[-2] + counts[-1]]
    return np.repeat(values, counts)


def curve_without_partners(
    odds_bits: Bits, rivals: Bits, choices: Choices, choosing: float, matches: float
) -> OddsCurve:
    """Return the curve that the candidate pairs teach.

    ``odds_bits`` are uncontested log2 odds, ``rivals`` what the contest takes from them. ``choosing`` counts the records that
    choose (one for each list it chooses in), ``matches`` how many of them are expected to have a partner.
    """
    none = OddsCurve(np.zeros(0), np.zeros(0), 0)
    if len(choices.starts) < 2:
        return none
    first, second, pair = _best_two(odds_bits, choices)
    sure = (odds_bits[pair] + rivals[pair]) >= np.log2(_SURE_PROBABILITY / (1 - _SURE_PROBABILITY))
    count = int(sure.sum())
    if count < _LEAST_SURE:
        return none

    def counted(values: Bits) -> Bits:
        seen = values[values > _NONE]
        bins = np.clip(np.floor(seen), _FROM, _TO - 1).astype(np.int64) - _FROM
        return np.bincount(bins, minlength=_TO - _FROM).astype(np.float64)

    winners = counted(first)
    # The fewer false winners there are, the more their number is chance: the better the odds, the fewer there may be.
    runners_up = _never_falling(counted(second[sure])[::-1], np.ones(_TO - _FROM))[::-1]
    false = runners_up * max(choosing - matches, 0.0) / count
    middle: Bits = np.arange(_FROM, _TO, dtype=np.float64) + 0.5
    chance = 1.0 / (1.0 + np.exp2(-middle))
    right = np.maximum(winners - false, 0.0) + _PRIOR_WINNERS * chance
    wrong = false + _PRIOR_WINNERS * (1.0 - chance)
    weight = winners + _PRIOR_WINNERS
    learned = np.clip(_never_falling(right / (right + wrong), weight), 1e-12, 1 - 1e-12)
    # What was pooled stands at its middle, and the curve rises from there to the next: neither flat nor in leaps.
    block = np.cumsum(np.diff(learned, prepend=learned[0]) > 0)
    points = np.bincount(block, weights=weight * middle) / np.bincount(block, weights=weight)
    rates = learned[np.unique(block, return_index=True)[1]]
    pull = (count - _LEAST_SURE) / (count - _LEAST_SURE + _HALF_WAY_SURE)
    values = pull * np.log2(rates / (1 - rates)) + (1 - pull) * points
    return OddsCurve(points, np.asarray(np.maximum.accumulate(values), dtype=np.float64), count)
