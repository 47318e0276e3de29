"""Runs a register's plan over its records and keeps pairs, clusters and a report."""

from collections.abc import Callable, Iterator
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from ...core import explain, pipeline
from ...core.clustering import Decisions
from ...core.errors import Refused
from ...core.plan import parse_plan
from ...core.records import RecordSet, RecordSetBuilder
from ...store import matching
from ...store.records import records_for_run
from ...store.registers import lock_register, plan_in_force, register_by_slug, sources_of
from ...store.tables import Run
from ..state.layouts import layout_of
from ..state.recipe_in_force import recipe_of

Progress = Callable[[str, int, int], None]
_PAIRS_AT_ONCE = 20_000


def read_records(session: Session, register_id: int) -> tuple[RecordSet, list[int]]:
    """Return the register's records and, per record number, its database id."""
    builder = RecordSetBuilder()
    ids: dict[tuple[str, str], int] = {}
    for record_id, source, key, fields, _ in records_for_run(session, register_id):
        builder.add(source, key, fields)
        ids[(source, key)] = record_id
    records = builder.build()
    return records, [ids[(records.source_of(place), records.ids[place])] for place in range(len(records))]


def decisions_for(session: Session, register_id: int, ids: list[int]) -> Decisions:
    """Return the decisions in force as pairs of record numbers."""
    number = {record_id: place for place, record_id in enumerate(ids)}
    chosen: dict[str, list[tuple[int, int]]] = {"same": [], "different": []}
    for decision in matching.decisions_in_force(session, register_id):
        if decision.verdict in chosen:
            a, b = number[decision.left_id], number[decision.right_id]
            chosen[decision.verdict].append((min(a, b), max(a, b)))
    same, different = (np.array(chosen[name], dtype=np.int32).reshape(-1, 2) for name in ("same", "different"))
    return Decisions(same, different)


def run_plan(session: Session, slug: str, progress: Progress) -> dict[str, Any]:
    """Run the plan in force in the open transaction; return the run's id and counts."""
    register = lock_register(session, register_by_slug(session, slug).id)
    plan_row = plan_in_force(session, register.id)
    plan = parse_plan(plan_row.yaml, layout_of(register))
    progress("read records", 0, 0)
    records, ids = read_records(session, register.id)
    if not len(records):
        raise Refused("There are no records to match yet. Bring in a delivery first.")
    promised = [source.name for source in sources_of(session, register.id) if not source.own_duplicates]
    result = pipeline.run(
        records,
        plan,
        decisions=decisions_for(session, register.id, ids),
        without_duplicates=promised,
        layout=layout_of(register),
        recipe=recipe_of(session, register),
        progress=progress,
    )
    progress("store results", 0, 0)
    run = Run(
        register_id=register.id, plan_id=plan_row.id, report=run_report(result, plan_row.version), at=datetime.now(UTC)
    )
    session.add(run)
    session.flush()
    matching.forget_earlier_runs(session, register.id, run.id)
    matching.write_pairs(session, _pair_rows(run.id, result, ids))
    matching.write_clusters(session, _cluster_rows(run.id, result, ids))
    return {
        "run_id": run.id,
        **{name: run.report[name] for name in ("records", "compared", "pairs_same", "pairs_unsure", "clusters")},
    }


def _pair_rows(
    run_id: int, result: pipeline.MatchResult, ids: list[int]
) -> Iterator[tuple[int, int, int, float, str, dict[str, Any], str]]:
    for start in range(0, len(result.pairs), _PAIRS_AT_ONCE):
        pairs = result.pairs.part(slice(start, start + _PAIRS_AT_ONCE))
        bits = np.round(result.scorer.evidence(pairs.left, pairs.right).T.astype(np.float64), 2).tolist()
        chances = result.calibration.probability(pairs.scored.bits).tolist()
        reasons = explain.sentences(result.scorer, pairs.left, pairs.right, pairs.scored)
        for place, reason in enumerate(reasons):
            a, b = ids[int(pairs.left[place])], ids[int(pairs.right[place])]
            evidence = explain.explain_scored(result.scorer, pairs.scored, place, bits[place])
            document = {
                "evidence": [asdict(item) for item in evidence], "swapped": a > b, "probability": round(chances[place], 4),
            }  # fmt: skip
            verdict = "same" if pairs.same[place] else "unsure"
            yield run_id, min(a, b), max(a, b), round(float(pairs.scored.bits[place]), 3), verdict, document, reason


def _cluster_rows(run_id: int, result: pipeline.MatchResult, ids: list[int]) -> Iterator[tuple[int, int, int]]:
    names: dict[int, int] = {}
    for place, label in enumerate(result.labels.tolist()):
        names[label] = min(names.get(label, ids[place]), ids[place])
    for place, label in enumerate(result.labels.tolist()):
        yield run_id, ids[place], names[label]


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
        "histogram": {"from": pipeline.HISTOGRAM_FROM, "counts": result.histogram.tolist()},
        "keys": [
            {"key": item.count.key, "blocks": item.count.blocks, "largest_block": item.count.largest_block,
             "pairs_proposed": item.count.pairs_proposed, "pairs_first_found": item.pairs_first_found}
            for item in result.keys
        ],
        "left_out": [asdict(item) for item in result.left_out],
        "ignored_decisions": len(result.ignored_decisions),
        "seconds": result.seconds,
    }  # fmt: skip
