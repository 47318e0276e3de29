"""What each condition of a plan decides among held pairs, and the order in which they catch most."""

from dataclasses import dataclass

import numpy as np

from ..scoring.conditions import holding
from .held import HeldPairs
from .rescore import Rescored


@dataclass(frozen=True, slots=True)
class ConditionCount:
    """A condition: its title, of how many candidate pairs it ``holds``, and how many it ``decides`` in its place of the order."""

    title: str
    then: str
    holds: float
    decides: float
    best_place: int


def condition_counts(held: HeldPairs, rescored: Rescored) -> tuple[ConditionCount, ...]:
    """Return the counts of every condition, with its place (from 1) in the order in which they catch most.

    That order takes, again and again, the condition that holds for most pairs that none before it holds for.
    """
    plan, weight = rescored.plan, held.weight.astype(np.float64)
    holds = [holding(plan, condition, rescored.scored.levels) for condition in plan.conditions]
    places: dict[int, int] = {}
    left = np.ones(len(weight), dtype=np.bool_)
    while len(places) < len(holds):
        caught = {number: float(weight[own & left].sum()) for number, own in enumerate(holds) if number not in places}
        first = max(caught, key=lambda number: (caught[number], -number))
        places[first] = len(places) + 1
        left &= ~holds[first]
    decided = rescored.scored.condition
    return tuple(
        ConditionCount(
            condition.title, condition.then, float(weight[holds[number]].sum()),
            float(weight[decided == number].sum()), places[number],
        )
        for number, condition in enumerate(plan.conditions)
    )  # fmt: skip
