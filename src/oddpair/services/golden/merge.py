"""Merging: clusters of the latest run, with the decisions made since, become golden records."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from ...core.clustering.decided import apply_decisions
from ...core.clustering.keys import Change, plan_changes
from ...core.errors import Refused
from ...store import golden as golden_store
from ...store import matching
from ...store.registers import latest_run, lock_register, register_by_slug
from ...store.tables import GoldenRecord, Register, Run
from ..state.golden_values import project
from ..state.recipe_in_force import recipe_of
from .journal_steps import Step, make_steps, new_golden

Progress = Callable[[str, int, int], None]
_SAMPLE = 12


@dataclass(frozen=True, slots=True)
class SampleChange:
    """A change that the merge would make, as a person reads it."""

    summary: str
    keys: list[str]
    records: list[dict[str, str]]
    values: dict[str, Any]


@dataclass(frozen=True, slots=True)
class MergePreview:
    """What a merge would do: counts, and a sample of the largest changes."""

    run_id: int
    made: int
    single: int
    grown: int
    joined: int
    split: int
    records_added: int
    unsure_waiting: int
    contradictions: int
    sample: list[SampleChange]


def _changes(session: Session, register: Register) -> tuple[Run, list[Change], int, dict[int, int]]:
    """Return (run, changes with golden ids for numbers, ignored decisions, golden number → id)."""
    run = latest_run(session, register.id)
    if run is None:
        raise Refused("There is no run to merge yet. Run the match first.")
    decided = matching.decisions_in_force(session, register.id)
    pairs = {
        verdict: [(item.left_id, item.right_id) for item in decided if item.verdict == verdict]
        for verdict in ("same", "different")
    }
    clusters, ignored = apply_decisions(dict(matching.run_clusters(session, run.id)), pairs["same"], pairs["different"])
    present = golden_store.membership(session, register.id)
    return run, plan_changes(clusters, present), len(ignored), present


def _kind(change: Change) -> str:
    if not change.before:
        return "made"
    if len(change.after) > 1:
        return "split"
    return "merged" if len(change.before) > 1 else "grown"


def _summary(change: Change, keys: Mapping[int, str]) -> str:
    added = sum(map(len, change.after.values())) - sum(map(len, change.before.values()))
    olds = [keys[number] for number in sorted(change.before)]
    kind = _kind(change)
    if kind == "made":
        return f"Made from {_count(added, 'record')}"
    extra = f" with {_count(added, 'more record')}" if added else ""
    if kind == "merged":
        stays = keys[min(change.after)]
        return f"Merged {', '.join(key for key in olds if key != stays)} into {stays}{extra}"
    if kind == "grown":
        return f"Took in {_count(added, 'more record')}"
    return f"Split {', '.join(olds)} into {_count(len(change.after), 'golden record')}{extra}"


def _count(number: int, noun: str) -> str:
    return f"{number} {noun}" + ("" if number == 1 else "s")


def preview_merge(session: Session, slug: str, unsure_waiting: int) -> MergePreview:
    """Return what merging now would do, without doing it."""
    register = register_by_slug(session, slug)
    _, changes, ignored, _ = _changes(session, register)
    run = latest_run(session, register.id)
    assert run is not None
    kinds = [_kind(change) for change in changes]
    single = sum(
        1 for change in changes if not change.before and all(len(group) == 1 for group in change.after.values())
    )
    telling = sorted(
        changes,
        key=lambda change: (
            _kind(change) == "made",
            -max(map(len, change.after.values())),
            min(map(min, change.after.values())),
        ),
    )
    return MergePreview(
        run_id=run.id,
        made=kinds.count("made"),
        single=single,
        grown=kinds.count("grown"),
        joined=kinds.count("merged"),
        split=kinds.count("split"),
        records_added=sum(sum(map(len, c.after.values())) - sum(map(len, c.before.values())) for c in changes),
        unsure_waiting=unsure_waiting,
        contradictions=ignored,
        sample=[_sample(session, register, change) for change in telling[:_SAMPLE]],
    )


def _keys(session: Session, ids: Sequence[int]) -> dict[int, str]:
    return {golden_id: session.get_one(GoldenRecord, golden_id).key for golden_id in ids if golden_id > 0}


def _sample(session: Session, register: Register, change: Change) -> SampleChange:
    keys = _keys(session, [*change.before, *change.after])
    largest = max(change.after.values(), key=len)
    records = golden_store.records_with_sources(session, largest)
    values, _ = project(register, largest, records, [], recipe_of(session, register))
    shown = [
        {"source": source.name, "source_key": record.source_key, **record.fields}
        for record, source in (records[record] for record in largest)
    ]
    return SampleChange(_summary(change, keys), sorted(keys.values()), shown, values)


def merge(session: Session, slug: str, *, actor: str, progress: Progress | None = None) -> dict[str, int]:
    """Merge in the open transaction; return counts by kind of change."""
    register = lock_register(session, register_by_slug(session, slug).id)
    _, changes, _, _ = _changes(session, register)
    if progress:
        progress("merge", 0, len(changes))
    wanted = sum(1 for change in changes for number in change.after if number < 0)
    fresh = iter(new_golden(session, register, wanted))
    known = _keys(session, sorted({number for change in changes for number in (*change.before, *change.after)}))
    steps: list[Step] = []
    for change in changes:
        ids = {
            number: number if number > 0 else next(fresh).id
            for number in sorted(change.after, key=lambda n: change.after[n][0])
        }
        after: dict[int, Sequence[int]] = {ids[number]: records for number, records in change.after.items()}
        after.update({number: [] for number in change.retired})
        steps.append(Step(_kind(change), _summary(change, known), change.before, after, change.retired))
    make_steps(session, register, steps, actor)
    counts = dict.fromkeys(("made", "grown", "merged", "split"), 0)
    for step in steps:
        counts[step.kind] += 1
    return counts
