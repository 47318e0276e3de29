"""Candidate pairs held by the bench, with what a match said of them that editing a plan leaves as it is."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..blocking import BlockIndex
from ..pair_sample import PairSample, PairSampling
from ..pipeline import PassResult
from ..plan import MatchPlan
from ..records import IntArray
from ..scoring import Correction
from ..scoring.weights import LevelShares

Bits = npt.NDArray[np.float32]
Codes = npt.NDArray[np.int64]
Places = npt.NDArray[np.intp]
#: Pairs are held down to so many bits below what counts, so that a plan that lifts them finds them.
_WITHIN_BITS = 12.0
#: About so many of the pairs further down are held, at most: they are all alike.
_FAR_PAIRS = 1_000_000


@dataclass(frozen=True, slots=True)
class HeldPairs:
    """The pairs held of one pass: each stands for ``weight`` candidate pairs. ``contest`` is what calibration and rivals added to each in
    bits, ``learned`` what was learned by name of the comparison, ``starts`` and ``correction`` what the contest made of them."""

    plan: MatchPlan
    blocks: BlockIndex
    left: IntArray
    right: IntArray
    weight: Bits
    contest: Bits
    learned: dict[str, LevelShares]
    matches_per_record: float
    relatives_per_record: float
    starts: Bits
    correction: Correction | None
    taking_part: int

    def __len__(self) -> int:
        return len(self.left)

    @property
    def standing_for(self) -> float:
        """Return for how many candidate pairs the held ones stand."""
        return float(self.weight.sum(dtype=np.float64))

    @property
    def are_all(self) -> bool:
        """Whether every candidate pair is held."""
        return bool((self.weight == 1.0).all())

    def contest_of(self, left: IntArray, right: IntArray) -> Bits:
        """Return what the contest added to some pairs; 0 for those that are not held."""
        places, which = self.places_of(pair_codes(left, right))
        added = np.zeros(len(left), dtype=np.float32)
        added[which] = self.contest[places]
        return added

    def places_of(self, wanted: Codes) -> tuple[Places, Places]:
        """Return (places among the held pairs, which of the wanted codes these are), of those wanted pairs that are held."""
        if not len(wanted):
            return np.zeros(0, dtype=np.intp), np.zeros(0, dtype=np.intp)
        order = np.argsort(wanted)
        codes = pair_codes(self.left, self.right)
        at = np.minimum(np.searchsorted(wanted[order], codes), len(wanted) - 1)
        places = np.flatnonzero(wanted[order[at]] == codes)
        return places, order[at[places]]


def pair_codes(left: IntArray, right: IntArray) -> Codes:
    """Return a number for each pair."""
    codes: Codes = left.astype(np.int64) << 32 | right.astype(np.int64)
    return codes


SAMPLING = PairSampling(_WITHIN_BITS, _FAR_PAIRS)


def hold(result: PassResult, taking_part: int, most: int) -> HeldPairs:
    """Return the pairs to hold of a pass that was run with a sampling: ``most`` at most, those that score low thinned out further."""
    scorer, settled = result.scorer, result.settled
    sample = _thinned(result.sample, most)
    added = np.zeros(len(sample), dtype=np.float32)
    if len(settled.left) and settled.contest is not None:
        held, known = pair_codes(sample.left, sample.right), pair_codes(settled.left, settled.right)
        places = np.minimum(np.searchsorted(known, held), len(known) - 1)
        found = known[places] == held
        added[found] = (settled.calibrated + settled.rivals)[places[found]]
    return HeldPairs(
        result.plan, result.blocks, sample.left, sample.right, sample.weight, added,
        {rule.name: shares for rule, shares in zip(result.plan.comparisons, scorer.shares, strict=True)},
        scorer.matches_per_record, scorer.relatives_per_record, scorer.starts, scorer.correction, taking_part,
    )  # fmt: skip


def _thinned(sample: PairSample, most: int) -> PairSample:
    """Return no more than about ``most`` pairs; of each weight as large a part, weighing more in return."""
    if len(sample) <= most:
        return sample
    share = most / len(sample)
    kept = np.random.default_rng(1).random(len(sample)) < share
    return PairSample(sample.left[kept], sample.right[kept], (sample.weight[kept] / share).astype(np.float32))
