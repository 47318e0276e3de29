"""Parquet files, read in batches."""

from collections.abc import Iterator
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq

from ..core.errors import InputError
from .nested import Nested, flat_rows, nested_table
from .table import BadRow, FileFormat, Row, Table, unique_headers

_ROWS_AT_ONCE = 2000
_BROKEN = (pa.ArrowException, OSError, ValueError)


def _records(path: Path, name: str) -> Iterator[Nested]:
    number = 0
    try:
        with pq.ParquetFile(path) as file:
            for batch in file.iter_batches(batch_size=_ROWS_AT_ONCE, use_threads=False):
                for record in batch.to_pylist():
                    number += 1
                    yield number, record
    except _BROKEN as error:
        raise InputError(f"the file cannot be read beyond this row ({_said(error)})", file=name, row=number) from error


def _said(error: Exception) -> str:
    return " ".join(str(error).split())[:200]


def open_parquet(path: Path, name: str, columns: tuple[str, ...] = ()) -> Table:
    """Open a Parquet file; raise InputError if it is broken or has no rows. Row numbers count from the first record."""
    try:
        with pq.ParquetFile(path) as file:
            schema, size = file.schema_arrow, file.metadata.num_rows
    except _BROKEN as error:
        raise InputError(f"this is not a readable Parquet file ({_said(error)})", file=name) from error
    if not size:
        raise InputError("the file holds no rows", file=name)
    if not columns and not any(pa.types.is_nested(field.type) for field in schema):
        columns = unique_headers(schema.names, name)

    def rows() -> Iterator[Row | BadRow]:
        return flat_rows(_records(path, name), "the row")

    return nested_table(
        FileFormat("parquet"),
        rows,
        name=name,
        no_record="the file holds no values",
        columns=columns,
        expected_rows=size,
    )
