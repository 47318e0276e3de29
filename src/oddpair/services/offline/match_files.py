"""Matches files without a database: files in, a folder of results out."""

import csv
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from time import perf_counter

import numpy as np
import numpy.typing as npt

from ...core import explain, pipeline
from ...core.contest import contest_document
from ...core.cycles import without_cycle_search
from ...core.errors import InputError, PlanInvalid, did_you_mean
from ...core.fields import Layout, default_layout
from ...core.pass_report import key_report, pass_report
from ...core.plan import MatchPlan, plan_to_yaml
from ...core.processes import processes
from ...core.records import RecordSet
from ...core.scoring import shares_as_document
from ...core.standard import STANDARD, standard_columns
from ...core.survivorship import default_rules, golden_columns, rules_from
from ...core.tidying import Progress, tidy_records, tidying_rules
from ...core.wording import habits_document
from ...files import RejectedRow
from ...files.column_writer import EncodedTexts, write_csv_columns
from ...files.kept_columns import KeptColumns, digest_of
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
    without_duplicates: Sequence[str] = (), references: Sequence[str] = (), kept: Path | None = None,
    form: str = STANDARD, progress: Progress | None = None,
) -> MatchFilesResult:  # fmt: skip
    """Match the records of ``files`` by ``plan`` and write pairs, clusters, golden records, crosswalk, rejects and a report.

    Golden values are given in a ``form`` of ``core.standard.FORMS``. Tidy values are kept in the folder ``kept`` and taken from there
    where the same records come again. Raises InputError or MappingInvalid naming what is wrong; nothing is written unless all files
    could be read.
    """
    started = perf_counter()
    if plan.related:
        raise PlanInvalid(["related: files alone know of no other register"])
    layout = default_layout(plan.kind)
    # Processes that are started for reading do the tidying and the standard form as well.
    with without_cycle_search(), processes(worth_processes(files)):
        read = read_files(files, plan.kind, map_document, progress)
        records = read.records
        for name in (*without_duplicates, *references):
            if name not in records.sources:
                raise InputError(f"no file is called '{name}'.{did_you_mean(name, records.sources)}")
        read_seconds = round(perf_counter() - started, 3)
        tidying = perf_counter()
        tidy = _tidy(records, layout, kept, progress)
        tidy_seconds = round(perf_counter() - tidying, 3)
        result = pipeline.run(
            tidy, plan, without_duplicates=without_duplicates, references=references, are_tidy=True, progress=progress
        )
        writing = perf_counter()
        if progress:
            progress("write", 0, 1)
        out.mkdir(parents=True, exist_ok=True)
        _write_results(out, records, result, layout, read.rejected, form)
    seconds = {
        "read": read_seconds,
        **result.seconds,
        "tidy": tidy_seconds,
        "write": round(perf_counter() - writing, 3),
    }
    seconds["all"] = round(perf_counter() - started, 3)
    report = _report(read, result, plan, plan_name, seconds)
    (out / "report.json").write_text(json.dumps(report, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
    return MatchFilesResult(report, result, tuple(read.warnings))


def _tidy(records: RecordSet, layout: Layout, kept: Path | None, progress: Progress | None) -> RecordSet:
    if kept is None:
        return tidy_records(layout, records, progress)
    keeper, digest = KeptColumns(kept), digest_of(records, tidying_rules(layout))
    columns = keeper.take(digest)
    if columns is not None:
        return RecordSet(records.sources, records.source_codes, records.ids, columns)
    tidy = tidy_records(layout, records, progress)
    keeper.keep(digest, tidy.columns)
    return tidy


def _write_results(
    out: Path, records: RecordSet, result: pipeline.MatchResult, layout: Layout, rejected: list[tuple[str, RejectedRow]],
    form: str = STANDARD,
) -> None:  # fmt: skip
    write_csv_columns(out / "pairs.csv", _pair_columns(records, result))
    blocks = result.first.blocks
    np.savez(out / BLOCKS_FILE, members=blocks.members, sizes=np.diff(blocks.starts), keys=blocks.keys)
    keys = [f"G{number + 1}" for number in range(result.cluster_count)]
    everybody = np.arange(len(records))
    member = {
        "source": EncodedTexts(records.sources, records.source_codes),
        "source_id": EncodedTexts(records.ids, everybody),
    }
    of_cluster = EncodedTexts(keys, result.labels)
    write_csv_columns(out / "clusters.csv", {**member, "cluster_id": of_cluster})
    write_csv_columns(out / "crosswalk.csv", {**member, "golden_key": of_cluster})
    write_csv_columns(out / "golden.csv", _golden_columns(records, result, layout, keys, form))
    write_csv(
        out / "rejected.csv",
        ["file", "row", "column", "reason", "value"],
        (
            {"file": file, "row": str(row.number), "column": row.column, "reason": row.reason, "value": row.value}
            for file, row in rejected
        ),
    )


def _formatted(numbers: npt.NDArray[np.floating], digits: int) -> EncodedTexts:
    """Return numbers as texts with so many digits behind the point, each distinct one written once."""
    scaled = np.round(numbers.astype(np.float64) * 10**digits).astype(np.int64)
    distinct, codes = np.unique(scaled, return_inverse=True)
    return EncodedTexts([f"{number / 10**digits:.{digits}f}" for number in distinct.tolist()], codes)


def _pair_columns(records: RecordSet, result: pipeline.MatchResult) -> dict[str, EncodedTexts]:
    pairs = result.pairs
    ends = {"a": pairs.left, "b": pairs.right}
    columns = {}
    for end, numbers in ends.items():
        columns[f"source_{end}"] = EncodedTexts(records.sources, records.source_codes[numbers])
        columns[f"id_{end}"] = EncodedTexts(records.ids, numbers)
    return {
        **columns,
        "score": _formatted(pairs.scored.bits, 2),
        "probability": _formatted(result.probabilities(), 4),
        "verdict": EncodedTexts(["unsure", "same"], pairs.same.astype(np.int8)),
        "reason": EncodedTexts(*_reasons(result)),
    }


def _reasons(result: pipeline.MatchResult) -> tuple[list[str], npt.NDArray[np.int64]]:
    """Return (sentences, per pair the number of its sentence)."""
    said: list[str] = []
    which = np.zeros(len(result.pairs), dtype=np.int64)
    for one, rows, pairs in result.by_pass(result.pairs):
        more, numbers = explain.distinct_sentences(one.scorer, pairs)
        which[rows] = numbers + len(said)
        said += more
    return said, which


def _golden_columns(
    records: RecordSet, result: pipeline.MatchResult, layout: Layout, keys: Sequence[str], form: str
) -> dict[str, EncodedTexts]:
    golden = golden_columns(layout, rules_from(layout, default_rules(layout)), records, result.records, result.labels)
    sizes = np.bincount(result.labels, minlength=len(keys))
    if form == STANDARD:
        golden = standard_columns(layout, golden)
    return {
        "golden_key": EncodedTexts(keys, np.arange(len(keys))),
        "records": _formatted(sizes.astype(np.float64), 0),
        **{name: EncodedTexts(golden[name].values, golden[name].codes) for name in layout.names},
    }


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
        "blocking_keys": [key_report(item) for item in result.first.keys],
        "passes": [pass_report(one, result.records.sources) for one in result.passes] if plan.passes else [],
        "limits": plan.limits.model_dump(),
        "contest": contest_document(result.records.sources, result.first.free, result.first.contest),
        "wording": habits_document(result.first.habits),
        "matches_per_record": round(result.scorer.matches_per_record, 4),
        "level_shares": shares_as_document(plan, result.scorer.shares),
        "left_out_blocks": [{"key": item.key, "value": item.value, "records": item.records} for item in result.first.left_out],
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
