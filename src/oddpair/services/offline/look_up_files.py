"""Looks the rows of a file up in another file, without a database."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from time import perf_counter
from typing import Any

import numpy as np

from ...core.counterparts import Asked, Found, Limits, Verdict, find_counterparts
from ...core.errors import InputError, did_you_mean
from ...core.fields import default_layout
from ...core.plan import MatchPlan
from ...core.processes import processes
from ...core.tidying import Progress, tidy_records
from ...files import RejectedRow, intake_cells, joined_records, open_table
from ...files.writers import CONTENT_TYPES, table_chunks
from .asking_rows import AskingRows, read_asking
from .counterpart_table import Candidate, CounterpartColumns
from .read_files import mapping_for, read_files

_ASKING, _REFERENCE = "asking", "reference"
#: What is said of rows that could not be read as records.
REJECTED = "rejected"


@dataclass(frozen=True, slots=True)
class LookUpFiles:
    """What is looked up: the rows of ``file`` in ``reference``, the best candidates of each, with columns of the reference kept, written to
    ``out`` in the format that its ending says. ``one_to_one`` promises that neither holds duplicates of its own."""

    file: Path
    reference: Path
    out: Path
    best: int = 1
    keep: tuple[str, ...] = ()
    one_to_one: bool = False
    limits: Limits | None = None
    map_document: object = None


def format_of(out: Path) -> str:
    """Return the format of a table by the ending of its name; raise InputError for one that cannot be written."""
    ending = out.suffix.lower().removeprefix(".")
    formats = [name for name in CONTENT_TYPES if name != "vcf"]
    if ending not in formats:
        raise InputError(f"the ending is none of .{', .'.join(formats)}", file=out.name)
    return ending


def look_up_files(asked: LookUpFiles, plan: MatchPlan, progress: Progress | None = None) -> dict[str, Any]:
    """Look up, write the table, and return a report with counts per outcome that add up to the rows; nothing is written unless both
    files could be read. Raises InputError or MappingInvalid naming what is wrong."""
    started = perf_counter()
    form, layout = format_of(asked.out), default_layout(plan.kind)
    if asked.one_to_one:
        plan = plan.model_copy(update={"scope": plan.scope.model_copy(update={"one_to_one": True})})
    seconds: dict[str, float] = {}
    with processes(asked.file.stat().st_size + asked.reference.stat().st_size > _WORTH_PROCESSES) as pool:
        asking_read = pool.start(read_asking, asked.file, layout, source=_ASKING, map_document=asked.map_document)
        known = open_table(asked.reference).columns
        for name in asked.keep:
            if name not in known:
                raise InputError(f"there is no column '{name}'.{did_you_mean(name, known)}", file=asked.reference.name)
        read = read_files([asked.reference], plan.kind, asked.map_document)
        reference = replace(read.records, sources=(_REFERENCE,))
        rows = asking_read.result()
        seconds["read"] = perf_counter() - started
        tidying = perf_counter()
        records = tidy_records(layout, joined_records([rows.records, reference]), progress)
        seconds["tidy"] = perf_counter() - tidying
    limits = asked.limits or _limits_of(plan, asked.best)
    found = find_counterparts(Asked(records, _ASKING), plan, limits=limits, progress=progress)
    columns = CounterpartColumns.beside(rows.columns, asked.keep)
    kept = _kept(asked, plan, {records.ids[record] for record in found.counterparts.records.tolist()})
    told = {record_id: (verdict, told) for record_id, verdict, told in _told(found, records.ids, kept)}
    writing = perf_counter()
    with asked.out.open("wb") as file:
        file.writelines(table_chunks(form, columns.all, lines_of(rows, told, columns), asked.out.stem))
    seconds |= {**found.seconds, "write": perf_counter() - writing, "all": perf_counter() - started}
    counted = np.bincount(found.counterparts.verdicts, minlength=len(Verdict)).tolist()
    outcomes = {verdict.value: counted[place] for place, verdict in enumerate(Verdict)} | {REJECTED: len(rows.rejected)}
    return {
        "rows": sum(outcomes.values()), "reference_records": len(reference),
        "reference_rejected": len(read.rejected), "outcomes": outcomes, "passes": list(found.counts), "compared": found.compared,
        "seconds": {stage: round(spent, 3) for stage, spent in seconds.items()}, "out": str(asked.out),
    }  # fmt: skip


#: Files smaller than this together, in bytes, are read before another process has started.
_WORTH_PROCESSES = 4_000_000


def _limits_of(plan: MatchPlan, best: int) -> Limits:
    return Limits(plan.limits.same, plan.limits.unsure, plan.scope.margin, best)


def _kept(asked: LookUpFiles, plan: MatchPlan, wanted: set[str]) -> dict[str, dict[str, str]]:
    """Return, per record of the reference that is wanted, the cells of the columns to be kept."""
    if not asked.keep:
        return {}
    table = open_table(asked.reference)
    places = [(name, table.columns.index(name)) for name in asked.keep]
    kept: dict[str, dict[str, str]] = {}
    for part in intake_cells(table, mapping_for(asked.reference, table, default_layout(plan.kind), asked.map_document)):
        if isinstance(part, list):
            kept |= {one: {name: cells[place] for name, place in places} for one, cells in part if one in wanted}
    return kept


def _told(
    found: Found, ids: Sequence[str], kept: Mapping[str, dict[str, str]]
) -> Iterator[tuple[str, str, list[Candidate]]]:
    """Yield, per row that is a record, its id, verdict and candidates."""
    texts, which = found.reasons
    by_row: dict[int, list[Candidate]] = {}
    columns = (
        found.counterparts.rows,
        found.counterparts.records,
        found.counterparts.ranks,
        found.scores,
        found.probabilities,
        which,
    )
    for row, record, rank, score, chance, reason in zip(*(column.tolist() for column in columns), strict=True):
        candidate = Candidate(rank, ids[record], score, chance, texts[reason], kept.get(ids[record], {}))
        by_row.setdefault(row, []).append(candidate)
    for row in range(len(found.counterparts.verdicts)):
        yield ids[found.first + row], found.verdict(row).value, by_row.get(row, [])


def lines_of(
    rows: AskingRows, told: Mapping[str, tuple[str, list[Candidate]]], columns: CounterpartColumns
) -> Iterator[dict[str, str]]:
    """Yield the lines of all rows in the order of the file; those that were no records come last, with the reason."""
    for record_id, cells in rows.rows:
        verdict, candidates = told[record_id]
        yield from columns.lines(rows.cells(cells), verdict, candidates)
    for row in rows.rejected:
        yield {
            **_cells_of(row),
            columns.said["outcome"]: REJECTED,
            columns.said["reason"]: f"row {row.number}: {row.reason}",
        }


def _cells_of(row: RejectedRow) -> Mapping[str, str]:
    return row.cells or {}
