"""What blocking misses: some records, drawn by chance, held against all others that no block brings them together with.

Every pair of a register has the same chance to be looked at, that one of its records is drawn, so that what is found there tells how
many such pairs the whole register holds (W. G. Cochran, "Sampling Techniques", 1977, chapter 9: records are the units drawn). The
interval is that of a count without any expectation (H. Jeffreys' prior of a Poisson rate).
"""

from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.special import gammaincinv

from ..blocking import BlockIndex, keys_that_bring
from ..compare.base import Bits
from ..evaluation import Estimate
from ..records import IntArray
from ..scoring import Scorer

Progress = Callable[[str, int, int], None]
#: About so many pairs are looked at.
PAIRS_LOOKED_AT = 12_000_000
_PAIRS_AT_ONCE, _THREADS = 500_000, 2


@dataclass(frozen=True, slots=True)
class OutsideLook:
    """``drawn`` of ``records`` records were held against all others, ``looked_at`` pairs in all; those that no block brings together and
    that score at or above the lower limit are told, the highest score first."""

    records: int
    drawn: int
    looked_at: int
    left: IntArray
    right: IntArray
    bits: Bits


def look_outside(
    scorer: Scorer, index: BlockIndex, sources: IntArray, meets: npt.NDArray[np.bool_], seed: int, progress: Progress
) -> OutsideLook:
    """Return what some records drawn with ``seed`` have outside of the blocks of ``index``; ``progress`` may raise Cancelled."""
    count = len(sources)
    many = int(np.clip(PAIRS_LOOKED_AT // max(count, 1), 1, count))
    drawn = np.sort(np.random.default_rng(seed).choice(count, many, replace=False)).astype(np.int32)
    everyone = np.arange(count, dtype=np.int32)
    rank = np.full(count, count, dtype=np.int32)
    rank[drawn] = np.arange(many, dtype=np.int32)

    def look(chosen: IntArray) -> tuple[IntArray, IntArray, Bits, int]:
        one, other = np.repeat(chosen, count), np.tile(everyone, len(chosen))
        # A pair of two drawn records is looked at once, from the one drawn first.
        fresh = meets[sources[one], sources[other]] & (one != other) & (rank[other] > rank[one])
        one, other = one[fresh], other[fresh]
        left, right = np.minimum(one, other), np.maximum(one, other)
        scored = scorer.score(left, right)
        high = scorer.kept(scored)
        left, right, bits = left[high], right[high], scored.bits[high]
        outside = ~keys_that_bring(index, left, right).any(axis=0)
        return left[outside], right[outside], bits[outside], len(one)

    at_once = max(_PAIRS_AT_ONCE // max(count, 1), 1)
    parts = [drawn[start : start + at_once] for start in range(0, many, at_once)]
    found: list[tuple[IntArray, IntArray, Bits, int]] = []
    with ThreadPoolExecutor(_THREADS) as pool:
        # A few at a time, so that a cancelled look ends soon.
        for start in range(0, len(parts), 2 * _THREADS):
            progress("look outside the blocks", start, len(parts))
            found.extend(pool.map(look, parts[start : start + 2 * _THREADS]))
    left, right, bits = (np.concatenate([part[side] for part in found]) for side in range(3))
    order = np.lexsort((right, left, -bits))
    return OutsideLook(count, many, sum(part[3] for part in found), left[order], right[order], bits[order])


def missed_pairs(records: int, drawn: int, chances: Iterable[float]) -> Estimate:
    """Return how many true pairs of all ``records`` no block brings together: ``chances`` says of each pair found how likely it is true
    (1 or 0 where it is decided)."""
    apart = (records - drawn) * max(records - drawn - 1, 0) / max(records * (records - 1), 1)
    share = 1.0 - apart
    true = float(sum(chances))
    low, high = gammaincinv(true + 0.5, [0.025, 0.975])
    if share >= 1.0:
        return Estimate(true, true, true)
    return Estimate(true / share, float(low) / share if true else 0.0, float(high) / share)
