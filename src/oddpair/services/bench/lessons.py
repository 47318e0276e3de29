"""Learning on the bench: the pairs whose answers teach most, and the plan that all decisions together teach."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from sqlalchemy.orm import Session

from ...core.bench import Redrawn
from ...core.learning import (
    ConditionLesson,
    EvidenceView,
    HeldOut,
    JudgedPairs,
    LevelLesson,
    as_untaught,
    groups_of,
    held_out,
    learn_from,
    learned_plan,
    lessons_of,
    next_pairs,
)
from ...core.plan import MatchPlan, Pass, plan_to_yaml
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

    ``decisions`` were learned from; ``by_condition`` others are decided by a condition that stays or by a veto, and
    ``against_conditions`` of those say otherwise. ``conditions`` says which conditions decisions do not bear out.
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
    conditions: Sequence[ConditionLesson]
    held_out: HeldOut | None
    yaml: str
    edits: Sequence[PlanEdit]


def pairs_to_ask(
    session: Session, slug: str, own: BenchOfRegister, asked: Asked, *, many: int, wrong_weighs: float
) -> Sequence[BorderPair]:
    """Return up to ``many`` pairs nobody decided yet whose answers would teach most: first those that judge a condition."""
    register = register_by_slug(session, slug)
    plan = as_untaught(asked.plan)
    drawn = own.bench.redraw(plan, asked.number, undecided=True)
    decided = decided_pairs(session, register.id, own)
    course = learn_from(_judged(_untaught(own, asked, decided)), decided.same, wrong_weighs)
    still = np.ones(len(drawn.held), dtype=np.bool_)
    still[decided_places(drawn.held, decided).places] = False
    chosen = next_pairs(_judged(drawn), drawn.held.weight, still, course, many, wrong_weighs)
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
    drawn = _untaught(own, asked, decided)
    course = learn_from(_judged(drawn), decided.same, wrong_weighs)
    rows = np.flatnonzero(course.learned_from)
    view, same = _judged(drawn).view.at(rows), decided.same[rows]
    groups = groups_of(decided.left[rows], decided.right[rows]) if len(rows) else np.zeros(0, dtype=np.int64)
    limits = plan.of_pass(asked.number).limits
    learned = learned_plan(plan, asked.number, course.taught, len(rows), wrong_weighs, course.without)
    against = (drawn.rescored.same != decided.same) & ~course.learned_from
    own_limits = learned.of_pass(asked.number).limits
    return Lesson(
        len(rows), int(same.sum()), len(decided) - len(rows), int(against.sum()), learned.probabilities.slope,
        learned.probabilities.shift, own_limits.same, own_limits.unsure, limits.same, limits.unsure,
        lessons_of(course.taught, view, same.tolist()), course.conditions,
        held_out(view, same, groups, limits.same, wrong_weighs) if len(rows) else None, plan_to_yaml(learned),
        edits_between(asked.plan, learned),
    )  # fmt: skip


def unlearned(asked: Asked) -> tuple[str, Sequence[PlanEdit]]:
    """Return a plan as it was before it learned: as YAML, and as edits of the present one."""
    before = as_untaught(asked.plan)
    return plan_to_yaml(before), edits_between(asked.plan, before)


def _untaught(own: BenchOfRegister, asked: Asked, decided: DecidedPairs) -> Redrawn:
    """Return decided pairs scored by the untaught plan."""
    plan = as_untaught(asked.plan)
    return own.bench.redraw_pairs(plan, asked.number, decided.left, decided.right, undecided=True)


def _judged(drawn: Redrawn) -> JudgedPairs:
    scored = drawn.rescored.scored
    view = EvidenceView(drawn.rescored.plan, scored.levels, drawn.rescored.free_bits)
    return JudgedPairs(view, scored.condition, scored.vetoed)


def edits_between(before: MatchPlan, after: MatchPlan) -> Sequence[PlanEdit]:
    """Return the edits that make of one plan the other, which has learned something else and is the same otherwise."""
    edits: list[PlanEdit] = []

    def part(place: Sequence[str | int], one: object, other: object) -> None:
        if one != other:
            edits.append(PlanEdit(place, other))

    for name in ("limits", "probabilities", "clustering", "conditions", "learning"):
        part([name], *(_written(plan, name) for plan in (before, after)))
    for number, (rule, learned) in enumerate(zip(before.comparisons, after.comparisons, strict=True)):
        part(["comparisons", number, "learned"], rule.learned or None, learned.learned or None)
    for number, (one_pass, other_pass) in enumerate(zip(before.passes, after.passes, strict=True)):
        place: list[str | int] = ["passes", number]
        for name in ("limits", "clustering", "conditions"):
            part([*place, name], *(_written(own, name) for own in (one_pass, other_pass)))
        for name in ("comparisons", "further"):
            rules = zip(getattr(one_pass, name) or (), getattr(other_pass, name) or (), strict=True)
            for row, (rule, learned) in enumerate(rules):
                part([*place, name, row, "learned"], rule.learned or None, learned.learned or None)
    return edits


def _written(said: MatchPlan | Pass, name: str) -> object:
    """Return a part of a plan or pass as it is written down; None where a plan says what is usual, and a pass nothing of its own."""
    if isinstance(said, MatchPlan):
        return said.model_dump(mode="json", by_alias=True, exclude_defaults=True, include={name}).get(name)
    return said.model_dump(mode="json", by_alias=True, include={name})[name]
