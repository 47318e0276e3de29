"""The records of a register kept as one Arrow file, for the next job: a million are read from it in seconds, from rows in a minute."""

import os
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

import numpy as np
import numpy.typing as npt
import pyarrow as pa
from pyarrow import feather

from ..core.records import MISSING, Column, RecordSet
from .kept_columns import column_of

_IDS, _SOURCES, _NUMBERS = "\0ids", "\0sources", "\0numbers"
Numbers = npt.NDArray[np.int64]


class KeptRecords:
    """Keeps the latest state of each register in a folder that nobody but its owner may read."""

    def __init__(self, folder: Path) -> None:
        """Take the folder, which is made if it is not there."""
        self._folder = folder

    def take(self, register: int, state: str) -> tuple[RecordSet, Numbers] | None:
        """Return the records of a register in a state with their ids in the database, or None where these are not kept or damaged."""
        try:
            table = feather.read_table(self._file(register, state))
        except (OSError, pa.ArrowInvalid):
            return None
        columns = {name: column_of(table.column(name)) for name in table.column_names if not name.startswith("\0")}
        sources = column_of(table.column(_SOURCES))
        ids = tuple(table.column(_IDS).to_pylist())
        numbers = table.column(_NUMBERS).to_numpy().astype(np.int64)
        return RecordSet(sources.values, sources.codes, ids, columns), numbers

    def keep(self, register: int, state: str, records: RecordSet, numbers: Numbers) -> None:
        """Keep the records of a register in place of those of any other state; text that is no Unicode is not kept."""
        try:
            arrays: Mapping[str, pa.Array] = {
                _IDS: pa.array(records.ids, pa.large_string()),
                _SOURCES: _array(Column(records.sources, records.source_codes)),
                _NUMBERS: pa.array(numbers),
                **{name: _array(column) for name, column in records.columns.items()},
            }
        except UnicodeEncodeError:
            return
        # What cannot be kept (another user's folder, a full disk) is read from its rows again.
        with suppress(OSError):
            self._write(self._file(register, state), pa.table(list(arrays.values()), names=list(arrays)))

    def _write(self, file: Path, table: pa.Table) -> None:
        self._folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        beside = file.with_name(f"{file.name}.{os.getpid()}")
        try:
            with open(beside, "wb", opener=lambda path, flags: os.open(path, flags, 0o600)) as out:
                feather.write_feather(table, out, compression="lz4")
            for old in self._folder.glob(f"{file.name.rsplit('-', 2)[0]}-*.arrow"):
                old.unlink(missing_ok=True)
            beside.replace(file)
        finally:
            beside.unlink(missing_ok=True)

    def _file(self, register: int, state: str) -> Path:
        return self._folder / f"register-{register}-{state}.arrow"


def _array(column: Column) -> pa.DictionaryArray:
    codes = pa.array(column.codes, mask=column.codes == MISSING)
    return pa.DictionaryArray.from_arrays(codes, pa.array(column.values, pa.large_string()))
