"""Scores settled by a contest: which lists are free of duplicates, what the contest says, and the scores that come of it."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..compare import comparison
from ..records import IntArray
from ..scoring import Correction, ScoredPairs, Scorer
from .contest import Candidates, Contest, Lists, hold_contest
from .free_lists import FreeLists, find_free_lists, rivals_for_one_partner
from .messages import Flags

Floats = npt.NDArray[np.float32]
#: The overlap up to which pairs are kept that a contest could lift to the lower limit, and what slopes and offsets may add.
_LIKELY_SHARE, _ROOM_BITS = 0.6, 2.0
_FEW_COMPARISONS = 3.5
_NEVER_BITS, _CERTAIN_BITS = -100.0, 40.0


@dataclass(frozen=True, slots=True)
class Twins:
    """What is known of duplicates beforehand: in the ``sources`` (a flag each) records of one number are duplicates, and no others."""

    sources: Flags
    numbers: IntArray


@dataclass(frozen=True, slots=True)
class Settled:
    """Candidate pairs with settled scores. ``calibrated`` and ``rivals`` are the bits that calibration and rivals added to each;
    without a ``contest`` both are 0. ``free`` tells, per source, whether it counts as free of duplicates."""

    left: IntArray
    right: IntArray
    scored: ScoredPairs
    calibrated: Floats
    rivals: Floats
    contest: Contest | None
    free: Flags


def room_for_contest(scorer: Scorer, sizes: npt.NDArray[np.float64], meets: Flags) -> float:
    """Return how many bits below the lower limit pairs may score that a contest between lists of these sizes could still bring up to it."""
    if scorer.plan.weights.contest == "none" or not _some_meet(meets, sizes):
        return 0.0
    lists = Lists(np.maximum(sizes, 1.0), np.ones(len(sizes), dtype=np.bool_), meets)
    likely = lists.starts(_LIKELY_SHARE * np.minimum(lists.sizes[:, None], lists.sizes[None, :]))
    return float(max((likely - scorer.starts)[_across(meets)].max(initial=0.0), 0.0)) + _ROOM_BITS


def _across(meets: Flags) -> Flags:
    return meets & ~np.eye(len(meets), dtype=np.bool_)


def _some_meet(meets: Flags, sizes: npt.NDArray[np.float64]) -> bool:
    return bool((_across(meets) & (sizes > 0)[:, None] & (sizes > 0)[None, :]).any())


def codes_of(pairs: IntArray, count: int) -> npt.NDArray[np.int64]:
    """Return a number for each of some pairs, rows (left, right) in either order, among so many records."""
    codes: npt.NDArray[np.int64] = pairs.min(axis=1, initial=count).astype(np.int64) * count + pairs.max(
        axis=1, initial=0
    )
    return codes


def _known(
    left: IntArray, right: IntArray, vetoed: Flags, decided: tuple[IntArray, IntArray], count: int
) -> npt.NDArray[np.int8]:
    """Return, per pair, what is known of it: decided the same (1), decided different or vetoed (-1), or nothing (0)."""
    codes = np.minimum(left, right).astype(np.int64) * count + np.maximum(left, right)
    known = np.where(vetoed, -1, 0)
    same, different = decided
    known[np.isin(codes, codes_of(different, count))] = -1
    known[np.isin(codes, codes_of(same, count))] = 1
    return known.astype(np.int8)


def _free_lists(
    scorer: Scorer, left: IntArray, right: IntArray, scored: ScoredPairs, sources: IntArray, promised: Flags
) -> FreeLists:
    """Return which lists are free, judged by the candidate pairs and by pairs of records that fit one partner."""
    count = len(sources)
    odds = scored.bits.astype(np.float64)
    one, other = rivals_for_one_partner(left, right, odds, sources)
    known = np.isin(one.astype(np.int64) * count + other, left.astype(np.int64) * count + right)
    one, other = one[~known], other[~known]
    more = scorer.score(one, other)
    every_odds = np.concatenate((odds, np.where(more.vetoed, -_CERTAIN_BITS, more.bits)))
    found = find_free_lists(np.concatenate((left, one)), np.concatenate((right, other)), every_odds, sources, promised)
    return FreeLists(found.free, found.nearly, found.twins, found.neighbours[: len(left)])


def _with_known(found: FreeLists, twins: Twins, sources: IntArray) -> FreeLists:
    """Return free lists, with those whose duplicates are known; numbers of other lists' twins stay apart from the known ones."""
    of_known = twins.sources[sources]
    numbers = np.where(of_known, twins.numbers, found.twins + np.int32(twins.numbers.max(initial=0) + 1))
    return FreeLists(found.free, found.nearly | twins.sources, numbers.astype(np.int32), found.neighbours)


def is_little_known(scored: ScoredPairs) -> bool:
    """Whether pairs that are likely the same are told by few comparisons.

    Where there is more to tell by, in a register of several sources, duplicates inside them that were not found would be taken
    for rivals, and the contest would cost more than it brings.
    """
    known = (scored.levels[:, scored.bits >= 0] > 0).sum(axis=0)
    return not len(known) or float(known.mean()) < _FEW_COMPARISONS


def _in_full(scorer: Scorer, scored: ScoredPairs) -> Flags:
    """Return which pairs come out at the best level that what is known of them allows, in every comparison."""
    full, known = np.ones(len(scored.bits), dtype=np.bool_), np.zeros(len(scored.bits), dtype=np.bool_)
    for rule, levels in zip(scorer.plan.comparisons, scored.levels, strict=True):
        of_level = comparison(rule.using).known
        best = [0, *(of_level.index(part) + 1 for part in of_level)]
        full &= np.array(best, dtype=np.int8)[levels] == levels
        known |= levels > 0
    return full & known


def settle(
    scorer: Scorer, left: IntArray, right: IntArray, scored: ScoredPairs, *, sources: IntArray, sizes: npt.NDArray[np.float64],
    meets: Flags, promised: Flags, decided: tuple[IntArray, IntArray], twins: Twins | None = None,
    repeating: int | None = None,
) -> Settled:  # fmt: skip
    """Return the candidate pairs with the scores that a contest between free lists gives them; the scorer takes over its starts.

    ``sizes`` says how many records of every source take part, ``meets`` which sources are compared, ``promised`` which are
    promised to be free of duplicates. Of pairs inside lists that are found to be free, those that their partners tell apart are
    dropped below all limits, the others are at most unsure.
    ``decided`` are the pairs decided the same and those decided different, rows (left, right) in either order; ``twins`` are the
    duplicates that are known; of the source ``repeating`` any number of records may mean one of another, so that they do not compete.
    """
    nothing = np.zeros(len(left), dtype=np.float32)
    none = Settled(left, right, scored, nothing, nothing, None, promised)
    if scorer.plan.weights.contest == "none" or not _some_meet(meets, sizes):
        return none
    inside = _free_lists(scorer, left, right, scored, sources, promised)
    if twins is not None:
        inside = _with_known(inside, twins, sources)
    found = scorer.plan.weights.contest == "found"
    free = inside.free if found else promised
    contesting = inside.nearly if found and (int((sizes > 0).sum()) == 2 or is_little_known(scored)) else free
    if twins is not None:
        contesting = contesting | twins.sources
    if repeating is not None:
        others = np.arange(len(free)) != repeating
        free, contesting = free & others, contesting & others
    lists = Lists(np.maximum(sizes, 1.0), contesting, meets, inside.twins if found or twins else None)
    between = lists.contested
    if not between.any():
        return none
    known = _known(left, right, scored.vetoed, decided, len(sources))
    parts = scorer.parts(left, right)
    candidates = Candidates(
        left,
        right,
        parts.evidence.astype(np.float64),
        parts.relatives.astype(np.float64),
        scored.levels,
        known,
        _in_full(scorer, scored),
    )
    contest = hold_contest(candidates, sources, lists, scorer.table.base.shape[1])
    correction = contest.correction
    scorer.correct(
        np.where(between, contest.starts, scorer.starts),
        Correction(correction.slopes.astype(np.float32), correction.offsets.astype(np.float32), between),
    )
    full = (scorer.parts(left, right).bits + contest.calibrated + contest.rivals).astype(np.float32)
    at_home = free[sources[left]] & (sources[left] == sources[right])
    below_same = np.nextafter(np.float32(scorer.plan.limits.same), np.float32(-np.inf))
    bits = np.where(
        at_home & inside.neighbours, np.float32(_NEVER_BITS), np.where(at_home, np.minimum(full, below_same), full)
    )
    # What keeps two records of a free list apart are their partners, or that they have one and the same: rivals, too.
    rivals = (contest.rivals + (bits - full)).astype(np.float32)
    settled = scorer.by_conditions(scored, bits)
    return Settled(left, right, settled, contest.calibrated.astype(np.float32), rivals, contest, free)


class SettledScores:
    """Scores any pairs for clustering: candidates as they were settled, others by their evidence; relatives count as vetoed,
    so that no third record joins them."""

    def __init__(self, scorer: Scorer, settled: Settled, records: int) -> None:
        self._scorer, self._settled, self._count = scorer, settled, records
        self._moved = settled.contest is not None or bool(settled.calibrated.any() or settled.rivals.any())
        codes = settled.left.astype(np.int64) * self._count + settled.right
        self._order = np.argsort(codes)
        self._codes = codes[self._order]

    def score(self, left: IntArray, right: IntArray) -> ScoredPairs:
        """Return the scores of pairs; the order within a pair does not matter."""
        scored = self._scorer.score_within_clusters(left, right)
        if not self._moved or not len(self._codes):
            return scored
        codes = np.minimum(left, right).astype(np.int64) * self._count + np.maximum(left, right)
        places = np.minimum(np.searchsorted(self._codes, codes), len(self._codes) - 1)
        settled = self._settled.scored.bits[self._order[places]]
        bits = np.where(self._codes[places] == codes, settled, scored.bits)
        return ScoredPairs(bits, scored.levels, scored.vetoed, scored.condition)
