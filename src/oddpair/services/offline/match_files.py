"""Matches files without a database: files in, a folder of results out."""

import csv
import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from time import perf_counter

import numpy as np

from ...core import explain, pipeline
from ...core.errors import InputError, did_you_mean
from ...core.fields import FRESHNESS_FIELD, Layout, default_layout
from ...core.plan import MatchPlan, plan_to_yaml
from ...core.processes import processes
from ...core.records import RecordSet
from ...core.scoring import shares_as_document
from ...core.survivorship import Contributor, default_rules, golden_rows
from ...core.tidying import Progress
from ...files import RejectedRow
from ...files.writers import write_csv
from ...version import VERSION
from .read_files import ReadFiles, read_files, worth_processes

PAIR_COLUMNS = ("source_a", "id_a", "source_b", "id_b", "score", "verdict")
#: The blocks of a run, so that it can be told later what was never compared.
BLOCKS_FILE = "blocks.npz"


@dataclass(frozen=True, slots=True)
class MatchFilesResult:
    """What a run over files did, as it is written to report.json; ``warnings`` say what a person should look at before using it."""

    report: dict[str, object]
    match: pipeline.MatchResult
    warnings: tuple[str, ...]


def match_files(
    files: Sequence[Path], plan: MatchPlan, out: Path, *, map_document: object = None, plan_name: str = "",
    without_duplicates: Sequence[str] = (), references: Sequence[str] = (), progress: Progress | None = None,
) -> MatchFilesResult:  # fmt: skip
    """Match the records of ``files`` by ``plan`` and write pairs, clusters, golden records, crosswalk, rejects and a report.

    Raises InputError or MappingInvalid naming what is wrong; nothing is written unless all files could be read.
    """
    started = perf_counter()
    layout = default_layout(plan.kind)
    # Processes that are started for reading do the tidying as well.
    with processes(worth_processes(files)):
        read = read_files(files, plan.kind, map_document, progress)
        records = read.records
        for name in (*without_duplicates, *references):
            if name not in records.sources:
                raise InputError(f"no file is called '{name}'.{did_you_mean(name, records.sources)}")
        read_seconds = round(perf_counter() - started, 3)
        result = pipeline.run(
            records, plan, without_duplicates=without_duplicates, references=references, progress=progress
        )
    writing = perf_counter()
    if progress:
        progress("write", 0, 1)
    out.mkdir(parents=True, exist_ok=True)
    _write_results(out, records, result, layout, read.rejected)
    seconds = {"read": read_seconds, **result.seconds, "write": round(perf_counter() - writing, 3)}
    seconds["all"] = round(perf_counter() - started, 3)
    report = _report(read, result, plan, plan_name, seconds)
    (out / "report.json").write_text(json.dumps(report, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
    return MatchFilesResult(report, result, tuple(read.warnings))


def _write_results(
    out: Path, records: RecordSet, result: pipeline.MatchResult, layout: Layout, rejected: list[tuple[str, RejectedRow]]
) -> None:
    write_csv(
        out / "pairs.csv",
        [*PAIR_COLUMNS[:5], "probability", "verdict", "reason"],
        _pair_rows(records, result),
    )
    blocks = result.blocks
    np.savez(out / BLOCKS_FILE, members=blocks.members, sizes=np.diff(blocks.starts), keys=blocks.keys)
    keys = [f"G{number + 1}" for number in range(result.cluster_count)]
    labels = result.labels.tolist()
    write_csv(
        out / "clusters.csv",
        ["source", "source_id", "cluster_id"],
        (
            {"source": records.source_of(r), "source_id": records.ids[r], "cluster_id": keys[label]}
            for r, label in enumerate(labels)
        ),
    )
    write_csv(
        out / "crosswalk.csv",
        ["source", "source_id", "golden_key"],
        (
            {"source": records.source_of(r), "source_id": records.ids[r], "golden_key": keys[label]}
            for r, label in enumerate(labels)
        ),
    )
    write_csv(out / "golden.csv", ["golden_key", "records", *layout.names], _golden_rows(records, result, layout, keys))
    write_csv(
        out / "rejected.csv",
        ["file", "row", "column", "reason", "value"],
        (
            {"file": file, "row": str(row.number), "column": row.column, "reason": row.reason, "value": row.value}
            for file, row in rejected
        ),
    )


def _pair_rows(records: RecordSet, result: pipeline.MatchResult) -> Iterator[dict[str, str]]:
    step = 50_000
    for start in range(0, len(result.pairs), step):
        pairs = result.pairs.part(slice(start, start + step))
        reasons = explain.sentences(result.scorer, pairs)
        rows = zip(
            pairs.left.tolist(), pairs.right.tolist(), pairs.scored.bits.tolist(),
            result.calibration.probability(pairs.scored.bits).tolist(), pairs.same.tolist(), reasons, strict=True,
        )  # fmt: skip
        for a, b, bits, chance, same, reason in rows:
            yield {
                "source_a": records.source_of(a), "id_a": records.ids[a], "source_b": records.source_of(b), "id_b": records.ids[b],
                "score": f"{bits:.2f}", "probability": f"{chance:.4f}", "verdict": "same" if same else "unsure", "reason": reason,
            }  # fmt: skip


def _golden_rows(
    records: RecordSet, result: pipeline.MatchResult, layout: Layout, keys: Sequence[str]
) -> Iterator[Mapping[str, str]]:
    rules = default_rules(layout)
    order = np.argsort(result.labels, kind="stable")
    bounds = np.searchsorted(result.labels[order], np.arange(result.cluster_count + 1))
    delivered, tidy = _rows_of(records), _rows_of(result.records)

    def clusters() -> Iterator[list[Contributor]]:
        for number in range(result.cluster_count):
            members = order[bounds[number] : bounds[number + 1]].tolist()
            yield [_contributor(records, member, delivered(member), tidy(member)) for member in members]

    sizes = np.diff(bounds).tolist()
    for key, size, row in zip(keys, sizes, golden_rows(layout, rules, clusters()), strict=True):
        yield {"golden_key": key, "records": str(size), **row}


def _rows_of(records: RecordSet) -> Callable[[int], dict[str, str]]:
    """Return a quick way of reading many rows: the filled fields of a record, by its number."""
    columns = [(name, (*column.values, ""), column.codes.tolist()) for name, column in records.columns.items()]
    return lambda record: {name: value for name, values, codes in columns if (value := values[codes[record]])}


def _contributor(records: RecordSet, record: int, delivered: dict[str, str], tidy: dict[str, str]) -> Contributor:
    return Contributor(
        records.ids[record], records.source_of(record), 1, tidy.get(FRESHNESS_FIELD, ""), delivered, tidy
    )


def _report(
    read: ReadFiles, result: pipeline.MatchResult, plan: MatchPlan, plan_name: str, seconds: Mapping[str, float]
) -> dict[str, object]:
    sizes = np.bincount(np.bincount(result.labels)) if len(result.labels) else np.zeros(0, dtype=np.int64)
    return {
        "odd_pair": VERSION,
        "records": len(result.records),
        "rejected": len(read.rejected),
        "warnings": read.warnings,
        "files": read.files,
        "compared": result.compared,
        "bands": result.bands,
        "pairs_same": int(result.pairs.same.sum()),
        "pairs_unsure": int((~result.pairs.same).sum()),
        "clusters": result.cluster_count,
        "clusters_by_size": {str(size): int(count) for size, count in enumerate(sizes) if count},
        "blocking_keys": [
            {"key": item.count.key, "blocks": item.count.blocks, "largest_block": item.count.largest_block,
             "pairs_proposed": item.count.pairs_proposed, "pairs_first_found": item.pairs_first_found}
            for item in result.keys
        ],
        "limits": plan.limits.model_dump(),
        "matches_per_record": round(result.scorer.matches_per_record, 4),
        "level_shares": shares_as_document(plan, result.scorer.shares),
        "left_out_blocks": [{"key": item.key, "value": item.value, "records": item.records} for item in result.left_out],
        "seconds": dict(seconds),
        "plan_name": plan_name or plan.title,
        "plan": plan_to_yaml(plan),
    }  # fmt: skip


def read_columns(path: Path, names: Sequence[str]) -> list[tuple[str, ...]]:
    """Return the rows of a CSV file with the given columns, in any order; raise InputError if one is missing."""
    with path.open(encoding="utf-8-sig", newline="") as file:
        reader = csv.DictReader(file)
        missing = [name for name in names if name not in (reader.fieldnames or [])]
        if missing:
            raise InputError(f"there is no column '{missing[0]}'", file=path.name)
        return [tuple(row[name] or "" for name in names) for row in reader]
