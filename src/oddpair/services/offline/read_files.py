"""Reads files into records without a database, several files at a time.

Other processes import this module to do the reading, so it leads to nothing that takes long to import.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from itertools import islice
from pathlib import Path

from ...core.errors import InputError
from ...core.fields import Layout, RegisterKind, default_layout
from ...core.mapping import (
    Assignment,
    ColumnSample,
    Mapping,
    mapping_from_document,
    propose_mapping,
    proposed_mapping,
    validate_mapping,
    with_names_that_go_on,
)
from ...core.processes import CORES, processes
from ...core.records import RecordSet, RecordSetBuilder, records_of_source
from ...core.tidying import Progress
from ...files import (
    AcceptedColumns,
    RejectedRow,
    Row,
    Table,
    intake_columns,
    intake_whole,
    joined_records,
    open_table,
)

SAMPLE_ROWS = 400
#: Files smaller than this together, in bytes, are read before another process has started.
_WORTH_PROCESSES = 4_000_000
_COMPRESSED = 4


@dataclass(slots=True)
class ReadFiles:
    """What was read of all files: the records, rejected rows with their file, and what the report says of each file."""

    records: RecordSet
    rejected: list[tuple[str, RejectedRow]] = field(default_factory=list)
    files: list[dict[str, object]] = field(default_factory=list)
    warnings: list[str] = field(default_factory=list)


#: A file of which more rows are set aside was probably mapped wrongly, or is damaged.
_LARGE_PART = 0.1


@dataclass(frozen=True, slots=True)
class _ReadFile:
    records: RecordSet
    rejected: list[RejectedRow]
    report: dict[str, object]


def column_samples(table: Table) -> list[ColumnSample]:
    """Return some filled values of every column of a table."""
    values: dict[str, dict[int, str]] = {column: {} for column in table.columns}
    rows = 0
    for row in islice((row for row in table.rows() if isinstance(row, Row)), SAMPLE_ROWS):
        for column, value in row.values.items():
            values.setdefault(column, {})[rows] = value
        rows += 1
    return [
        ColumnSample(column, tuple(values[column].values()), rows, tuple(values[column])) for column in table.columns
    ]


def mapping_for(path: Path, table: Table, layout: Layout, map_document: object) -> tuple[Assignment, ...]:
    """Return the mapping that a map document says or that the contents propose."""
    chosen = mapping_from_document(map_document, path.stem) if map_document is not None else None
    if chosen is not None:
        return with_names_that_go_on(validate_mapping(layout, table.columns, chosen), column_samples(table))
    chosen = proposed_mapping(propose_mapping(layout, column_samples(table)))
    if not any(item.field.startswith("name") for item in chosen):
        raise InputError(
            f"no column looks like a name (columns: {', '.join(table.columns)}); say which one with --map",
            file=path.name,
        )
    return validate_mapping(layout, table.columns, chosen)


def _read_file(path: Path, kind: RegisterKind, map_document: object) -> _ReadFile:
    table = open_table(path)
    mapping = mapping_for(path, table, default_layout(kind), map_document)
    if (whole := intake_whole(table, mapping)) is not None:
        records, rejected = records_of_source(path.stem, whole.ids, whole.columns), whole.rejected
    else:
        records, rejected = _row_by_row(path.stem, table, mapping)
    report = {
        "file": path.name, "source": path.stem, "format": table.format.describe(),
        "mapping": [{key: value for key, value in asdict(item).items() if value} for item in mapping],
        "records": len(records), "rejected": len(rejected),
    }  # fmt: skip
    return _ReadFile(records, rejected, report)


def _row_by_row(source: str, table: Table, mapping: Mapping) -> tuple[RecordSet, list[RejectedRow]]:
    builder = RecordSetBuilder()
    rejected: list[RejectedRow] = []
    for rows in intake_columns(table, mapping):
        if isinstance(rows, AcceptedColumns):
            builder.add_many(source, rows.ids, rows.columns)
        else:
            rejected.append(rows)
    return builder.build(), rejected


def worth_processes(files: Sequence[Path], worth_bytes: int = _WORTH_PROCESSES) -> bool:
    """Whether files are large enough for other processes to be of help."""
    return sum(path.stat().st_size for path in files) > worth_bytes


def read_files(
    files: Sequence[Path], kind: RegisterKind, map_document: object = None, progress: Progress | None = None,
    *, worth_bytes: int = _WORTH_PROCESSES, count: int = CORES,
) -> ReadFiles:  # fmt: skip
    """Return the records of files, one source each, with columns mapped by ``map_document`` or as proposed.

    Several files of more than ``worth_bytes`` in all are read in ``count`` processes.
    """
    stems = [path.stem for path in files]
    twice = sorted({stem for stem in stems if stems.count(stem) > 1})
    if twice:
        raise InputError(f"two files are called '{twice[0]}'; sources are named after their files, so rename one")
    parts: list[RecordSet] = []
    rejected: list[tuple[str, RejectedRow]] = []
    reports = []
    warnings = []
    with processes(len(files) > 1 and worth_processes(files, worth_bytes), count) as pool:
        # Those that take longest first, so that no core waits for the last one.
        tasks = {
            path: pool.start(_read_file, path, kind, map_document) for path in sorted(files, key=_work, reverse=True)
        }
        for place, path in enumerate(files):
            if progress:
                progress(f"read {path.name}", place, len(files))
            read = tasks[path].result()
            parts.append(read.records)
            rejected += [(path.name, row) for row in read.rejected]
            reports.append(read.report)
            warnings += _large_part_set_aside(path, read)
    return ReadFiles(joined_records(parts), rejected, reports, warnings)


def _large_part_set_aside(path: Path, read: _ReadFile) -> list[str]:
    """Return a warning where a large part of a file was set aside, with the most frequent reason."""
    count, rows = len(read.rejected), len(read.rejected) + len(read.records)
    if count <= _LARGE_PART * rows:
        return []
    (reason, column), times = Counter((row.reason, row.column) for row in read.rejected).most_common(1)[0]
    of = f" (column '{column}')" if column else ""
    return [
        f"{path.name}: {count} of {rows} rows are set aside, {times} of them because {reason}{of}; "
        "is the mapping right? See report.json for it, and --map to change it"
    ]


def _work(path: Path) -> int:
    """Return about how many bytes of text there are to be read; a workbook is compressed."""
    return path.stat().st_size * (_COMPRESSED if path.suffix.lower() == ".xlsx" else 1)
