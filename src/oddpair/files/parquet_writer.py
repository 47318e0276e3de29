"""Parquet: columns of text, written row group by row group and read back in pieces, so that memory is bounded."""

import tempfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import islice

import pyarrow as pa
from pyarrow import parquet

_ROWS_AT_ONCE = 20_000
_CHUNK_BYTES = 1 << 20


def parquet_chunks(columns: Sequence[str], rows: Iterable[Mapping[str, str]]) -> Iterator[bytes]:
    """Yield the bytes of a Parquet file whose columns are all text; what is empty is null."""
    schema = pa.schema([(column, pa.string()) for column in columns])
    left = iter(rows)
    with tempfile.TemporaryFile() as file:
        with parquet.ParquetWriter(file, schema, compression="zstd") as writer:
            while part := list(islice(left, _ROWS_AT_ONCE)):
                arrays = [pa.array([row.get(column) or None for row in part], pa.string()) for column in columns]
                writer.write_table(pa.Table.from_arrays(arrays, schema=schema))
        file.seek(0)
        while chunk := file.read(_CHUNK_BYTES):
            yield chunk
