"""How good a plan is at every limit, by decided pairs: those of a fair sample stand for their stratum, others for themselves."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..evaluation import Quality, Stratum, decisions_needed, estimate_quality
from ..scoring import Calibration, fit_calibration
from .curve import BINS_PER_BIT, CURVE_FROM, score_bins
from .fair_sample import STRATA_FROM, Strata
from .held import HeldPairs
from .rescore import Rescored

Places = npt.NDArray[np.intp]
Flags = npt.NDArray[np.bool_]
_BINS = 400
_MOST_LIMITS = 61
_STEP_BITS = 0.5
_MARGIN = 0.01
#: No stratum is expected to be surer than this before its pairs are decided.
_NEVER_SURER = 0.05


@dataclass(frozen=True, slots=True)
class DecidedPlaces:
    """Decided pairs by their places among the held ones, and whether each is the same."""

    places: Places
    same: Flags


@dataclass(frozen=True, slots=True)
class QualityAt:
    """The quality of what would be called the same from ``limit`` bits on."""

    limit: float
    quality: Quality


@dataclass(frozen=True, slots=True)
class Measured:
    """A plan measured: at its own limit and along others; ``needed`` more decisions tell precision and recall to one in a hundred."""

    own: QualityAt
    along: tuple[QualityAt, ...]
    drawn: int
    known: int
    needed: int


class _Counts:
    """Pairs by stratum and by bin of their score, added up from the highest score down."""

    def __init__(self, strata: Strata, bins: npt.NDArray[np.int32], weight: npt.NDArray[np.float64]) -> None:
        rows = len(STRATA_FROM)
        flat = np.bincount(strata.astype(np.int64) * _BINS + bins, weights=weight, minlength=rows * _BINS)
        self._from = np.cumsum(flat.reshape(rows, _BINS)[:, ::-1], axis=1)[:, ::-1]

    def called(self, first: int) -> npt.NDArray[np.float64]:
        return np.asarray(self._from[:, first])

    @property
    def all(self) -> npt.NDArray[np.float64]:
        return np.asarray(self._from[:, 0])


def measure(
    held: HeldPairs, rescored: Rescored, strata: Strata, lowest: int, sample: DecidedPlaces, known: DecidedPlaces
) -> Measured:
    """Return how good a plan is among held pairs from stratum ``lowest`` on (as by the plan that the ``sample`` was drawn by).

    ``known`` are other decided pairs: they count as what they are, and are left out of what the sample stands for.
    """
    bins = _called_from(rescored)
    weight = held.weight.astype(np.float64)
    unknown = strata >= lowest
    unknown[known.places] = False
    seen = np.flatnonzero(unknown)
    every = _Counts(strata[seen], bins[seen], weight[seen])
    ones = np.ones(len(sample.places))
    inside = strata[sample.places] >= lowest
    own = sample.places[inside]
    decided = _Counts(strata[own], bins[own], ones[inside])
    same = _Counts(strata[own], bins[own], sample.same[inside].astype(np.float64))
    expected = _expected_shares(held, rescored, strata, seen, own, sample.same[inside])

    def cells(first: int) -> list[Stratum]:
        found: list[Stratum] = []
        for called in (True, False):
            sides = [
                counts.called(first) if called else counts.all - counts.called(first)
                for counts in (every, decided, same)
            ]
            for pairs, count, yes, share in zip(*(side.tolist() for side in sides), expected, strict=True):
                if pairs >= 0.5 or count:
                    found.append(Stratum(called, max(pairs, count), round(count), round(yes), share))
            mine = (bins[known.places] >= first) == called
            count, yes = int(mine.sum()), int((mine & known.same).sum())
            if count:
                found.extend(
                    Stratum(called, amount, amount, yes_of) for amount, yes_of in ((yes, yes), (count - yes, 0))
                )
        return found

    def at(limit: float) -> QualityAt:
        return QualityAt(limit, estimate_quality(cells(_bin(limit))))

    limit = rescored.plan.limits.same
    return Measured(
        at(limit), tuple(at(one) for one in _limits_around(limit)), len(own), len(known.places),
        decisions_needed(cells(_bin(limit)), _MARGIN),
    )  # fmt: skip


def _expected_shares(
    held: HeldPairs, rescored: Rescored, strata: Strata, seen: Places, decided: Places, same: Flags
) -> Sequence[float]:
    """Return the share of true pairs expected in every stratum: by scores as the decisions calibrate them, and never quite sure."""
    said = Calibration(**rescored.plan.probabilities.model_dump())
    calibration = fit_calibration(rescored.free_bits[decided], same, said)
    weight = held.weight[seen].astype(np.float64)
    chances = calibration.probability(rescored.free_bits[seen])
    pairs, true = (
        np.bincount(strata[seen], weights=amount, minlength=len(STRATA_FROM)) for amount in (weight, weight * chances)
    )
    shares: list[float] = np.clip(true / np.maximum(pairs, 1e-9), _NEVER_SURER, 1 - _NEVER_SURER).tolist()
    return shares


def _called_from(rescored: Rescored) -> npt.NDArray[np.int32]:
    """Return, per held pair, the bin of the highest limit at which it is still called the same: the last of all where a condition says so,
    the first where it never is."""
    bins = np.clip(score_bins(rescored.scored.bits), 1, _BINS - 2).astype(np.int32)
    says = np.array([*(condition.then for condition in rescored.plan.conditions), ""])[rescored.scored.condition]
    never = rescored.scored.vetoed | np.isin(says, ["different", "unsure", "at most unsure"])
    return np.where(never, 0, np.where(says == "same", _BINS - 1, bins)).astype(np.int32)


def _bin(limit: float) -> int:
    return min(max(round((limit - CURVE_FROM) * BINS_PER_BIT), 1), _BINS - 1)


def _limits_around(limit: float) -> Sequence[float]:
    half = _MOST_LIMITS // 2
    return [round(limit, 2) + _STEP_BITS * step for step in range(-half, half + 1)]
