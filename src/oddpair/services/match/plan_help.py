"""What helps to write a plan: the words it may use, ready-made plans, one proposed from the data, and what two differ in."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.blocking.takers import TAKERS
from ...core.compare import COMPARISONS
from ...core.compare.base import Option
from ...core.errors import NotFound
from ...core.fields import RegisterKind
from ...core.plan.difference import PlanChange, plan_changes
from ...core.plan.starting import StartingPlan, starting_plans
from ...core.proposal import Proposal, propose_plan
from ...core.records import RecordSetBuilder
from ...core.tidying import tidy_fields
from ...store import registers as store
from ...store.records import sample_of_tidy
from ...store.tables import Plan
from ..state.layouts import layout_of
from .plans import plan_for

#: So many records are looked at for a proposal.
_SAMPLE = 20_000


@dataclass(frozen=True, slots=True)
class FieldWord:
    """A tidy field that a plan may name, and the label of the field it comes from."""

    name: str
    label: str


@dataclass(frozen=True, slots=True)
class ComparisonWord:
    """A way of comparing: its levels with what each says, and its options."""

    name: str
    levels: Mapping[str, str]
    options: Mapping[str, Option]


@dataclass(frozen=True, slots=True)
class Vocabulary:
    """The words of a plan for a register: fields, ways of comparing, and ways of taking a key from a value with what each takes."""

    fields: Sequence[FieldWord]
    comparisons: Sequence[ComparisonWord]
    takers: Mapping[str, str]


def vocabulary(session: Session, slug: str) -> Vocabulary:
    """Return the words that a plan for a register may use."""
    layout = layout_of(store.register_by_slug(session, slug))
    labels = {field.name: field.label for field in layout.fields}
    fields = [FieldWord(name, labels.get(name) or labels.get(name.split(".")[0], name)) for name in tidy_fields(layout)]
    comparisons = [
        ComparisonWord(
            name, {level: kind.sentences.get(level, "").format(label=name) for level in kind.levels[1:]}, kind.options
        )
        for name, kind in COMPARISONS.items()
    ]
    return Vocabulary(fields, comparisons, {name: taker.says.format("n") for name, taker in TAKERS.items()})


def ready_made(session: Session, slug: str) -> tuple[StartingPlan, ...]:
    """Return the ready-made plans for a register's kind."""
    return starting_plans(RegisterKind(store.register_by_slug(session, slug).kind))


def proposal(session: Session, slug: str) -> Proposal:
    """Return a plan proposed from a register's records, with a reason per line."""
    register = store.register_by_slug(session, slug)
    total, sample = sample_of_tidy(session, register.id, _SAMPLE)
    builder = RecordSetBuilder()
    for source, key, tidy in sample:
        builder.add(source, key, tidy)
    promised = [source.name for source in store.sources_of(session, register.id) if not source.own_duplicates]
    return propose_plan(builder.build(), total, layout_of(register), promised)


def version_of(session: Session, slug: str, version: int) -> Plan:
    """Return a version of a register's plan (0: the one in force); raise NotFound."""
    register = store.register_by_slug(session, slug)
    found = (
        store.plan_of_version(session, register.id, version) if version else store.plan_in_force(session, register.id)
    )
    if found is None:
        raise NotFound("version of the plan", version)
    return found


def difference(session: Session, slug: str, yaml: str, version: int) -> tuple[PlanChange, ...]:
    """Return what a plan given as text says otherwise than a version (0: the one in force); raise PlanInvalid."""
    return changes_between(session, slug, version_of(session, slug, version).yaml, yaml)


def changes_between(session: Session, slug: str, before: str, after: str) -> tuple[PlanChange, ...]:
    """Return what one plan for a register, given as text, says otherwise than another before it; raise PlanInvalid."""
    register = store.register_by_slug(session, slug)
    return plan_changes(plan_for(session, register, before), plan_for(session, register, after))
