"""Merging: clusters of the standing run, with the decisions made since, become golden records.

A merge is done in parts, each a transaction of its own with its own entry in the journal: memory is bounded, nobody waits for
the whole of it, and one that was stopped or broke off goes on where it stopped.
"""

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from ...core.errors import Cancelled, Conflict
from ...core.golden_keys import Change, Changes
from ...core.processes import processes
from ...store import journal
from ...store.counters import add_to, counters_of
from ...store.locks import lock_membership
from ...store.maintenance import analyze
from ...store.membership import golden_of, members_of
from ...store.registers import register_by_slug, standing_run
from ...store.tables import Job, Register
from .. import work
from ..proposals.gate import ask_second_yes, is_signed
from ..state.golden_values import refresh
from ..state.membership import make_moves, moves_between, new_golden
from ..state.words import counted
from ..transactions import SessionFactory, transaction
from .large_groups import group_intent, merge_intent, without_large
from .merge_plan import MergePlan, Numbers, plan_merge
from .merge_preview import merge_lines
from .steps import merge_kind, summary_of

Progress = Callable[[str, int, int], None]
#: What is done in the transaction that ends the merge, with its result.
AtEnd = Callable[[Session, dict[str, int]], None]
_KINDS = ("made", "grown", "merged", "split")
#: Changes per part: small enough that nobody waits long for a golden record that is being changed.
_CHANGES_AT_ONCE = 8_000
_WORTH_PROCESSES = 4_000
#: What is counted where golden records were changed by people between the plan of a merge and its turn.
_LEFT = "left_for_the_next_merge"
#: What is counted where golden records would be larger than they may be without a second yes.
_TO_SIGN = "wait_for_sign_off"
#: Acts of the journal that change nothing by themselves.
_PROPOSING = ("propose", "sign off", "send back", "end proposal")


def ask_to_merge(session: Session, slug: str, *, seen: str, actor: str) -> Job:
    """Ask for a merge of what was previewed; raise Conflict if something was done since."""
    register = register_by_slug(session, slug)
    ask_second_yes(session, register, merge_intent(seen), actor=actor, shown=lambda: merge_lines(session, slug))
    signed = is_signed(session)
    if signed:
        check_seen(session, register, seen)
    arguments = {"register": slug, "actor": actor, "seen": seen} | ({"signed": True} if signed else {})
    return work.ask_for(session, slug, "merge", "Merge into golden records", arguments)


def merge_group(session: Session, slug: str, records: Sequence[int], *, actor: str) -> None:
    """Merge exactly these records into one golden record; raise Conflict where they no longer belong together in this way."""
    register = lock_membership(session, register_by_slug(session, slug).id)
    plan = plan_merge(session, register, np.array(records, dtype=np.int64))
    change = next((one for one in plan.changes if tuple(records) in one.after.values()), None)
    if change is None:
        raise Conflict("These records no longer belong together in this way, or are one golden record already.")
    ask_second_yes(session, register, group_intent(session, change, tuple(records)), actor=actor)
    _merge_part(session, register.id, [change], dict.fromkeys(_KINDS, 0), plan, "", actor, signed=True)


def merge(
    sessions: SessionFactory,
    slug: str,
    *,
    actor: str,
    seen: str = "",
    progress: Progress | None = None,
    at_end: AtEnd | None = None,
    among: Numbers | None = None,
    signed: bool = False,
    by_plan: bool = False,
    changes_at_once: int = _CHANGES_AT_ONCE,
) -> dict[str, int]:
    """Merge, and return counts by kind of change, and how many are left since they rested on what somebody changed meanwhile.

    Unless it was ``signed`` off, or is done ``by_plan`` as records come in (the plan in force was signed off then, where that is needed),
    a merge may need a second yes itself. Golden records that would be larger than they may be without one are proposed each by itself.

    Where records are given to merge ``among``, only what these belong to is looked at.

    Raises Conflict if something was done since the preview ``seen``. Cancelling keeps the parts that are done.
    """
    report = progress or (lambda stage, done, total: None)
    report("plan the merge", 0, 0)
    with transaction(sessions) as session:
        register = register_by_slug(session, slug)
        if seen:
            check_seen(session, register, seen)
        if not (signed or by_plan):
            ask_second_yes(session, register, merge_intent(seen), actor=actor, shown=lambda: merge_lines(session, slug))
        waiting = counters_of(session, register.id).without_golden
    counts = dict.fromkeys(_KINDS, 0)
    done = 0
    with processes(waiting > _WORTH_PROCESSES) as pool:
        pool.wake()
        with transaction(sessions) as session:
            plan = plan_merge(session, register_by_slug(session, slug), among)
        for part in _parts(plan.changes, changes_at_once):
            try:
                report("merge", done, len(plan.changes))
            except Cancelled as error:
                _gather_figures(sessions)
                raise Cancelled(
                    f"{counted(done, 'change')} of {len(plan.changes)} had been made and stay; the next merge makes the rest"
                ) from error
            with transaction(sessions) as session:
                _merge_part(session, register.id, part, counts, plan, seen, actor, signed)
            done += len(part)
    if at_end:
        with transaction(sessions) as session:
            at_end(session, counts)
    if among is None:
        _gather_figures(sessions)
    return counts


def _gather_figures(sessions: SessionFactory) -> None:
    with transaction(sessions) as session:
        analyze(session, "golden_records", "golden_members", "golden_words", "moves")


def check_seen(session: Session, register: Register, seen: str) -> None:
    """Raise Conflict if a person or a run did anything since the preview; the merge itself may have broken off and go on."""
    run = standing_run(session, register.id)
    run_id, _, position = seen.partition(".")
    latest = journal.latest_position(session, register.id)
    if run is None or run_id != str(run.id) or not position.isdigit() or int(position) > latest:
        raise Conflict("Another run stands since the preview was made. Look at it again, then merge.")
    since = journal.entries(session, register.id, limit=latest - int(position)) if latest > int(position) else ()
    others = [
        entry for entry in since
        if entry.kind not in _PROPOSING and (entry.kind != "merge" or entry.data.get("seen") != seen)
    ]  # fmt: skip
    if others:
        named = "; ".join(f"{summary_of(entry)} ({entry.actor})" for entry in others[:3])
        more = f" and {len(others) - 3} more" if len(others) > 3 else ""
        raise Conflict(f"Since the preview was made: {named}{more}. Look at it again, then merge.")


def _parts(changes: Changes, size: int) -> Iterator[Sequence[Change]]:
    for start in range(0, len(changes), size):
        yield changes[start : start + size]


def _unchanged(session: Session, changes: Sequence[Change]) -> list[Change]:
    """Return the changes whose golden records are still as they were when the merge was planned."""
    present = members_of(session, [golden for change in changes for golden in change.before])
    holds = golden_of(session, [record for change in changes for group in change.after.values() for record in group])
    fit = []
    for change in changes:
        known = {record for records in change.before.values() for record in records}
        fresh = (record for records in change.after.values() for record in records if record not in known)
        if all(present[golden] == list(records) for golden, records in change.before.items()) and not any(
            record in holds for record in fresh
        ):
            fit.append(change)
    return fit


def _merge_part(
    session: Session,
    register_id: int,
    changes: Sequence[Change],
    counts: dict[str, int],
    plan: MergePlan,
    seen: str,
    actor: str,
    signed: bool,
) -> None:
    register = lock_membership(session, register_id)
    fit = _unchanged(session, changes)
    if len(fit) < len(changes):
        counts[_LEFT] = counts.get(_LEFT, 0) + len(changes) - len(fit)
    if not signed:
        passing = without_large(session, register, fit, actor=actor)
        if len(passing) < len(fit):
            counts[_TO_SIGN] = counts.get(_TO_SIGN, 0) + len(fit) - len(passing)
        fit = passing
    if not fit:
        return
    more_golden = -sum(len(change.before) for change in fit)
    more_members = -sum(len(records) for change in fit for records in change.before.values())
    fresh = iter(new_golden(session, register, sum(golden < 0 for change in fit for golden in change.after)))
    moves: list[journal.MoveRow] = []
    touched: list[int] = []
    kinds: Counter[str] = Counter()
    for part, change in enumerate(fit, start=1):
        after = _named(change, fresh)
        moves += moves_between(part, change.before, after)
        touched += [*change.before, *after]
        more_golden += len(after)
        more_members += sum(map(len, after.values()))
        kinds[merge_kind(change.before, change.after)] += 1
    entry_id = journal.reserve(session)
    about = make_moves(session, entry_id, moves)
    # Retired records keep the values that they had.
    retired = {golden for change in fit for golden in change.retired}
    refresh(session, register, [golden for golden in touched if golden not in retired])
    for kind, times in kinds.items():
        counts[kind] += times
    data: dict[str, Any] = {
        "run": plan.run_id,
        "seen": seen or plan.seen,
        "moves": about,
        **kinds,
    }
    summary = f"Merged: {counted(len(fit), 'change')} of golden records"
    # Late, since whoever decides something counts, too.
    add_to(session, register.id, golden=more_golden, without_golden=-more_members)
    journal.append(
        session, register.id, "merge", actor=actor, data=data, personal={"summary": summary}, entry_id=entry_id
    )


def _named(change: Change, fresh: Iterator[int]) -> Mapping[int, Sequence[int]]:
    """Return the groups after a change with real golden ids; new ones go by the order of their first records."""
    return {
        golden if golden > 0 else next(fresh): change.after[golden]
        for golden in sorted(change.after, key=lambda golden: change.after[golden][0])
    }
