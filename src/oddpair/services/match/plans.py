"""Reading and changing a register's match plan."""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.blocking import KeyEstimate, estimate_pairs
from ...core.errors import Conflict, PlanInvalid
from ...core.plan import MatchPlan, parse_plan
from ...core.plan.difference import plan_changes
from ...core.records import RecordSetBuilder
from ...core.sign_off import Facts, Matter
from ...core.tidying import with_what_all_teach
from ...store import journal
from ...store import registers as store
from ...store.locks import lock_settings
from ...store.records import sample_of_tidy
from ...store.tables import Plan, Register
from ..proposals.gate import Intent, ask_second_yes
from ..state.layouts import layout_of
from .related import check_related

#: From this many records the pairs of each key are estimated.
_SAMPLE = 20_000


def plan_of(session: Session, slug: str) -> tuple[Plan, MatchPlan]:
    """Return the plan in force, as kept and as read."""
    register = store.register_by_slug(session, slug)
    plan = store.plan_in_force(session, register.id)
    return plan, parse_plan(plan.yaml, layout_of(register))


def versions(session: Session, slug: str) -> Sequence[Plan]:
    """Return all versions, newest first."""
    return store.plan_versions(session, store.register_by_slug(session, slug).id)


def save_plan(session: Session, slug: str, *, yaml: str, seen_version: int, note: str, actor: str) -> Plan:
    """Keep a new version of the plan; raise PlanInvalid with every problem, or Conflict if it changed meanwhile."""
    register = lock_settings(session, store.register_by_slug(session, slug).id)
    plan = plan_for(session, register, yaml)
    present = store.plan_in_force(session, register.id)
    if present.version != seen_version:
        raise Conflict(
            f"The plan was changed by {present.actor} meanwhile (version {present.version}). Reload to see it."
        )
    told = f"Put version {present.version + 1} of the plan in force"
    changes = plan_changes(parse_plan(present.yaml, layout_of(register)), plan)
    shows = [(change.part, change.before, change.after) for change in changes]
    arguments = {"yaml": yaml, "seen_version": seen_version, "note": note}
    step = Intent("plan", arguments, Facts(Matter.PLAN, "plan"), told, shows, leads_to="plan")
    ask_second_yes(session, register, step, actor=actor)
    saved = Plan(register_id=register.id, version=present.version + 1, yaml=yaml, actor=actor, note=note)
    session.add(saved)
    journal.append(
        session, register.id, "plan", actor=actor, data={"before": present.version, "after": saved.version, "yaml": yaml},
        personal={"summary": told, "note": note},
    )  # fmt: skip
    return saved


@dataclass(frozen=True, slots=True)
class PlanInForce:
    """The plan in force: as kept, as read, and all its versions, newest first."""

    row: Plan
    plan: MatchPlan
    versions: Sequence[Plan]


def plan_in_force(session: Session, slug: str) -> PlanInForce:
    """Return the plan in force with its versions."""
    row, plan = plan_of(session, slug)
    return PlanInForce(row, plan, versions(session, slug))


def plan_for(session: Session, register: Register, yaml: str) -> MatchPlan:
    """Return the plan that a text describes; raise PlanInvalid also where it is for records of another kind."""
    plan = parse_plan(yaml, layout_of(register))
    check_related(session, register, plan)
    if plan.kind.value != register.kind:
        raise PlanInvalid(
            [f"kind: the register holds records of kind {register.kind}, the plan is for {plan.kind.value}"]
        )
    return plan


@dataclass(frozen=True, slots=True)
class EstimatedPairs:
    """What the keys of a plan will propose among ``records`` records, told from ``sampled`` of them."""

    records: int
    sampled: int
    keys: tuple[KeyEstimate, ...]


def estimate_plan(session: Session, slug: str, yaml: str, *, most_sampled: int = _SAMPLE) -> EstimatedPairs:
    """Return how many pairs each blocking key of a plan will propose; the plan need not be saved, nothing is compared."""
    register = store.register_by_slug(session, slug)
    plan = plan_for(session, register, yaml)
    total, sample = sample_of_tidy(session, register.id, most_sampled)
    builder = RecordSetBuilder()
    for source, key, tidy in sample:
        builder.add(source, key, tidy)
    records = with_what_all_teach(builder.build())
    estimates = {
        estimate.key: estimate
        for _, own in plan.in_order()
        for estimate in estimate_pairs(records, total, own.blocking_keys(), own.blocking.most_records)
    }
    return EstimatedPairs(total, len(sample), tuple(estimates.values()))
