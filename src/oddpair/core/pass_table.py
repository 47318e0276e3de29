"""What the passes of a plan leave behind: the pairs as they stand after each, and what came of every record."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import IntEnum

import numpy as np
import numpy.typing as npt

from .contest import Settled
from .joint_codes import distinct_rows
from .records import IntArray
from .scoring import ScoredPairs
from .sides import Sides
from .sorting import stable_order

Flags = npt.NDArray[np.bool_]


class Outcome(IntEnum):
    """What came of a record in a pass: it took no part, had its *same* before, found it, has several counterparts in doubt, one that
    is in doubt, or none."""

    NOT_IN = 0
    BEFORE = 1
    SAME = 2
    SEVERAL = 3
    UNSURE = 4
    LEFT = 5

    @property
    def word(self) -> str:
        """Return the outcome as it is told."""
        return _WORDS[self]


_WORDS = {
    Outcome.NOT_IN: "not in", Outcome.BEFORE: "same before", Outcome.SAME: "same", Outcome.SEVERAL: "several",
    Outcome.UNSURE: "unsure", Outcome.LEFT: "left",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class StandingPairs:
    """Pairs in canonical order as they stand: their scores, of which ``levels`` has a row per comparison of the pass with most of
    them; whether they are ``kept`` (at or above the lower limit), what calibration and rivals made of the score, and the number of
    the pass that said so."""

    left: IntArray
    right: IntArray
    scored: ScoredPairs
    kept: Flags
    calibrated: npt.NDArray[np.float32]
    rivals: npt.NDArray[np.float32]
    passed: npt.NDArray[np.int8]

    @staticmethod
    def none(comparisons: int) -> "StandingPairs":
        """Return the absence of pairs."""
        nobody, floats = np.zeros(0, dtype=np.int32), np.zeros(0, dtype=np.float32)
        scored = ScoredPairs(floats, np.zeros((comparisons, 0), np.int8), np.zeros(0, np.bool_), np.zeros(0, np.int8))
        return StandingPairs(nobody, nobody, scored, np.zeros(0, np.bool_), floats, floats, np.zeros(0, np.int8))

    @staticmethod
    def of(settled: Settled, kept: Flags, number: int, comparisons: int) -> "StandingPairs":
        """Return the pairs that a pass settled."""
        return StandingPairs(
            settled.left, settled.right, with_levels(settled.scored, comparisons), kept, settled.calibrated, settled.rivals,
            np.full(len(settled.left), number, dtype=np.int8),
        )  # fmt: skip

    def at(self, rows: npt.NDArray[np.intp] | Flags) -> "StandingPairs":
        """Return some of the pairs."""
        return StandingPairs(
            self.left[rows], self.right[rows], self.scored.at(rows), self.kept[rows], self.calibrated[rows], self.rivals[rows],
            self.passed[rows],
        )  # fmt: skip

    def codes(self, records: int) -> npt.NDArray[np.int64]:
        """Return a number for every pair, by its two records."""
        return self.left.astype(np.int64) * records + self.right

    def joined(self, more: "StandingPairs") -> "StandingPairs":
        """Return these pairs and others, none of which is the same, in canonical order."""
        left, right = np.concatenate((self.left, more.left)), np.concatenate((self.right, more.right))
        scored = self.scored.joined(more.scored)
        both = StandingPairs(
            left, right, scored, np.concatenate((self.kept, more.kept)), np.concatenate((self.calibrated, more.calibrated)),
            np.concatenate((self.rivals, more.rivals)), np.concatenate((self.passed, more.passed)),
        )  # fmt: skip
        return both.at(stable_order(left, right))


def with_levels(scored: ScoredPairs, comparisons: int) -> ScoredPairs:
    """Return scored pairs with so many rows of levels; those that a pass does not compare are missing."""
    missing = np.zeros((comparisons - len(scored.levels), len(scored.bits)), dtype=np.int8)
    return ScoredPairs(
        scored.bits, np.concatenate((scored.levels, missing)) if len(missing) else scored.levels, scored.vetoed, scored.condition
    )  # fmt: skip


def after_pass(standing: StandingPairs, fresh: StandingPairs, sides: Sides, labels: IntArray) -> StandingPairs:
    """Return the pairs as they stand after one more pass.

    What an earlier pass found the same, in one cluster by its ``labels``, stands. Of what was in doubt, this pass says what becomes of it
    if it compared the two; what it dropped is no longer in doubt.
    """
    joined = labels[standing.left] == labels[standing.right]
    stays = joined | ~sides.meet(standing.left, standing.right)
    kept = standing.at(stays)
    known = kept.codes(len(labels))
    return kept.joined(fresh.at(~np.isin(fresh.codes(len(labels)), known)))


def unsure_pairs(standing: StandingPairs, labels: IntArray) -> StandingPairs:
    """Return the pairs in doubt: kept, and of two clusters."""
    return standing.at(standing.kept & (labels[standing.left] != labels[standing.right]))


def outcomes(standing: StandingPairs, before: IntArray, labels: IntArray, sides: Sides) -> npt.NDArray[np.int8]:
    """Return what a pass made of every record; ``before`` and ``labels`` are the clusters before and after it.

    A record has *several* counterparts if pairs in doubt lead to two clusters or more beside its own.
    """
    outcome = np.full(len(labels), Outcome.LEFT, dtype=np.int8)
    unsure = unsure_pairs(standing, labels)
    one, other = np.concatenate((unsure.left, unsure.right)), np.concatenate((unsure.right, unsure.left))
    if len(one):
        first, _ = distinct_rows([one, labels[other]])
        counterparts = np.bincount(one[first], minlength=len(labels))
        outcome[counterparts == 1] = Outcome.UNSURE
        outcome[counterparts > 1] = Outcome.SEVERAL
    outcome[_in_company(labels)] = Outcome.SAME
    outcome[_in_company(before)] = Outcome.BEFORE
    outcome[~sides.taking_part] = Outcome.NOT_IN
    return outcome


def packed(outcomes_of_passes: Sequence[npt.NDArray[np.int8]]) -> npt.NDArray[np.int64]:
    """Return what came of every record in every pass as one number a record, three bits a pass, those of the first pass lowest."""
    numbers = np.zeros(len(outcomes_of_passes[0]), dtype=np.int64)
    for place, told in enumerate(outcomes_of_passes):
        numbers |= told.astype(np.int64) << (3 * place)
    return numbers


def _in_company(labels: IntArray) -> Flags:
    """Return which records are in one cluster with another."""
    company: Flags = np.bincount(labels)[labels] > 1
    return company


def unmatched(labels: IntArray) -> Flags:
    """Return which records have no *same*."""
    return ~_in_company(labels)


def ambiguous(standing: StandingPairs, labels: IntArray) -> Flags:
    """Return which records are in doubt."""
    unsure = unsure_pairs(standing, labels)
    flags = np.zeros(len(labels), dtype=np.bool_)
    flags[unsure.left] = flags[unsure.right] = True
    return flags
