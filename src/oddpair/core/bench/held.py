"""Candidate pairs held by the bench, with what a match said of them that editing a plan leaves as it is."""

from dataclasses import dataclass, replace

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
class Settlement:
    """What the match of a pass settled, beyond levels: ``learned`` by name of the comparison, ``starts`` and ``correction`` by the contest
    for partners, and what calibration and rivals ``added`` to each pair (by ``codes``, ascending) in bits."""

    plan: MatchPlan
    learned: dict[str, LevelShares]
    matches_per_record: float
    relatives_per_record: float
    starts: Bits
    correction: Correction | None
    codes: Codes
    added: Bits

    def contest_of(self, left: IntArray, right: IntArray) -> Bits:
        """Return what the contest added to some pairs; 0 for those that were never settled."""
        bits = np.zeros(len(left), dtype=np.float32)
        if len(self.codes):
            wanted = pair_codes(left, right)
            places = np.minimum(np.searchsorted(self.codes, wanted), len(self.codes) - 1)
            found = self.codes[places] == wanted
            bits[found] = self.added[places[found]]
        return bits


@dataclass(frozen=True, slots=True)
class HeldPairs:
    """The pairs held of one pass: each stands for ``weight`` candidate pairs. ``contest`` is what the contest of the ``settlement`` added
    to each in bits."""

    settlement: Settlement
    blocks: BlockIndex
    left: IntArray
    right: IntArray
    weight: Bits
    contest: Bits
    taking_part: int

    @property
    def plan(self) -> MatchPlan:
        """Return the plan of a single pass that settled the pairs."""
        return self.settlement.plan

    def settled_by(self, settlement: Settlement) -> "HeldPairs":
        """Return the same pairs with what another match settled of them."""
        return replace(self, settlement=settlement, contest=settlement.contest_of(self.left, self.right))

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


def settlement_of(result: PassResult) -> Settlement:
    """Return what the match of a pass settled."""
    scorer, settled = result.scorer, result.settled
    codes, added = np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.float32)
    if settled.contest is not None:
        codes, added = pair_codes(settled.left, settled.right), (settled.calibrated + settled.rivals).astype(np.float32)
    return Settlement(
        result.plan, {rule.name: shares for rule, shares in zip(result.plan.comparisons, scorer.shares, strict=True)},
        scorer.matches_per_record, scorer.relatives_per_record, scorer.starts, scorer.correction, codes, added,
    )  # fmt: skip


def hold(result: PassResult, taking_part: int, most: int) -> HeldPairs:
    """Return the pairs to hold of a pass that was run with a sampling: ``most`` at most, those that score low thinned out further."""
    sample, settlement = _thinned(result.sample, most), settlement_of(result)
    contest = settlement.contest_of(sample.left, sample.right)
    return HeldPairs(settlement, result.blocks, sample.left, sample.right, sample.weight, contest, taking_part)


def _thinned(sample: PairSample, most: int) -> PairSample:
    """Return no more than about ``most`` pairs; of each weight as large a part, weighing more in return."""
    if len(sample) <= most:
        return sample
    share = most / len(sample)
    kept = np.random.default_rng(1).random(len(sample)) < share
    return PairSample(sample.left[kept], sample.right[kept], (sample.weight[kept] / share).astype(np.float32))
