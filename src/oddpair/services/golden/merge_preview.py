"""What a merge would do, told before it is done: counts, and a sample of the largest changes."""

from collections import Counter
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.golden_keys import Change
from ...store import golden as golden_store
from ...store.registers import register_by_slug
from ...store.tables import Register
from ..proposals.gate import Line, policy_of
from ..state.golden_values import explain_golden
from ..state.tidy_steps_in_force import tidy_steps_of
from .large_groups import growing_over
from .merge_plan import MergePlan, plan_merge
from .steps import merge_in_words, merge_kind

_SAMPLE = 12


@dataclass(frozen=True, slots=True)
class SampleChange:
    """A change that the merge would make, as a person reads it."""

    summary: str
    keys: list[str]
    records: list[dict[str, str]]
    values: dict[str, str]


@dataclass(frozen=True, slots=True)
class MergePreview:
    """What a merge would do: counts, and a sample of the largest changes; ``seen`` goes with the request to do it.

    Of ``made`` new golden records ``single`` hold one record only; ``torn`` pairs decided as different lay in one cluster of the run,
    which comes apart. ``to_sign`` golden records would hold more records than they may without a second yes: they wait for it.
    """

    run_id: int
    seen: str
    made: int
    single: int
    grown: int
    joined: int
    split: int
    records_added: int
    unsure_waiting: int
    contradictions: int
    torn: int
    to_sign: int
    sample: list[SampleChange]


def preview_merge(session: Session, slug: str, unsure_waiting: int = 0) -> MergePreview:
    """Return what merging now would do, without doing it."""
    register = register_by_slug(session, slug)
    plan = plan_merge(session, register)
    others = plan.changes.others
    kinds = Counter(merge_kind(change.before, change.after) for change in others)
    new = plan.changes.new_sizes
    added = sum(sum(map(len, change.after.values())) - sum(map(len, change.before.values())) for change in others)
    return MergePreview(
        run_id=plan.run_id,
        seen=plan.seen,
        made=len(new),
        single=int((new == 1).sum()),
        grown=kinds["grown"],
        joined=kinds["merged"],
        split=kinds["split"],
        records_added=int(new.sum()) + added,
        unsure_waiting=unsure_waiting,
        contradictions=len(plan.contradicting),
        torn=len(plan.torn),
        to_sign=_to_sign(register, plan),
        sample=[_sample(session, register, change) for change in _telling(plan)],
    )


def _to_sign(register: Register, plan: MergePlan) -> int:
    limit = policy_of(register).merges_over if register.sign_off else None
    if limit is None:
        return 0
    grown = sum(len(growing_over(change, limit)) for change in plan.changes.others)
    return int((plan.changes.new_sizes > limit).sum()) + grown


def merge_lines(session: Session, slug: str) -> list[Line]:
    """Return what a merge would do, as lines of a proposal."""
    would = preview_merge(session, slug)
    told = ("made", would.made), ("grown", would.grown), ("joined", would.joined), ("split", would.split)
    return [(f"Golden records {what}", "", str(count)) for what, count in told] + [
        (change.summary, "", change.values.get("name", "")) for change in would.sample
    ]


def _telling(plan: MergePlan) -> list[Change]:
    """Return the changes that a person wants to see first: what touches golden records, then the largest."""
    first = sorted(
        plan.changes.others,
        key=lambda change: (-max(map(len, change.after.values())), min(map(min, change.after.values()))),
    )
    return [*first[:_SAMPLE], *plan.changes.largest_new(_SAMPLE)][:_SAMPLE]


def _sample(session: Session, register: Register, change: Change) -> SampleChange:
    keys = golden_store.keys_of(session, [golden for golden in (*change.before, *change.after) if golden > 0])
    largest = max(change.after.values(), key=len)[:200]
    records = golden_store.records_with_sources(session, largest)
    values = explain_golden(register, largest, records, [], tidy_steps_of(session, register)).values
    shown = [
        {"source": source.name, "source_key": record.source_key, **record.fields}
        for record, source in (records[record] for record in largest)
    ]
    return SampleChange(merge_in_words(change.before, change.after, keys), sorted(keys.values()), shown, values)
