"""Learning on the bench: the pairs whose answers teach most, and the plan that all decisions together teach."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from sqlalchemy.orm import Session

from ...core.bench import Redrawn
from ...core.learning import (
    EvidenceView,
    HeldOut,
    LevelLesson,
    Taught,
    as_untaught,
    groups_of,
    held_out,
    learned_plan,
    lessons_of,
    teach,
    teaching_pairs,
)
from ...core.plan import MatchPlan, plan_to_yaml
from ...store.registers import register_by_slug
from .benches import BenchOfRegister
from .border import BorderPair, shown_pairs
from .decided import DecidedPairs, decided_pairs, decided_places
from .tries import Asked


@dataclass(frozen=True, slots=True)
class PlanEdit:
    """What a part of the plan's document, told by its place, becomes; None where it goes."""

    place: Sequence[str | int]
    value: object


@dataclass(frozen=True, slots=True)
class Lesson:
    """What decisions teach: the learned plan as YAML and as edits of the present one, what is learned of every level, and what that is
    worth on decisions set aside (None where there are too few).

    ``decisions`` were learned from, ``by_condition`` others are decided by a condition or veto, which learning leaves alone;
    ``against_conditions`` of those say otherwise.
    """

    decisions: int
    same: int
    by_condition: int
    against_conditions: int
    slope: float
    shift: float
    same_from: float
    unsure_from: float
    same_before: float
    unsure_before: float
    levels: Sequence[LevelLesson]
    held_out: HeldOut | None
    yaml: str
    edits: Sequence[PlanEdit]


def pairs_to_ask(session: Session, slug: str, own: BenchOfRegister, asked: Asked, many: int) -> Sequence[BorderPair]:
    """Return up to ``many`` pairs nobody decided yet whose answers would teach most, the one that teaches most first."""
    register = register_by_slug(session, slug)
    plan = as_untaught(asked.plan)
    drawn = own.bench.redraw(plan, asked.number)
    decided = decided_pairs(session, register.id, own)
    taught, _ = _taught(own, asked, decided)
    still = _free(drawn)
    still[decided_places(drawn.held, decided).places] = False
    chosen = teaching_pairs(_view(drawn), drawn.held.weight, still, taught, many)
    # Shown by the plan that is tried, which may have learned already.
    left, right = drawn.held.left[chosen], drawn.held.right[chosen]
    shown = own.bench.redraw_pairs(asked.plan, asked.number, left, right)
    before = own.bench.redraw_pairs(asked.against, asked.number, left, right).rescored
    return shown_pairs(session, slug, own, shown, before, np.arange(len(chosen)))


def learn(session: Session, slug: str, own: BenchOfRegister, asked: Asked, wrong_weighs: float) -> Lesson:
    """Return what all decisions in force teach a plan, of which one wrong pair weighs as much as ``wrong_weighs`` missed ones."""
    register = register_by_slug(session, slug)
    decided = decided_pairs(session, register.id, own)
    plan = as_untaught(asked.plan)
    taught, drawn = _taught(own, asked, decided)
    free = np.flatnonzero(_free(drawn))
    view, same = _view(drawn).at(free), decided.same[free]
    groups = groups_of(decided.left[free], decided.right[free]) if len(free) else np.zeros(0, dtype=np.int64)
    limits = plan.of_pass(asked.number).limits
    learned = learned_plan(plan, asked.number, taught, len(free), wrong_weighs)
    verdict = drawn.rescored.same
    against = (verdict != decided.same) & ~_free(drawn)
    own_limits = learned.of_pass(asked.number).limits
    return Lesson(
        len(free), int(same.sum()), len(decided) - len(free), int(against.sum()), learned.probabilities.slope,
        learned.probabilities.shift, own_limits.same, own_limits.unsure, limits.same, limits.unsure,
        lessons_of(taught, view, same.tolist()), held_out(view, same, groups, limits.same, wrong_weighs) if len(free) else None,
        plan_to_yaml(learned), edits_between(asked.plan, learned),
    )  # fmt: skip


def unlearned(asked: Asked) -> tuple[str, Sequence[PlanEdit]]:
    """Return a plan as it was before it learned: as YAML, and as edits of the present one."""
    before = as_untaught(asked.plan)
    return plan_to_yaml(before), edits_between(asked.plan, before)


def _taught(own: BenchOfRegister, asked: Asked, decided: DecidedPairs) -> tuple[Taught, Redrawn]:
    """Return what decisions teach of the pass, and the decided pairs scored by the untaught plan."""
    drawn = own.bench.redraw_pairs(as_untaught(asked.plan), asked.number, decided.left, decided.right)
    free = np.flatnonzero(_free(drawn))
    return teach(_view(drawn).at(free), decided.same[free]), drawn


def _view(drawn: Redrawn) -> EvidenceView:
    rescored = drawn.rescored
    return EvidenceView(rescored.plan, rescored.scored.levels, rescored.free_bits)


def _free(drawn: Redrawn) -> npt.NDArray[np.bool_]:
    """Return the pairs that neither a condition nor a veto decides."""
    scored = drawn.rescored.scored
    free: npt.NDArray[np.bool_] = ~scored.vetoed & (scored.condition < 0)
    return free


def edits_between(before: MatchPlan, after: MatchPlan) -> Sequence[PlanEdit]:
    """Return the edits that make of one plan the other, which has learned something else and is the same otherwise."""
    edits: list[PlanEdit] = []

    def part(place: Sequence[str | int], one: object, other: object) -> None:
        if one != other:
            edits.append(PlanEdit(place, other or None))

    for name in ("limits", "probabilities", "learning"):
        one, other = (getattr(plan, name) for plan in (before, after))
        usual = MatchPlan.model_fields[name].default
        dumped = [None if value is None or value == usual else value.model_dump(mode="json") for value in (one, other)]
        part([name], *dumped)
    for number, (rule, learned) in enumerate(zip(before.comparisons, after.comparisons, strict=True)):
        part(["comparisons", number, "learned"], rule.learned, learned.learned)
    for number, (one_pass, other_pass) in enumerate(zip(before.passes, after.passes, strict=True)):
        place: list[str | int] = ["passes", number]
        limits = [own.limits.model_dump(mode="json") if own.limits else None for own in (one_pass, other_pass)]
        part([*place, "limits"], *limits)
        for name in ("comparisons", "further"):
            rules = zip(getattr(one_pass, name) or (), getattr(other_pass, name) or (), strict=True)
            for row, (rule, learned) in enumerate(rules):
                part([*place, name, row, "learned"], rule.learned, learned.learned)
    return edits
