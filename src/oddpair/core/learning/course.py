"""Learning from first to last, as the plan bench does it: which pairs to ask next, and what all answers together teach."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .conditions import ConditionLesson, condition_lessons, condition_pairs
from .evidence_model import EvidenceView, Taught, teach
from .teaching_pairs import teaching_pairs

Flags = npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class JudgedPairs:
    """Pairs scored by an untaught plan: their evidence, which condition decides each (-1: none), and which a veto forbids."""

    view: EvidenceView
    condition: npt.NDArray[np.int8]
    vetoed: Flags

    @property
    def free(self) -> Flags:
        """Return the pairs that neither a condition nor a veto decides."""
        flags: Flags = (self.condition < 0) & ~self.vetoed
        return flags

    def at(self, rows: npt.NDArray[np.intp]) -> "JudgedPairs":
        """Return some of the pairs."""
        return JudgedPairs(self.view.at(rows), self.condition[rows], self.vetoed[rows])


@dataclass(frozen=True, slots=True)
class Course:
    """What decided pairs teach: the evidence model, what they say of conditions, and which of them (flags) it was learned from."""

    taught: Taught
    conditions: tuple[ConditionLesson, ...]
    learned_from: Flags

    @property
    def without(self) -> tuple[int, ...]:
        """Return the numbers of the conditions that are borne out so little that a learned plan goes without them."""
        return tuple(one.number for one in self.conditions if one.dropped)


def learn_from(decided: JudgedPairs, same: Flags, wrong_weighs: float) -> Course:
    """Return what decided pairs teach; those that a kept condition or a veto decides teach no weights."""

    def model(rows: Flags) -> Taught:
        return teach(decided.view.at(np.flatnonzero(rows)), same[rows])

    free = decided.free
    taught = model(free)
    lessons = condition_lessons(decided.view, decided.condition, same, taught, wrong_weighs)
    dropped = [one.number for one in lessons if one.dropped]
    if dropped:
        free = free | (np.isin(decided.condition, dropped) & ~decided.vetoed)
        taught = model(free)
    return Course(taught, lessons, free)


def next_pairs(
    pairs: JudgedPairs, weight: npt.NDArray[np.float32], still: Flags, course: Course, many: int, wrong_weighs: float
) -> npt.NDArray[np.intp]:
    """Return the places of up to ``many`` of the pairs that may ``still`` be asked about: those that judge a condition first, then those
    that teach most; each stands for ``weight`` pairs."""
    of_conditions = condition_pairs(
        pairs.view, pairs.condition, still & ~pairs.vetoed, course.conditions, course.taught, wrong_weighs
    )[:many]
    free = pairs.free | (np.isin(pairs.condition, course.without) & ~pairs.vetoed)
    rest = teaching_pairs(pairs.view, weight, still & free, course.taught, many - len(of_conditions))
    return np.concatenate((of_conditions, rest))
