"""Columns kept in a folder as Arrow files, by the digest of what they were made of."""

import os
from collections.abc import Mapping
from hashlib import sha256
from pathlib import Path

import numpy as np
import pyarrow as pa
from pyarrow import feather

from ..core.errors import InputError
from ..core.records import MISSING, Column, RecordSet

_NAMED = "tidied-"


def digest_of(records: RecordSet, made_by: str) -> str:
    """Return a digest of the values of records, in their order, and of what something is made of them by."""
    digest = sha256(f"{made_by} {len(records)}".encode())
    for name in sorted(records.columns):
        column = records.columns[name]
        digest.update(f"\0{name}\0".encode())
        digest.update("\0".join(column.values).encode("utf-8", "surrogatepass"))
        digest.update(column.codes.tobytes())
    return digest.hexdigest()


class KeptColumns:
    """Columns that were made of records; the folder keeps those of the last few sets of records."""

    def __init__(self, folder: Path, most: int = 4) -> None:
        """Take the folder, which is made if it is not there; raise InputError where that is refused."""
        self._folder, self._most = folder, most
        try:
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        except OSError as error:
            raise InputError(f"nothing can be kept there: {error.strerror}", file=str(folder)) from error

    def take(self, digest: str) -> dict[str, Column] | None:
        """Return what is kept under a digest, or None where nothing is, or its file is damaged."""
        file = self._file(digest)
        try:
            table = feather.read_table(file)
            os.utime(file)
        except (OSError, pa.ArrowInvalid):
            return None
        return {name: column_of(table.column(name)) for name in table.column_names}

    def keep(self, digest: str, columns: Mapping[str, Column]) -> None:
        """Keep columns under a digest, and let go of what was not asked for longest; text that is no Unicode is not kept."""
        try:
            arrays = [
                pa.DictionaryArray.from_arrays(
                    pa.array(column.codes, mask=column.codes < 0), pa.array(column.values, pa.large_string())
                )
                for column in columns.values()
            ]
        except UnicodeEncodeError:
            return
        file = self._file(digest)
        beside = file.with_name(f"{file.name}.{os.getpid()}")
        feather.write_feather(pa.table(arrays, names=list(columns)), beside, compression="lz4")
        beside.replace(file)
        kept = sorted(self._folder.glob(f"{_NAMED}*.arrow"), key=lambda path: -path.stat().st_mtime_ns)
        for old in kept[self._most :]:
            old.unlink(missing_ok=True)

    def _file(self, digest: str) -> Path:
        return self._folder / f"{_NAMED}{digest[:32]}.arrow"


def column_of(kept: pa.ChunkedArray) -> Column:
    """Return a column as it was kept."""
    whole = kept.unify_dictionaries()
    codes = [chunk.indices.fill_null(MISSING).to_numpy(zero_copy_only=False) for chunk in whole.chunks]
    values = whole.chunk(0).dictionary.to_pylist() if whole.num_chunks else []
    return Column(tuple(values), np.concatenate([np.zeros(0, np.int32), *codes]).astype(np.int32))
