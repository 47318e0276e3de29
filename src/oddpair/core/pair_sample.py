"""Candidate pairs held for a closer look: all that score near the limits, and a random part of those far below."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .blocking import BlockIndex, PairChunk
from .records import IntArray
from .sorting import stable_order

Weights = npt.NDArray[np.float32]
#: Mixing as in the finaliser of G. L. Steele, D. Lea and C. H. Flood, "Fast splittable pseudorandom number generators" (OOPSLA 2014).
_FIRST, _SECOND = np.uint64(0xBF58476D1CE4E5B9), np.uint64(0x94D049BB133111EB)


@dataclass(frozen=True, slots=True)
class PairSample:
    """Pairs of record numbers, and for how many candidate pairs each stands; in canonical order."""

    left: IntArray
    right: IntArray
    weight: Weights

    def __len__(self) -> int:
        return len(self.left)


@dataclass(frozen=True, slots=True)
class PairSampling:
    """How to draw: every pair down to ``within_bits`` below what counts, and of the others about ``far_pairs``."""

    within_bits: float
    far_pairs: int

    def share_of(self, blocks: BlockIndex) -> float:
        """Return which share in (0, 1] of the pairs far below to draw, where so many are proposed."""
        return min(1.0, self.far_pairs / max(sum(count.pairs_proposed for count in blocks.counts), 1))

    def draw(self, pairs: PairChunk, bits: npt.NDArray[np.float32], counts_from: float, share: float) -> PairSample:
        """Return those of some scored pairs that are drawn. Who is drawn hangs on the pair alone, not on the order of work."""
        near = bits >= counts_from - self.within_bits
        drawn = near | (lots(pairs.left, pairs.right) < share)
        weight = np.where(near, 1.0, 1.0 / share).astype(np.float32)
        return PairSample(pairs.left[drawn], pairs.right[drawn], weight[drawn])


def lots(left: IntArray, right: IntArray) -> npt.NDArray[np.float64]:
    """Return a lot in [0, 1) for every pair, the same whenever and with whomever it is drawn."""
    mixed = (left.astype(np.uint64) << np.uint64(32)) | right.astype(np.uint64)
    mixed = (mixed ^ (mixed >> np.uint64(30))) * _FIRST
    mixed = (mixed ^ (mixed >> np.uint64(27))) * _SECOND
    return ((mixed ^ (mixed >> np.uint64(31))) >> np.uint64(11)).astype(np.float64) / 2.0**53


def joined(samples: Sequence[PairSample]) -> PairSample:
    """Return samples of different pairs as one."""
    none = np.zeros(0, dtype=np.int32)
    left = np.concatenate([none, *(sample.left for sample in samples)])
    right = np.concatenate([none, *(sample.right for sample in samples)])
    weight = np.concatenate([np.zeros(0, dtype=np.float32), *(sample.weight for sample in samples)])
    order = stable_order(left, right)
    return PairSample(left[order], right[order], weight[order])
