"""What was learned, written into a plan: bits per level, how sure scores are, and limits where they should lie for it."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from math import log2
from typing import Any

import numpy as np

from ..plan import ComparisonRule, Learning, Limits, MatchPlan, Probabilities
from .evidence_model import EvidenceView, Taught

#: Bits of a level below this are noise, and are not written.
_LEAST_BITS = 0.05
_MOST_BITS, _STEEPEST, _LARGEST_SHIFT = 20.0, 5.0, 20.0
_LEAST_DOUBT_BITS = 0.5
#: Records that are the same differ in some values: the mean over all pairs between two clusters may be so many bits of odds less certain
#: than the link that joins them.
_MEAN_BELOW_BITS = 1.0


@dataclass(frozen=True, slots=True)
class LevelLesson:
    """What decisions say of a level: how many ``same`` and ``different`` pairs came out at it, and the ``bits`` they add to it."""

    comparison: str
    level: str
    same: int
    different: int
    bits: float


def as_untaught(plan: MatchPlan) -> MatchPlan:
    """Return a plan as it was before it learned, so that decisions never count twice; one that did not learn is left as it is."""
    before = plan.learning
    if before is None:
        return plan
    said: dict[str, Any] = {"limits": before.limits, "clustering": before.clustering}
    if before.conditions is not None:
        said["conditions"] = before.conditions
    parts = _with_parts(plan, before.of_pass, said, lambda rule: {})
    return plan.model_copy(update={**parts, "probabilities": before.probabilities, "learning": None})


def lessons_of(taught: Taught, view: EvidenceView, same: Sequence[bool]) -> tuple[LevelLesson, ...]:
    """Return what decided pairs say of every level that at least one of them came out at."""
    flags = np.asarray(same, dtype=np.bool_)
    design = view.design()[:, 2:] > 0
    bits = taught.bits_of_levels()
    counted = zip(taught.columns, design[flags].sum(axis=0).tolist(), design[~flags].sum(axis=0).tolist(), strict=True)
    return tuple(
        LevelLesson(name, level, yes, no, round(bits[name, level], 2)) for (name, level), yes, no in counted if yes + no
    )


def learned_plan(
    plan: MatchPlan, number: int, taught: Taught, decisions: int, wrong_weighs: float, without: Collection[int] = ()
) -> MatchPlan:
    """Return an untaught plan with what so many decisions taught its pass ``number``, ``without`` some conditions (their numbers).

    From the limit of *same* on it is more likely than 1 to ``wrong_weighs`` that a pair is the same: one wrong pair weighs as much as so
    many missed ones. Two clusters may join where the mean evidence between them is at most a bit of odds less. Where doubt begins,
    scores are as likely as they were said to be there before.
    """
    worth = taught.bits_of_levels()
    slope = round(min(taught.slope, _STEEPEST), 3)
    shift = round(float(np.clip(taught.shift, -_LARGEST_SHIFT, _LARGEST_SHIFT)), 2)
    present, said = plan.of_pass(number), plan.probabilities
    same = (log2(wrong_weighs) - shift) / slope
    unsure = (said.slope * present.limits.unsure + said.shift - shift) / slope
    limits = Limits(same=round(same, 2), unsure=round(min(unsure, same - _LEAST_DOUBT_BITS), 2))
    clustering, least_mean = present.clustering, round(same - _MEAN_BELOW_BITS / slope, 2)
    own: dict[str, Any] = {
        "limits": limits,
        "clustering": clustering.model_copy(update={"least_mean": min(clustering.least_mean, least_mean)}),
    }
    if without:
        kept = [one for place, one in enumerate(present.conditions) if place not in without]
        own["conditions"] = tuple(kept)
    before = Learning(
        decisions=decisions, of_pass=number, limits=present.limits, probabilities=said, clustering=clustering,
        conditions=present.conditions if without else None,
    )  # fmt: skip
    parts = _with_parts(plan, number, own, lambda rule: _learned(rule, worth))
    return plan.model_copy(
        update={**parts, "probabilities": Probabilities(slope=slope, shift=shift), "learning": before}
    )


def _with_parts(
    plan: MatchPlan, number: int, said: Mapping[str, Any], learned: Callable[[ComparisonRule], Mapping[str, float]]
) -> dict[str, Any]:
    """Return the parts of a plan of which one pass says something else, and whose comparisons have learned something else."""

    def with_learned(rules: Sequence[ComparisonRule]) -> tuple[ComparisonRule, ...]:
        return tuple(rule.model_copy(update={"learned": dict(learned(rule))}) for rule in rules)

    if not plan.passes:
        return {**said, "comparisons": with_learned(plan.comparisons)}
    one = plan.passes[number]
    own: dict[str, Any] = {**said, "further": with_learned(one.further)}
    if one.comparisons:
        own["comparisons"] = with_learned(one.comparisons)
    passes = tuple(one.model_copy(update=own) if place == number else other for place, other in enumerate(plan.passes))
    return {"passes": passes} if one.comparisons else {"passes": passes, "comparisons": with_learned(plan.comparisons)}


def _learned(rule: ComparisonRule, worth: Mapping[tuple[str, str], float]) -> dict[str, float]:
    bits = {level: bits + rule.learned.get(level, 0.0) for (name, level), bits in worth.items() if name == rule.name}
    return {
        level: round(float(np.clip(one, -_MOST_BITS, _MOST_BITS)), 2)
        for level, one in bits.items()
        if abs(one) >= _LEAST_BITS
    }
