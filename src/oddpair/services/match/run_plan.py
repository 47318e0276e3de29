"""Runs a plan over a register's records and keeps pairs, clusters and a report: as the standing run, with doubts, or as a trial.

Nothing is locked while the run computes and stores: its results lie beside those of the standing run, seen by nobody, until
a short last step lets it stand. Decisions made meanwhile are laid on top in that step. What a run that broke off left behind
is cleared away by the next one.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ...core import pipeline
from ...core.clustering import Decisions
from ...core.errors import Refused
from ...core.fields import Layout
from ...core.learned_match import LearnedMatch, to_bytes
from ...core.pass_report import pass_report
from ...core.pass_table import packed
from ...core.plan import MatchPlan, parse_plan
from ...core.recognition import match_repeatably, unlearnable
from ...core.records import RecordSet
from ...core.scope import Known
from ...core.tidying import TidySteps
from ...store import journal, matching
from ...store.counters import count_waiting, counters_of
from ...store.decisions import decisions_in_force
from ...store.doubts import make_doubts, settle_doubts
from ...store.locks import close_desk
from ...store.maintenance import analyze
from ...store.registers import plan_in_force, register_by_slug, sources_of
from ...store.tables import Decision, Run
from ..state.layouts import layout_of
from ..state.tidy_steps_in_force import tidy_steps_of
from ..transactions import SessionFactory, transaction
from .numbers import Numbers
from .read_records import WORTH_KEEPING, read_records, tidy_records_of
from .related import bring_related
from .run_rows import awkward_rows, cluster_names, pair_lines

Progress = Callable[[str, int, int], None]
#: What is done in the last transaction, with the result.
AtEnd = Callable[[Session, dict[str, Any]], None]
_PAIRS_AT_ONCE = 50_000
#: In the report of a run: the version of the register's records that it learned from.
LEARNED_FROM = "learned_from_version"
#: And whether what recognition formed has not been merged yet.
UNMERGED = "unmerged"
#: A decision that is being written waits for locks no longer than this before it is refused.
_OVERLAP = timedelta(seconds=15)


def decisions_for(session: Session, register_id: int, ids: Numbers) -> Decisions:
    """Return the decisions in force as pairs of record numbers."""
    order = np.argsort(ids)
    chosen: dict[str, list[tuple[int, int]]] = {"same": [], "different": [], "later": []}
    for decision in decisions_in_force(session, register_id):
        places = np.searchsorted(ids[order], [decision.left_id, decision.right_id])
        if (places < len(ids)).all() and ids[order[places]].tolist() == [decision.left_id, decision.right_id]:
            a, b = order[places].tolist()
            chosen[decision.verdict].append((min(a, b), max(a, b)))
    same, different = (np.array(chosen[name], dtype=np.int32).reshape(-1, 2) for name in ("same", "different"))
    return Decisions(same, different)


@dataclass(frozen=True, slots=True)
class Trial:
    """A run that only shows: its title, and the plan as YAML where it is not the one in force."""

    title: str
    yaml: str = ""


@dataclass(frozen=True, slots=True)
class MatchInput:
    """All that a match of a register needs, as it was at one moment."""

    register_id: int
    layout: Layout
    plan: MatchPlan
    plan_id: int
    plan_version: int
    trial: Trial | None
    tidy_steps: TidySteps
    records: RecordSet
    ids: Numbers
    decisions: Decisions
    promised: list[str]
    known: Known | None
    records_version: int
    position: int
    recognises: bool
    read_at: datetime


def _known(session: Session, register_id: int, plan: MatchPlan, ids: Numbers) -> Known | None:
    """Return what is known of records where a scope of the plan leaves some out: None if none does."""
    if not any(own.scope.leaves_records_out for _, own in plan.in_order()):
        return None
    lines = [line.split(b"\x01") for line in matching.fact_lines(session, register_id)]
    facts = np.array(lines, dtype=np.int64)
    places = np.argsort(facts[:, 0])[np.argsort(np.argsort(ids))]
    return Known(facts[places, 1], facts[places, 2].astype("datetime64[s]").astype("datetime64[us]"))


def read_match_input(
    session: Session,
    slug: str,
    *,
    tidy: bool,
    trial: Trial | None = None,
    kept: Path | None = None,
    worth_keeping: int = WORTH_KEEPING,
) -> MatchInput:
    """Return all that a match of a register needs, its records tidy (from the folder ``kept``, where they are unchanged) or as fields;
    raise Refused if it has no records."""
    # One moment for all that is read, so that records and decisions fit each other.
    session.execute(text("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ"))
    read_at = datetime.now(UTC)
    register = register_by_slug(session, slug)
    row = plan_in_force(session, register.id)
    layout = layout_of(register)
    records, ids = (
        tidy_records_of(session, register.id, kept, worth_keeping)
        if tidy
        else read_records(session, register.id, tidy=False)
    )
    if not len(records):
        raise Refused("There are no records to match yet. Bring in a delivery first.")
    plan = parse_plan(trial.yaml if trial and trial.yaml else row.yaml, layout)
    if tidy:
        records = bring_related(session, register, plan, records, ids)
    return MatchInput(
        register.id, layout, plan, row.id, row.version, trial, tidy_steps_of(session, register), records, ids,
        decisions_for(session, register.id, ids),
        [source.name for source in sources_of(session, register.id) if not source.own_duplicates],
        _known(session, register.id, plan, ids),
        counters_of(session, register.id).records_version, journal.latest_position(session, register.id), register.recognises, read_at,
    )  # fmt: skip


def run_plan(
    sessions: SessionFactory, slug: str, progress: Progress, *, actor: str = "Odd Pair", trial: Trial | None = None,
    kept: Path | None = None, worth_keeping: int = WORTH_KEEPING, at_end: AtEnd | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Run the plan in force and let its results stand, with ``at_end`` in the same transaction; return the run's id and counts.

    A ``trial`` is kept beside the standing run and changes nothing. In the folder ``kept`` lies what was read for the last job.
    """
    progress("read records", 0, 0)
    with transaction(sessions) as session:
        given = read_match_input(session, slug, tidy=True, trial=trial, kept=kept, worth_keeping=worth_keeping)
    result, learned = _matched(given, progress)
    progress("clear away", 0, 0)
    _forget(sessions, given.register_id)
    run_id = _store(sessions, given, result, learned, progress)
    if given.trial:
        return _keep(sessions, run_id, at_end)
    progress("doubts", 0, 0)
    with transaction(sessions) as session:
        analyze(session, "run_pairs", "run_clusters")
        # A decision that is being written at this moment is looked at again, too.
        since = datetime.now(UTC) - _OVERLAP
        make_doubts(session, given.register_id, run_id)
    outcome = _let_stand(sessions, given, run_id, since, actor, at_end)
    _forget(sessions, given.register_id)
    with transaction(sessions) as session:
        analyze(session, "doubts")
    return outcome


def _forget(sessions: SessionFactory, register_id: int) -> None:
    with transaction(sessions) as session:
        gone = matching.runs_to_forget(session, register_id)
    for run_id in gone:
        with transaction(sessions) as session:
            matching.forget_run(session, run_id)


def _matched(given: MatchInput, progress: Progress) -> tuple[pipeline.MatchResult, LearnedMatch | None]:
    """Match everything; where deliveries are to be recognised later, so that these end the same, and return what that rests on."""
    if given.recognises and not given.trial and not unlearnable(given.plan):
        return match_repeatably(
            given.records, given.plan, decisions=given.decisions, without_duplicates=given.promised, progress=progress
        )
    result = pipeline.run(
        given.records, given.plan, decisions=given.decisions, without_duplicates=given.promised, are_tidy=True, known=given.known,
        progress=progress,
    )  # fmt: skip
    return result, None


def _store(
    sessions: SessionFactory,
    given: MatchInput,
    result: pipeline.MatchResult,
    learned: LearnedMatch | None,
    progress: Progress,
) -> int:
    report = run_report(result, given.plan_version) | {
        LEARNED_FROM: given.records_version,
        "learned_from_records": len(given.records),
        UNMERGED: given.recognises,
    }
    with transaction(sessions) as session:
        run = Run(
            register_id=given.register_id, plan_id=given.plan_id, report=report, state="storing",
            records_version=given.records_version, at=datetime.now(UTC), purpose="trial" if given.trial else "standing",
            title=given.trial.title if given.trial else "", yaml=given.trial.yaml if given.trial else "",
            followed_at=given.read_at - _OVERLAP, learned=to_bytes(learned) if learned else None,
        )  # fmt: skip
        session.add(run)
        session.flush()
        for start in range(0, len(result.pairs), _PAIRS_AT_ONCE):
            progress("store results", start, len(result.pairs))
            part = result.pairs.part(slice(start, start + _PAIRS_AT_ONCE))
            matching.write_pairs(session, pair_lines(run.id, result, given.ids, part))
        names = cluster_names(result.labels, given.ids)
        told = packed([one.outcomes for one in result.passes])
        matching.write_clusters(session, run.id, given.ids, names, told)
        sources = len(result.records.sources)
        matching.write_awkward(session, awkward_rows(run.id, result, given.ids, names, sources))
        return run.id


def _counts(run: Run) -> dict[str, Any]:
    return {name: run.report[name] for name in ("records", "compared", "pairs_same", "pairs_unsure", "clusters")}


def _keep(sessions: SessionFactory, run_id: int, at_end: AtEnd | None) -> dict[str, Any]:
    """Keep a trial beside the standing run."""
    with transaction(sessions) as session:
        run = session.get_one(Run, run_id)
        run.state = "kept"
        outcome = {"run_id": run_id, **_counts(run)}
        if at_end:
            at_end(session, outcome)
    return outcome


def _let_stand(
    sessions: SessionFactory, given: MatchInput, run_id: int, since: datetime, actor: str, at_end: AtEnd | None
) -> dict[str, Any]:
    """Let the run stand, with what was decided or taken back since its doubts were made."""
    with transaction(sessions) as session:
        run = session.get_one(Run, run_id)
        close_desk(session, given.register_id)
        meanwhile = select(Decision.left_id, Decision.right_id).where(
            Decision.register_id == given.register_id, (Decision.at >= since) | (Decision.withdrawn_at >= since)
        )
        decided = session.execute(meanwhile.distinct()).all()
        matching.let_stand(session, run)
        if counters_of(session, given.register_id).records_version != given.records_version:
            make_doubts(session, given.register_id, run_id)
        else:
            for left, right in decided:
                settle_doubts(session, given.register_id, run_id, [left, right])
        count_waiting(session, given.register_id)
        counts = _counts(run)
        data = {"run": run_id, "plan": given.plan_version, "records_version": given.records_version, **counts}
        journal.append(session, given.register_id, "run", actor=actor, data=data, personal={"summary": "Ran the match"})
        outcome = {"run_id": run_id, **counts}
        if at_end:
            at_end(session, outcome)
    return outcome


def run_report(result: pipeline.MatchResult, plan_version: int) -> dict[str, Any]:
    """Return the counts of a run as they are kept and shown."""
    return {
        "plan_version": plan_version,
        "records": len(result.records),
        "compared": result.compared,
        "bands": result.bands,
        "pairs_same": int(result.pairs.same.sum()),
        "pairs_unsure": int((~result.pairs.same).sum()),
        "clusters": result.cluster_count,
        "ignored_decisions": len(result.ignored_decisions),
        "passes": [pass_report(one, result.records.sources) for one in result.passes],
        "seconds": result.seconds,
    }
