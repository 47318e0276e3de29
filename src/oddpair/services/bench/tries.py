"""Trying a plan on the bench: what it does to the held pairs at once, what a whole match of it settled, and what it changes."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from sqlalchemy.orm import Session

from ...core.bench import (
    ConditionCount,
    Curve,
    Redrawn,
    Wanted,
    cluster_changes,
    told_at_once,
    wanted_pairs,
)
from ...core.bench.changes import ClusterChange
from ...core.bench.held import pair_codes
from ...core.errors import NotFound
from ...core.pipeline import MatchResult
from ...core.plan import MatchPlan
from ...store.registers import plan_in_force, plan_of_version, register_by_slug
from ..match.plans import plan_for
from .benches import BenchOfRegister

Flags = npt.NDArray[np.bool_]
_MOST_CLUSTERS = 200


@dataclass(frozen=True, slots=True)
class Asked:
    """What is tried: a plan and which of its passes, against another plan."""

    plan: MatchPlan
    number: int
    against: MatchPlan
    against_version: int


@dataclass(frozen=True, slots=True)
class ComparisonShare:
    """A comparison: for how many pairs it decides, alone, which verdict they have."""

    name: str
    label: str
    decides: float


@dataclass(frozen=True, slots=True)
class Settled:
    """What a whole match of the plan found, and what it changes against the other plan (where that is settled, too)."""

    same: int
    unsure: int
    clusters: int
    compared: int
    gained: int | None
    lost: int | None
    joining: int | None
    cutting: int | None


@dataclass(frozen=True, slots=True)
class Tried:
    """What a plan does to the held pairs, with how exact that is; ``settled`` once a match of it is."""

    passes: tuple[str, ...]
    number: int
    records: int
    held: int
    standing_for: float
    exact: bool
    same_limit: float
    unsure_limit: float
    curve: Curve
    gained: float
    lost: float
    conditions: tuple[ConditionCount, ...]
    comparisons: tuple[ComparisonShare, ...]
    measured_again: tuple[str, ...]
    others_blocks: bool
    settled: Settled | None
    against_version: int
    against_settled: bool


def asked_for(session: Session, slug: str, yaml: str, *, number: int = 0, against: int = 0) -> Asked:
    """Return what is to be tried: a plan given as text, against a version of the register's plan (0: the one in force); raise
    PlanInvalid with every problem of the text."""
    register = register_by_slug(session, slug)
    row = plan_of_version(session, register.id, against) if against else plan_in_force(session, register.id)
    if row is None:
        raise NotFound("version of the plan", against)
    other = plan_for(session, register, row.yaml)
    plan = plan_for(session, register, yaml) if yaml else other
    return Asked(plan, min(number, len(plan.in_order()) - 1), other, row.version)


def try_plan(own: BenchOfRegister, asked: Asked) -> Tried:
    """Return what a plan does."""
    bench = own.bench
    drawn = bench.redraw(asked.plan, asked.number)
    rescored, weight = drawn.rescored, drawn.held.weight
    before = bench.redraw(asked.against, asked.number).rescored.same
    shares = [
        ComparisonShare(rule.name, rule.label, _standing(drawn, Wanted(decided_by=rule.name), before))
        for rule in rescored.plan.comparisons
    ]
    curve, conditions = told_at_once(drawn.held, rescored, len(own.ids))
    own_settled, other_settled = bench.settled(asked.plan), bench.settled(asked.against)
    return Tried(
        passes=tuple(one.title for one, _ in asked.plan.in_order()), number=asked.number, records=len(own.ids), held=len(drawn.held),
        standing_for=drawn.held.standing_for, exact=drawn.held.are_all, same_limit=rescored.plan.limits.same,
        unsure_limit=rescored.plan.limits.unsure, curve=curve,
        gained=float(weight[rescored.same & ~before].sum(dtype=np.float64)),
        lost=float(weight[before & ~rescored.same].sum(dtype=np.float64)),
        conditions=conditions, comparisons=tuple(shares), measured_again=rescored.measured_again,
        others_blocks=drawn.others_blocks, settled=_settled(own_settled, other_settled) if own_settled else None,
        against_version=asked.against_version, against_settled=other_settled is not None,
    )  # fmt: skip


def _standing(drawn: Redrawn, wanted: Wanted, before: Flags) -> float:
    return float(drawn.held.weight[wanted_pairs(wanted, drawn.rescored, before)].sum(dtype=np.float64))


def same_codes(result: MatchResult) -> npt.NDArray[np.int64]:
    """Return a number for every pair that a match found to be the same."""
    pairs = result.pairs
    return pair_codes(pairs.left[pairs.same], pairs.right[pairs.same])


def _settled(own: MatchResult, other: MatchResult | None) -> Settled:
    found = (int(own.pairs.same.sum()), int((~own.pairs.same).sum()), own.cluster_count, own.compared)
    if other is None:
        return Settled(*found, None, None, None, None)
    mine, theirs = same_codes(own), same_codes(other)
    shared = len(np.intersect1d(mine, theirs, assume_unique=True))
    _, joining, cutting = cluster_changes(other.labels, own.labels, 0)
    return Settled(*found, len(mine) - shared, len(theirs) - shared, joining, cutting)


def changed_clusters(own: BenchOfRegister, asked: Asked) -> tuple[Sequence[ClusterChange], int, int]:
    """Return the clusters that a settled plan joins or cuts against the other one; raise NotFound until both are settled."""
    mine, theirs = own.bench.settled(asked.plan), own.bench.settled(asked.against)
    if mine is None or theirs is None:
        raise NotFound("settled match of the plan", asked.plan.title)
    return cluster_changes(theirs.labels, mine.labels, _MOST_CLUSTERS)
