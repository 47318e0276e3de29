"""How good a plan is at every limit, by decided pairs: those of a fair sample stand for their stratum, others for themselves."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ..evaluation import Estimate, Quality, Stratum, decisions_needed, estimate_quality, f1_gained
from ..scoring import fit_calibration
from .fair_sample import STRATA_FROM, Strata
from .held import HeldPairs
from .rescore import Rescored

Places = npt.NDArray[np.intp]
Flags = npt.NDArray[np.bool_]
#: Limits are looked at in steps of half a bit, so many on either side of the plan's own, which is exact.
_STEP_BITS, _STEPS = 0.5, 30
#: The number of the plan's own limit; 0 is below all limits, the last one above all.
_OWN, _BINS = _STEPS + 1, 2 * _STEPS + 3
_MARGIN = 0.01
#: Weights add up to so little only where nothing is.
_PART_OF_A_PAIR = 0.5
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
    """A plan measured by ``drawn`` decided pairs of the sample and ``known`` others: at its limit and along others; ``f1_gained`` against
    another plan; ``needed`` more decisions tell precision and recall to one in a hundred."""

    own: QualityAt
    f1_gained: Estimate
    along: tuple[QualityAt, ...]
    drawn: int
    known: int
    needed: int


def measure(
    held: HeldPairs, rescored: Rescored, same_before: Flags, *, strata: Strata, lowest: int, sample: DecidedPlaces, known: DecidedPlaces
) -> Measured:  # fmt: skip
    """Return how good a plan is among held pairs, also against one that calls other pairs the same (``same_before``).

    Pairs from stratum ``lowest`` on count, as they are by the plan that the ``sample`` was drawn by. ``known`` are other decided pairs:
    they count as what they are, and are left out of what the sample stands for.
    """
    unknown = strata >= lowest
    unknown[known.places] = False
    inside = strata[sample.places] >= lowest
    basis = _Basis(
        strata, held.weight.astype(np.float64), np.flatnonzero(unknown),
        DecidedPlaces(sample.places[inside], sample.same[inside]), known, (),
    )  # fmt: skip
    basis = replace(basis, expected=_expected_shares(rescored, basis))
    along = _Along(basis, _called_from(rescored))
    limit = rescored.plan.limits.same

    def at(step: int) -> QualityAt:
        return QualityAt(round(limit + step * _STEP_BITS, 2), estimate_quality(along.cells(_OWN + step)))

    verdict = 2 * rescored.same.astype(np.int64) + same_before
    cells, before = _cells_of_two(basis, verdict)
    return Measured(
        at(0), f1_gained(cells, before), tuple(at(step) for step in range(-_STEPS, _STEPS + 1)), len(basis.sample.places),
        len(known.places), decisions_needed(along.cells(_OWN), _MARGIN),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Basis:
    """What figures rest on: strata and weight of all held pairs, the places of those the sample stands for (``seen``), decided pairs, and
    the share of true pairs ``expected`` in every stratum."""

    strata: Strata
    weight: npt.NDArray[np.float64]
    seen: Places
    sample: DecidedPlaces
    known: DecidedPlaces
    expected: Sequence[float]


def _cells_of_two(basis: _Basis, verdict: npt.NDArray[np.int64]) -> tuple[list[Stratum], list[bool]]:
    """Return the strata cut by what two plans say (verdict 2 or 3: this plan says same, 1 or 3: the other one), and what the other says."""
    counts = [
        np.bincount(
            4 * basis.strata[rows].astype(np.int64) + verdict[rows], weights=amount, minlength=4 * len(STRATA_FROM)
        )
        for rows, amount in (
            (basis.seen, basis.weight[basis.seen]),
            (basis.sample.places, None),
            (basis.sample.places[basis.sample.same], None),
        )
    ]
    cells: list[Stratum] = []
    before: list[bool] = []
    for cell in np.flatnonzero(counts[0] + counts[1]).tolist():
        pairs, count, yes = (float(one[cell]) for one in counts)
        cells.append(Stratum(cell % 4 >= 2, max(pairs, count), int(count), int(yes), basis.expected[cell // 4]))
        before.append(cell % 2 == 1)
    for said in range(4):
        own = _certain(basis.known, verdict[basis.known.places] == said, called=said >= 2)
        cells.extend(own)
        before.extend(said % 2 == 1 for _ in own)
    return cells, before


def _certain(known: DecidedPlaces, rows: Flags, *, called: bool) -> list[Stratum]:
    """Return strata of decided pairs that stand for themselves only."""
    count, yes = int(rows.sum()), int((rows & known.same).sum())
    amounts = ((yes, yes), (count - yes, 0))
    return [Stratum(called, amount, amount, true) for amount, true in amounts if amount]


class _Along:
    """Pairs by stratum and by the highest limit at which they are called the same, added up from above: cells for any limit at once."""

    def __init__(self, basis: _Basis, bins: npt.NDArray[np.int32]) -> None:
        self._basis, self._bins = basis, bins
        sample = basis.sample
        self._every = self._from_above(basis.seen, basis.weight[basis.seen])
        self._decided = self._from_above(sample.places, np.ones(len(sample.places)))
        self._same = self._from_above(sample.places, sample.same.astype(np.float64))

    def _from_above(self, rows: Places, weight: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
        flat = np.bincount(
            self._basis.strata[rows].astype(np.int64) * _BINS + self._bins[rows],
            weights=weight,
            minlength=len(STRATA_FROM) * _BINS,
        )
        return np.asarray(np.cumsum(flat.reshape(-1, _BINS)[:, ::-1], axis=1)[:, ::-1])

    def cells(self, first: int) -> list[Stratum]:
        """Return the strata, cut at a limit by the bin that begins there."""
        found: list[Stratum] = []
        for called in (True, False):
            sides = [
                counts[:, first] if called else counts[:, 0] - counts[:, first]
                for counts in (self._every, self._decided, self._same)
            ]
            rows = zip(*(side.tolist() for side in sides), self._basis.expected, strict=True)
            found.extend(
                Stratum(called, max(pairs, count), round(count), round(yes), share)
                for pairs, count, yes, share in rows
                if pairs >= _PART_OF_A_PAIR or count
            )
            known = self._basis.known
            found.extend(_certain(known, (self._bins[known.places] >= first) == called, called=called))
        return found


def _expected_shares(rescored: Rescored, basis: _Basis) -> Sequence[float]:
    """Return the share of true pairs expected in every stratum: by scores as the decisions calibrate them, and never quite sure."""
    calibration = fit_calibration(rescored.free_bits[basis.sample.places], basis.sample.same, rescored.calibration)
    weight = basis.weight[basis.seen]
    chances = calibration.probability(rescored.free_bits[basis.seen])
    pairs, true = (
        np.bincount(basis.strata[basis.seen], weights=amount, minlength=len(STRATA_FROM))
        for amount in (weight, weight * chances)
    )
    shares: list[float] = np.clip(true / np.maximum(pairs, 1e-9), _NEVER_SURER, 1 - _NEVER_SURER).tolist()
    return shares


def _called_from(rescored: Rescored) -> npt.NDArray[np.int32]:
    """Return, per held pair, the number of the highest limit, in steps around the plan's own, at which it is still called the same: that of
    the last of all where a condition says so, of none where it never is."""
    steps = (rescored.scored.bits.astype(np.float64) - rescored.plan.limits.same) / _STEP_BITS
    bins = np.clip(np.floor(steps) + _OWN, 1, _BINS - 2).astype(np.int32)
    says = np.array([*(condition.then for condition in rescored.plan.conditions), ""])[rescored.scored.condition]
    never = rescored.scored.vetoed | ~np.isin(says, ["same", ""])
    return np.where(never, 0, np.where(says == "same", _BINS - 1, bins)).astype(np.int32)
