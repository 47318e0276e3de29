"""Runs a plan over a register's records and keeps pairs, clusters and a report: as the standing run, with doubts, or as a trial.

Nothing is locked while the run computes and stores: its results lie beside those of the standing run, seen by nobody, until
a short last step lets it stand. Decisions made meanwhile are laid on top in that step. What a run that broke off left behind
is cleared away by the next one.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ...core import explain, pipeline
from ...core.clustering import Decisions, awkward_clusters
from ...core.errors import Refused
from ...core.fields import Layout
from ...core.kinds_of_doubt import kinds_of_doubt
from ...core.pass_report import pass_report
from ...core.pass_table import packed
from ...core.plan import MatchPlan, parse_plan
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
from .read_records import read_records, tidy_records_of
from .related import bring_related

Progress = Callable[[str, int, int], None]
#: What is done in the last transaction, with the result.
AtEnd = Callable[[Session, dict[str, Any]], None]
_PAIRS_AT_ONCE = 50_000
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


def _known(session: Session, register_id: int, plan: MatchPlan, ids: Numbers) -> Known | None:
    """Return what is known of records where a scope of the plan leaves some out: None if none does."""
    if not any(own.scope.leaves_records_out for _, own in plan.in_order()):
        return None
    lines = [line.split(b"\x01") for line in matching.fact_lines(session, register_id)]
    facts = np.array(lines, dtype=np.int64)
    places = np.argsort(facts[:, 0])[np.argsort(np.argsort(ids))]
    return Known(facts[places, 1], facts[places, 2].astype("datetime64[s]").astype("datetime64[us]"))


def read_match_input(
    session: Session, slug: str, *, tidy: bool, trial: Trial | None = None, kept: Path | None = None
) -> MatchInput:
    """Return all that a match of a register needs, its records tidy (from the folder ``kept``, where they are unchanged) or as fields;
    raise Refused if it has no records."""
    # One moment for all that is read, so that records and decisions fit each other.
    session.execute(text("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ"))
    register = register_by_slug(session, slug)
    row = plan_in_force(session, register.id)
    layout = layout_of(register)
    records, ids = (
        tidy_records_of(session, register.id, kept) if tidy else read_records(session, register.id, tidy=False)
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
        counters_of(session, register.id).records_version, journal.latest_position(session, register.id),
    )  # fmt: skip


def run_plan(
    sessions: SessionFactory, slug: str, progress: Progress, *, actor: str = "Odd Pair", trial: Trial | None = None,
    kept: Path | None = None, at_end: AtEnd | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Run the plan in force and let its results stand, with ``at_end`` in the same transaction; return the run's id and counts.

    A ``trial`` is kept beside the standing run and changes nothing. In the folder ``kept`` lies what was read for the last job.
    """
    progress("read records", 0, 0)
    with transaction(sessions) as session:
        given = read_match_input(session, slug, tidy=True, trial=trial, kept=kept)
    result = pipeline.run(
        given.records, given.plan, decisions=given.decisions, without_duplicates=given.promised, are_tidy=True, known=given.known,
        progress=progress,
    )  # fmt: skip
    progress("clear away", 0, 0)
    _forget(sessions, given.register_id)
    run_id = _store(sessions, given, result, progress)
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


def _store(sessions: SessionFactory, given: MatchInput, result: pipeline.MatchResult, progress: Progress) -> int:
    with transaction(sessions) as session:
        run = Run(
            register_id=given.register_id, plan_id=given.plan_id, report=run_report(result, given.plan_version), state="storing",
            records_version=given.records_version, at=datetime.now(UTC), purpose="trial" if given.trial else "standing",
            title=given.trial.title if given.trial else "", yaml=given.trial.yaml if given.trial else "",
        )  # fmt: skip
        session.add(run)
        session.flush()
        for start in range(0, len(result.pairs), _PAIRS_AT_ONCE):
            progress("store results", start, len(result.pairs))
            matching.write_pairs(session, _pair_lines(run.id, result, given.ids, slice(start, start + _PAIRS_AT_ONCE)))
        names = cluster_names(result.labels, given.ids)
        told = packed([one.outcomes for one in result.passes])
        matching.write_clusters(session, run.id, given.ids, names, told)
        matching.write_awkward(session, _awkward(run.id, result, given.ids, names))
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


def _awkward(
    run_id: int, result: pipeline.MatchResult, ids: Numbers, names: Numbers
) -> Iterable[tuple[int, int, int, int, float, str]]:
    """Yield the clusters that a person should look at as wholes."""
    pairs = result.pairs
    found = awkward_clusters(
        pairs.left, pairs.right, pairs.scored.bits, result.labels, same_from=result.scorer.plan.limits.same,
        sources=len(result.records.sources),
    )  # fmt: skip
    for one in found:
        left, right = sorted((int(ids[one.left]), int(ids[one.right])))
        yield run_id, int(names[one.left]), left, right, one.score, one.kind


def cluster_names(labels: npt.NDArray[np.int32], ids: Numbers) -> Numbers:
    """Return, per record, the smallest record id of its cluster."""
    smallest = np.full(int(labels.max(initial=-1)) + 1, np.iinfo(np.int64).max)
    np.minimum.at(smallest, labels, ids)
    return smallest[labels]


def _pair_lines(run_id: int, result: pipeline.MatchResult, ids: Numbers, rows: slice) -> bytes:
    """Return lines with ``matching.PAIR_COLUMNS``: levels as bytes, evidence and what stands beside it in hundredths of a
    bit as 16-bit numbers."""
    return b"".join(
        _lines_of_pass(run_id, one, pairs, ids)
        for one, _, pairs in result.by_pass(result.pairs.part(rows))
        if len(pairs)
    )


def _lines_of_pass(run_id: int, one: pipeline.PassResult, pairs: pipeline.PairTable, ids: Numbers) -> bytes:
    evidence = explain.evidence_table(one.scorer, pairs)
    kinds = kinds_of_doubt(one.plan, pairs.scored.levels, evidence.compared)
    passed = int(pairs.passed[0])
    bits = np.clip(np.round(evidence.rows.T * 100), -32768, 32767).astype("<i2")
    levels = np.ascontiguousarray(pairs.scored.levels.T)
    left, right = ids[pairs.left], ids[pairs.right]
    columns = zip(
        np.minimum(left, right).tolist(), np.maximum(left, right).tolist(), pairs.scored.bits.tolist(), pairs.same.tolist(),
        kinds, pairs.scored.condition.tolist(), levels, bits, strict=True,
    )  # fmt: skip
    return "".join(
        f"{run_id}\t{a}\t{b}\t{score}\t{'t' if same else 'f'}\t{'' if same else kind}\t{condition}"
        f"\t\\\\x{level.tobytes().hex()}\t\\\\x{amount.tobytes().hex()}\t{passed}\n"
        for a, b, score, same, kind, condition, level, amount in columns
    ).encode()


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
