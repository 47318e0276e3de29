"""Whether decided pairs bear out the conditions of a plan that leave pairs with a person.

A condition that says *at most unsure* or *kept apart* holds back pairs whose evidence would make them the same. If nearly all
that a person decides of these are the same, it costs more true pairs than it keeps wrong ones out, and a learned plan goes without
it; the share of the same among them is judged by its Beta posterior, which starts on the side of the condition.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import log2

import numpy as np
import numpy.typing as npt
from scipy.special import betaincc

from .evidence_model import EvidenceView, Taught

Flags = npt.NDArray[np.bool_]
#: Before any decision a condition is believed as if two pairs that it holds back had been decided different, and one the same.
_PRIOR_SAME, _PRIOR_DIFFERENT = 1.0, 2.0
_SURE = 0.9
#: So many pairs that a condition holds back are asked about; no more are needed to be sure where all are the same.
_ASKED = 8
_SEED = 1


@dataclass(frozen=True, slots=True)
class ConditionLesson:
    """What decisions say of a condition: how many of the decided pairs that it alone holds back are ``same`` and ``different``, and whether
    the learned plan goes without it (``dropped``)."""

    title: str
    number: int
    same: int
    different: int
    dropped: bool


def held_back(
    view: EvidenceView, condition: npt.NDArray[np.int8], number: int, taught: Taught, wrong_weighs: float
) -> Flags:
    """Return the pairs that condition ``number`` alone keeps from being the same: ``condition`` says which one decides each pair."""
    calibrated = taught.slope * view.bits.astype(np.float64) + taught.shift
    flags: Flags = (condition == number) & (calibrated >= log2(wrong_weighs))
    return flags


def condition_lessons(
    view: EvidenceView, condition: npt.NDArray[np.int8], same: Flags, taught: Taught, wrong_weighs: float
) -> tuple[ConditionLesson, ...]:
    """Return what decided pairs say of every condition that leaves pairs unsure at most; one wrong pair weighs as much as
    ``wrong_weighs`` missed ones."""
    told = []
    for number, one in enumerate(view.plan.conditions):
        if one.never_same:
            held = held_back(view, condition, number, taught, wrong_weighs)
            yes, no = int((held & same).sum()), int((held & ~same).sum())
            # The share of the same from which on the pairs it holds back are worth more than they harm.
            worth = wrong_weighs / (1 + wrong_weighs)
            sure = float(betaincc(yes + _PRIOR_SAME, no + _PRIOR_DIFFERENT, worth))
            told.append(ConditionLesson(one.title, number, yes, no, sure >= _SURE))
    return tuple(told)


def condition_pairs(
    view: EvidenceView, condition: npt.NDArray[np.int8], still: Flags, lessons: Sequence[ConditionLesson], taught: Taught,
    wrong_weighs: float,
) -> npt.NDArray[np.intp]:  # fmt: skip
    """Return the places of pairs to ask about, drawn by chance from those that conditions alone hold back: as many of each as are missing
    to judge it."""
    random = np.random.default_rng(_SEED)
    chosen = [np.zeros(0, dtype=np.intp)]
    for lesson in lessons:
        missing = _ASKED - lesson.same - lesson.different
        pool = np.flatnonzero(still & held_back(view, condition, lesson.number, taught, wrong_weighs))
        if missing > 0 and not lesson.dropped:
            chosen.append(random.permutation(pool)[:missing])
    return np.concatenate(chosen)
