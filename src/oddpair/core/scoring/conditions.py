"""Applies the conditions of a plan to compared pairs."""

from functools import reduce
from operator import and_, or_

import numpy as np
import numpy.typing as npt

from ..compare import comparison
from ..compare.base import Bits, Levels
from ..plan import MatchPlan
from ..plan.conditions import Condition, Test

Truth = npt.NDArray[np.bool_]


def _holds(test: Test, plan: MatchPlan, levels: Levels) -> Truth:
    if test.every is not None:
        return reduce(and_, (_holds(inner, plan, levels) for inner in test.every))
    if test.some is not None:
        return reduce(or_, (_holds(inner, plan, levels) for inner in test.some))
    if test.none is not None:
        return ~_holds(test.none, plan, levels)
    row = [rule.name for rule in plan.comparisons].index(test.comparison or "")
    kind = comparison(plan.comparisons[row].using)
    of_level = np.zeros(len(kind.levels), dtype=np.bool_)
    of_level[[kind.level_number(level) for level in test.levels or ()]] = True
    holds: Truth = of_level[levels[row]]
    return holds


def holding(plan: MatchPlan, condition: Condition, levels: Levels) -> Truth:
    """Return of which pairs a condition holds, whatever stands before it."""
    return np.ones(levels.shape[1], dtype=np.bool_) if condition.when is None else _holds(condition.when, plan, levels)


def apply_conditions(plan: MatchPlan, levels: Levels, bits: Bits) -> tuple[Bits, Truth, npt.NDArray[np.int8]]:
    """Return (scores moved into the band that a condition says, pairs it forbids, number of the condition or -1).

    The first condition that holds decides. *Same* lifts the score to the upper limit if it is below, *unsure* brings it
    between the limits, *at most unsure* and *kept apart* lower it below the upper one, *different* forbids the pair as a veto does.
    """
    moved = bits.copy()
    forbidden = np.zeros(len(bits), dtype=np.bool_)
    deciding = np.full(len(bits), -1, dtype=np.int8)
    limits = plan.limits
    # Enough for the pair and, where it is the only link, for the mean between two clusters.
    below_same = np.nextafter(np.float32(limits.same), np.float32(-np.inf))
    joins = max(limits.same, plan.clustering.least_mean)
    for number, condition in enumerate(plan.conditions):
        free = deciding < 0
        holds = free & holding(plan, condition, levels)
        deciding[holds] = number
        if condition.then == "same":
            moved[holds] = np.maximum(moved[holds], joins)
        elif condition.then == "unsure":
            moved[holds] = np.clip(moved[holds], limits.unsure, below_same)
        elif condition.never_same:
            moved[holds] = np.minimum(moved[holds], below_same)
        else:
            forbidden |= holds
    return moved, forbidden, deciding
