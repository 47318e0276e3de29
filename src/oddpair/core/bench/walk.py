"""Walking along held pairs in order of score, filtered by what decided them and by what an edit changed."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from .held import HeldPairs
from .rescore import Rescored

Flags = npt.NDArray[np.bool_]
Shown = Literal["all", "gained", "lost"]


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which pairs are wanted: all, or those ``gained`` or ``lost`` against a plan; those that one comparison decides, or one condition."""

    shown: Shown = "all"
    decided_by: str = ""
    condition: str = ""


def deciding(rescored: Rescored, comparison: str) -> Flags:
    """Return the pairs whose verdict would be another without the evidence of a comparison."""
    names = [rule.name for rule in rescored.plan.comparisons]
    limits = np.array([rescored.plan.limits.unsure, rescored.plan.limits.same], dtype=np.float32)
    bits = rescored.scored.bits
    without = bits - rescored.evidence[names.index(comparison)]
    moved = np.searchsorted(limits, bits, side="right") != np.searchsorted(limits, without, side="right")
    decided: Flags = moved & ~rescored.scored.vetoed & (rescored.scored.condition < 0)
    return decided


def wanted_pairs(wanted: Wanted, rescored: Rescored, same_before: Flags) -> Flags:
    """Return which held pairs are wanted; ``same_before`` are those that the other plan calls the same."""
    flags = np.ones(len(same_before), dtype=np.bool_)
    if wanted.shown == "gained":
        flags &= rescored.same & ~same_before
    elif wanted.shown == "lost":
        flags &= same_before & ~rescored.same
    if wanted.decided_by:
        flags &= deciding(rescored, wanted.decided_by)
    if wanted.condition:
        titles = [condition.title for condition in rescored.plan.conditions]
        flags &= rescored.scored.condition == titles.index(wanted.condition)
    return flags


def around(held: HeldPairs, rescored: Rescored, flags: Flags, limit: float, many: int) -> npt.NDArray[np.intp]:
    """Return up to ``many`` wanted pairs on either side of a limit, from the highest score down; equal scores by record numbers."""
    places = np.flatnonzero(flags)
    bits = rescored.scored.bits[places]
    above, below = places[bits >= limit], places[bits < limit]
    nearest_above = above[np.lexsort((held.right[above], held.left[above], rescored.scored.bits[above]))][:many]
    nearest_below = below[np.lexsort((held.right[below], held.left[below], -rescored.scored.bits[below]))][:many]
    return np.concatenate((nearest_above[::-1], nearest_below))
