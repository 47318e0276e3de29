"""The contest as a whole: matches between lists counted, odds calibrated, and what rivals take from every pair."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.special import expit

from ..records import IntArray
from .messages import Bits, Flags, choices_of, rival_bits
from .partner_left_out import OddsCurve, curve_without_partners
from .refit import Refit, refit

Matrix = npt.NDArray[np.float64]

_ROUNDS, _SETTLED_SHARE = 20, 0.003
#: How often evidence is fitted anew to the outcome.
_REFITS = 3
#: The share of matches among the records of the shorter list before anything is seen, and how many records it counts as.
_EXPECTED_SHARE, _EXPECTED_RECORDS = 0.3, 1.5
#: However well two lists overlap, some of the records left over could still be partners.
_LEAST_LEFT_OVER = 0.02
_CERTAIN_BITS = 40.0
#: Matches that are counted by what chance does not explain are as many as that less so many standard deviations.
_DEVIATIONS = 2.0
#: Evidence that was fitted anew must go on finding this share of them.
_LEAST_OF_SURE = 0.9


@dataclass(frozen=True, slots=True)
class Lists:
    """The sizes of the sources' lists, which of them are ``free`` of duplicates (but for records of the same number in ``twins``), and
    which ``meet``; where either of two that meet is free, they contest."""

    sizes: Matrix
    free: Flags
    meet: Flags
    twins: IntArray | None = None

    @property
    def contested(self) -> Flags:
        """Return, for every two sources, whether pairs between them are contested."""
        return (self.free[:, None] | self.free[None, :]) & self.meet & ~np.eye(len(self.free), dtype=np.bool_)

    def starts(self, matches: Matrix) -> Bits:
        """Return the log2 odds of blindly taken pairs between any two lists with so many matches.

        Exact would be matches / ((size - matches) (other size - matches)) if who has a partner were chance. Relatives that
        stand in one list only break that; the square root of the part left over held at every overlap that was tried.
        """
        shares = np.minimum(matches / self.sizes[:, None], 1.0), np.minimum(matches / self.sizes[None, :], 1.0)
        left_over = np.maximum((1.0 - shares[0]) * (1.0 - shares[1]), _LEAST_LEFT_OVER**2)
        return np.log2(np.maximum(matches, 1e-9)) - np.log2(np.outer(self.sizes, self.sizes)) - 0.5 * np.log2(left_over)


@dataclass(frozen=True, slots=True)
class Contest:
    """The outcome: ``between`` which sources it was held, which of them counted as ``free`` of duplicates but for those found, where
    scores ``start`` there, how many ``matches`` they have, how evidence is corrected, the calibration ``curve``, and per pair what
    calibration adds (``calibrated``) and what ``rivals`` take, in bits."""

    between: Flags
    free: Flags
    starts: Bits
    matches: Matrix
    correction: Refit
    curve: OddsCurve
    calibrated: Bits
    rivals: Bits


@dataclass(frozen=True, slots=True)
class Candidates:
    """Candidate pairs: records, their evidence in bits and levels (a row per comparison), what relatives take, and what is known of
    them: 1 decided the same, -1 that they cannot be, 0 nothing; and whether they agree ``in_full``, as far as anything is known."""

    left: IntArray
    right: IntArray
    evidence: Bits
    relatives: Bits
    levels: npt.NDArray[np.int8]
    known: npt.NDArray[np.int8]
    in_full: Flags


def surely_matched(candidates: Candidates, sources: IntArray, lists: Lists) -> Matrix:
    """Return how many matches between two lists there are at least: pairs that agree in full beyond what chance brings together.

    How often chance does is told by the pairs inside the lists, which are of different entities or, where they are duplicates, make
    the figure smaller than it is.
    """
    full = candidates.in_full & (candidates.known >= 0)
    pairs = np.zeros((len(lists.sizes), len(lists.sizes)))
    np.add.at(pairs, (sources[candidates.left[full]], sources[candidates.right[full]]), 1.0)
    inside = np.diag(pairs) / np.maximum(lists.sizes * (lists.sizes - 1) / 2, 1.0)
    by_chance = np.outer(lists.sizes, lists.sizes) * np.maximum(inside[:, None], inside[None, :])
    surely = np.maximum(pairs + pairs.T - by_chance - _DEVIATIONS * np.sqrt(by_chance + 1.0), 0.0)
    # Where pairs inside a list were not compared, nothing is known of chance.
    told = lists.meet[np.arange(len(inside)), np.arange(len(inside))]
    return np.where(told[:, None] & told[None, :], surely, 0.0)


def hold_contest(candidates: Candidates, sources: IntArray, lists: Lists, width: int) -> Contest:
    """Return the outcome of the contest between the candidate pairs of lists; ``width`` is the most levels of a comparison."""
    of_left, of_right = sources[candidates.left], sources[candidates.right]
    contested = lists.contested
    taking_part = contested[of_left, of_right]
    choices = choices_of(candidates.left, candidates.right, sources, lists.free, lists.twins)
    smaller = np.minimum(lists.sizes[:, None], lists.sizes[None, :])
    matches = _EXPECTED_SHARE * smaller
    least = np.minimum(surely_matched(candidates, sources, lists), smaller)
    correction = Refit.none(len(candidates.evidence), width)

    def odds(starts: Bits) -> Bits:
        bits = correction.corrected(candidates.evidence, candidates.levels).sum(axis=0) + candidates.relatives
        bits += starts[of_left, of_right]
        return np.where(
            candidates.known > 0, _CERTAIN_BITS, np.where((candidates.known < 0) | ~taking_part, -_CERTAIN_BITS, bits)
        )

    def counted(chances: Bits) -> Matrix:
        both = np.zeros_like(matches)
        np.add.at(both, (of_left, of_right), chances)
        return both + both.T

    refits = 0
    messages = np.ones(2 * len(candidates.left))
    for _ in range(_ROUNDS):
        uncontested = odds(lists.starts(matches))
        rivals = rival_bits(uncontested, choices, messages)
        chances = expit((uncontested + rivals) * np.log(2.0))
        before = matches
        matches = smaller * (counted(chances) + _EXPECTED_SHARE * _EXPECTED_RECORDS) / (smaller + _EXPECTED_RECORDS)
        if refits and counted(chances).sum() < _LEAST_OF_SURE * least.sum():
            # Where namesakes are many, all lose now and then, and what was fitted to that explains sure matches away.
            correction, refits = Refit.none(len(candidates.evidence), width), _REFITS
        matches = np.maximum(matches, least)
        if np.abs(matches - before).max(initial=0.0) < _SETTLED_SHARE * float(smaller.max(initial=1.0)):
            if refits == _REFITS:
                break
            refits += 1
            starting = lists.starts(matches)[of_left, of_right] + candidates.relatives
            part = taking_part & (candidates.known == 0)
            correction = refit(
                candidates.evidence[:, part], candidates.levels[:, part], starting[part], chances[part], width
            )
    starts = lists.starts(matches)
    uncontested = odds(starts)
    rivals = rival_bits(uncontested, choices, messages)
    directed = contested & lists.free[None, :]
    curve = curve_without_partners(
        uncontested, rivals, choices, float((lists.sizes[:, None] * directed).sum()), float((matches * directed).sum())
    )
    calibrated = np.where(candidates.known != 0, uncontested, curve(uncontested))
    added = np.where(taking_part, calibrated - uncontested, 0.0)
    rivals = np.where(taking_part, rival_bits(calibrated, choices, messages), 0.0)
    return Contest(contested, lists.free, starts, matches, correction, curve, added, rivals)
