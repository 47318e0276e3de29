"""Recognises what came into a register since its clusters were formed: matched with what is there, merged, and told what came of it.

The records that changed are compared with those that share a block with them; the clusters they touch are formed anew in the standing
run, in one transaction; what is the same is merged after that in parts, like any merge. A process that dies between is no harm: what is
left to do is seen by the next one.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from ...core.errors import OddPairError
from ...core.learned_match import from_bytes
from ...core.plan import parse_plan
from ...core.recognition import ByPlan, Recognised, recognise, unlearnable
from ...store import journal, matching, outcomes
from ...store import recognition as store
from ...store.counters import count_waiting, counters_of
from ...store.doubts import remake_doubts, settle_doubts
from ...store.locks import close_desk, lock_membership
from ...store.references import with_parents_now
from ...store.registers import plan_in_force, register_by_slug, sources_of, standing_run
from ...store.schedules import merge_held
from ...store.tables import Register, Run
from ..golden.merge import merge
from ..golden.merge_plan import plan_merge
from ..match.numbers import Numbers
from ..match.run_plan import UNMERGED, run_plan
from ..match.run_rows import awkward_rows, cluster_names, pair_lines
from ..state.layouts import layout_of
from ..state.words import counted
from ..transactions import SessionFactory, transaction
from .as_it_stands import RegisterAsItStands
from .directories import Directories
from .parents import ASIDE, follow_children, link_to_parents

Progress = Callable[[str, int, int], None]
AtEnd = Callable[[Session, dict[str, Any]], None]
#: Where more than this share of the records changed, everything is matched: that is quicker, and learns anew.
_MOST_CHANGED = 0.3
_LEAST_TO_MATCH_ALL = 5_000
_PAIRS_AT_ONCE = 50_000
#: So many golden records may change whatever their share.
_NEVER_TOO_MANY = 20


class TooManyChanges(OddPairError):
    """More golden records would change than nobody need look at."""


@dataclass(frozen=True, slots=True)
class _Formed:
    """What recognising did: the records that changed and those whose clusters were formed anew, and how many pairs it took."""

    changed: Numbers
    formed: Numbers
    compared: int


def why_not(session: Session, register: Register) -> str:
    """Return why what came in cannot be recognised by what the standing run learned, so that everything has to be matched, or ""."""
    run = standing_run(session, register.id)
    plan = plan_in_force(session, register.id)
    hindrance = unlearnable(parse_plan(plan.yaml, layout_of(register)))
    if hindrance:
        return hindrance
    if run is None:
        return "nothing was matched yet"
    if run.plan_id != plan.id:
        return "the plan changed since the last run"
    if run.learned is None:
        return "the last run was made before deliveries were to be recognised"
    since = journal.position_of_run(session, register.id, run.id)
    if journal.kinds_since(session, register.id, since, ("promise",)):
        return "a source's promise to have no duplicates changed since the last run"
    total = counters_of(session, register.id).records
    changed = len(store.changed_since(session, register.id, run.records_version))
    if changed > max(_MOST_CHANGED * total, _LEAST_TO_MATCH_ALL):
        return f"{counted(changed, 'record')} of {total} changed"
    return ""


def recognise_register(
    sessions: SessionFactory, slug: str, progress: Progress, directories: Directories, *, actor: str = "Odd Pair", kept: Path | None = None,
    at_end: AtEnd | None = None, most_golden: float | None = None, of_turn: int = 0, made: Path | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Bring clusters and golden records of a register up to date with all that came in; return what was done.

    Everything is matched where that has to be (see ``why_not``); in the folder ``kept`` lies what was read for the last job, into ``made``
    goes what is made for records that refer to something that is not there.
    Raises TooManyChanges where more than the share ``most_golden`` of the golden records would change: clusters are formed then, but
    nothing is merged. While a turn of a schedule is held for that, only its own (``of_turn``) merges.
    """
    with transaction(sessions) as session:
        register = lock_membership(session, register_by_slug(session, slug).id)
        if not counters_of(session, register.id).records:
            nobody: dict[str, Any] = {"changed": 0, "deliveries": []}
            if at_end:
                at_end(session, nobody)
            return nobody
        parents = link_to_parents(session, register, made, actor=actor)
    told, among = _bring_clusters(sessions, slug, progress, directories, actor=actor, kept=kept)
    told |= {"parents_made": parents} if parents else {}
    with transaction(sessions) as session:
        held = merge_held(session, register_by_slug(session, slug).id, of_turn)
    if held:
        told["held"] = held
    elif among is None or len(among):
        if most_golden is not None:
            _check_changes(sessions, slug, among, most_golden)
        told |= merge(sessions, slug, actor=actor, progress=progress, among=among, by_plan=True)
    progress("outcomes", 0, 0)
    with transaction(sessions) as session:
        told["deliveries"] = [] if held else _tell(session, slug)
        if at_end:
            at_end(session, told)
    return told


def _bring_clusters(
    sessions: SessionFactory, slug: str, progress: Progress, directories: Directories, *, actor: str, kept: Path | None
) -> tuple[dict[str, Any], Numbers | None]:
    """Bring the clusters of a register up to date; return (what was done, among which records there may be something to merge: all, where
    that is None)."""
    with transaction(sessions) as session:
        register = lock_membership(session, register_by_slug(session, slug).id)
        for delivery in outcomes.deliveries_to_recognise(session, register.id):
            outcomes.begin_outcomes(session, delivery.id)
        hindrance = why_not(session, register)
        run = standing_run(session, register.id)
        # What was formed before, and not merged since a process died or a turn was held, is merged now.
        left_over = bool(run and run.report.get(UNMERGED))
        told: dict[str, Any] = {"matched_all": hindrance}
        if not hindrance:
            formed = _recognise(session, register, progress, directories, actor)
            told |= {"changed": len(formed.changed), "formed": len(formed.formed), "compared": formed.compared}
        # Who was put aside, and has a parent now, is merged like what changed.
        waited = with_parents_now(session, register.id) if register.parents == ASIDE and not hindrance else []
    if hindrance:
        return told | run_plan(sessions, slug, progress, actor=actor, kept=kept), None
    return told, None if left_over else np.union1d(np.union1d(formed.changed, formed.formed), waited).astype(np.int64)


def _check_changes(sessions: SessionFactory, slug: str, among: Numbers | None, most_golden: float) -> None:
    """Raise TooManyChanges where a merge would change, join or split more than a share of the golden records."""
    with transaction(sessions) as session:
        register = register_by_slug(session, slug)
        plan, golden = plan_merge(session, register, among), counters_of(session, register.id).golden
        changed = sum(len(change.before) for change in plan.changes.others)
    if golden and changed > max(most_golden * golden, _NEVER_TOO_MANY):
        raise TooManyChanges(f"{counted(changed, 'golden record')} of {golden} would change")


def _recognise(
    session: Session, register: Register, progress: Progress, directories: Directories, actor: str
) -> _Formed:
    started = datetime.now(UTC)
    run = standing_run(session, register.id)
    assert run is not None
    assert run.learned is not None
    version = counters_of(session, register.id).records_version
    plan = parse_plan(plan_in_force(session, register.id).yaml, layout_of(register))
    promised = tuple(source.name for source in sources_of(session, register.id) if not source.own_duplicates)
    by = ByPlan(plan, from_bytes(run.learned), promised)
    changed = np.union1d(
        store.changed_since(session, register.id, run.records_version),
        store.decided_after(session, register.id, run.followed_at),
    )
    progress("find who may be who", 0, 0)
    directory = directories.up_to_date(session, run, version, by)
    [(_, own)] = plan.in_order()
    standing = RegisterAsItStands(session, register.id, run.id, own.limits.same, directory)
    found = recognise(changed, standing, by, progress)
    _write(session, register, run, changed, found, progress)
    _stand(session, register, run, version, started, actor, len(changed))
    return _Formed(changed, found.formed_ids, found.compared)


def _write(
    session: Session, register: Register, run: Run, changed: Numbers, found: Recognised, progress: Progress
) -> None:
    """Put what came of the changed records in the place of what the run said of them."""
    progress("store results", 0, 0)
    same, unsure = store.begin_forming(session, run.id, changed.tolist(), found.formed_ids.tolist())
    more_same = more_unsure = 0
    doubtful: list[int] = []
    for result, ids in found.doubts:
        pairs = result.pairs
        leads_out = ~(np.isin(ids[pairs.left], found.formed_ids) & np.isin(ids[pairs.right], found.formed_ids))
        own = pairs.part(np.flatnonzero(leads_out))
        for start in range(0, len(own), _PAIRS_AT_ONCE):
            matching.write_pairs(
                session, pair_lines(run.id, result, ids, own.part(slice(start, start + _PAIRS_AT_ONCE)))
            )
        doubtful += ids[own.left].tolist() + ids[own.right].tolist()
        more_unsure += len(own)
    if found.formed is not None:
        result, ids = found.formed, found.formed_ids
        for start in range(0, len(result.pairs), _PAIRS_AT_ONCE):
            part = result.pairs.part(slice(start, start + _PAIRS_AT_ONCE))
            matching.write_pairs(session, pair_lines(run.id, result, ids, part))
        names = cluster_names(result.labels, ids)
        matching.write_clusters(session, run.id, ids, names, np.zeros(len(ids), dtype=np.int64))
        sources = len(sources_of(session, register.id))
        matching.write_awkward(session, awkward_rows(run.id, result, ids, names, sources))
        more_same, more_unsure = more_same + int(result.pairs.same.sum()), more_unsure + int((~result.pairs.same).sum())
    store.tell_outcomes(session, run.id, set(doubtful))
    clusters = store.clusters_of_formed(session, run.id) - store.count_gone_clusters(session)
    report = dict(run.report)
    report["records"] = counters_of(session, register.id).records
    report["pairs_same"] += more_same - same
    report["pairs_unsure"] += more_unsure - unsure
    report["clusters"] += clusters
    report["compared"] += found.compared
    run.report = report | {UNMERGED: True}


def _stand(
    session: Session, register: Register, run: Run, version: int, started: datetime, actor: str, changed: int
) -> None:
    run.records_version, run.followed_at = version, started
    close_desk(session, register.id)
    remake_doubts(session, register.id, run.id)
    # What was decided while clusters were formed is laid on top, and followed the next time.
    meanwhile = store.decided_after(session, register.id, started)
    if len(meanwhile):
        settle_doubts(session, register.id, run.id, meanwhile.tolist())
    count_waiting(session, register.id)
    journal.append(
        session, register.id, "recognise", actor=actor, data={"run": run.id, "records_version": version, "changed": changed},
        personal={"summary": f"Recognised {counted(changed, 'changed record')}"},
    )  # fmt: skip


def _tell(session: Session, slug: str) -> list[int]:
    """Write down what came of the records of the deliveries that were recognised; return which these are."""
    register = register_by_slug(session, slug)
    run = standing_run(session, register.id)
    told = outcomes.deliveries_to_recognise(session, register.id) if run else []
    ids = [delivery.id for delivery in told]
    if run and run.report.get(UNMERGED):
        run.report = {**run.report, UNMERGED: False}
    if run and ids:
        outcomes.end_outcomes(session, ids, run.id)
    for delivery in told:
        without = outcomes.without_parent(session, delivery.id)
        delivery.outcomes = {
            **outcomes.count_outcomes(session, delivery.id), **({outcomes.WITHOUT_PARENT: without} if without else {}),
            "at": datetime.now(UTC).isoformat(),
        }  # fmt: skip
    if ids:
        follow_children(session, register)
    return ids
