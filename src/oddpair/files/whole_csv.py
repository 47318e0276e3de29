"""CSV read as a whole by Arrow, column by column and dictionary-encoded: many times as quick as row by row.

Only files that both readers understand alike are read this way: one row a line, quotes around whole cells only, no stray bytes. All
others, and every row that is not as wide as the header, are left to the reader of rows.
"""

import codecs
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt
import pyarrow as pa
from pyarrow import csv as arrow_csv

from ..core.records import MISSING, Column
from .table import MOST_CELL_LETTERS, FileFormat

#: Smaller files are read before Arrow has been set up.
WORTH_BYTES = 100_000
_SPACE, _ASCII = ord(" "), 0x7F
_UTF_8 = frozenset({"utf-8", "utf-8-sig", "ascii"})


@dataclass(frozen=True, slots=True)
class WholeCsv:
    """The wanted columns, with stripped values, of all rows that are as wide as the header; ``numbers`` are the rows' numbers in the
    file, ``odd`` those of rows that must be read by themselves, and ``lines`` gives the text of any row.
    """

    columns: Mapping[str, Column]
    numbers: npt.NDArray[np.int64]
    odd: tuple[int, ...]
    raw: bytes
    starts: npt.NDArray[np.int64]

    def line(self, number: int) -> str:
        """Return the text of a row of the file."""
        return self.raw[int(self.starts[number - 1]) : int(self.starts[number])].decode("utf-8")


def _as_utf8(path: Path, encoding: str) -> bytes | None:
    raw = path.read_bytes()
    try:
        if encoding in _UTF_8:
            raw = raw.removeprefix(codecs.BOM_UTF8)
            raw.decode("utf-8")
            return raw
        if codecs.lookup(encoding).name.startswith("utf"):
            return None
        return raw.decode(encoding).encode("utf-8")
    except (UnicodeDecodeError, LookupError):
        return None


def _is_plain(raw: bytes, delimiter: bytes, quote: bytes) -> bool:
    """Whether every line is one row and quotes stand around whole cells only."""
    if b"\0" in raw or raw.count(b"\r") != raw.count(b"\r\n"):
        return False
    if quote not in raw:
        return True
    letters = np.frombuffer(raw, dtype=np.uint8)
    quotes = np.flatnonzero(letters == quote[0])
    before_ends = np.searchsorted(quotes, np.flatnonzero(letters == ord("\n")))
    if (before_ends % 2).any() or len(quotes) % 2:
        return False
    # A quote between other letters, or after a space at the beginning of a cell, is read differently by others.
    beside = np.isin(np.arange(256, dtype=np.uint8), np.frombuffer(delimiter + quote + b"\r\n", dtype=np.uint8))
    inner = quotes[(quotes > 0) & (quotes < len(letters) - 1)]
    if (~beside[letters[inner - 1]] & ~beside[letters[inner + 1]]).any():
        return False
    return delimiter + b" " + quote not in raw and b"\n " + quote not in raw


def read_whole(
    path: Path, format_: FileFormat, columns: Sequence[str], wanted: Sequence[str], *, worth_bytes: int = WORTH_BYTES
) -> WholeCsv | None:
    """Return the wanted columns of a CSV file, or None where rows have to be read one by one."""
    if path.stat().st_size < worth_bytes or len(format_.delimiter) != 1 or not format_.delimiter.isascii():
        return None
    raw = _as_utf8(path, format_.encoding)
    delimiter, quote = format_.delimiter.encode(), format_.quote.encode()
    if raw is None or not _is_plain(raw, delimiter, quote):
        return None
    if not raw.endswith(b"\n"):
        raw += b"\n"
    starts = np.concatenate(([0], np.flatnonzero(np.frombuffer(raw, dtype=np.uint8) == ord("\n")) + 1))
    if np.diff(starts).max(initial=0) > MOST_CELL_LETTERS:
        return None
    header = format_.header_row
    odd: list[int] = []

    def too_wide_or_narrow(row: arrow_csv.InvalidRow) -> str:
        odd.append(header + row.number)
        return "skip"

    try:
        table = arrow_csv.read_csv(
            pa.py_buffer(raw[int(starts[header]) :]),
            arrow_csv.ReadOptions(column_names=list(columns), use_threads=False, block_size=1 << 24),
            arrow_csv.ParseOptions(
                delimiter=format_.delimiter, quote_char=format_.quote, ignore_empty_lines=False, invalid_row_handler=too_wide_or_narrow
            ),
            arrow_csv.ConvertOptions(
                include_columns=list(wanted), strings_can_be_null=False,
                column_types=dict.fromkeys(wanted, pa.dictionary(pa.int32(), pa.string())),
            ),
        )  # fmt: skip
    except pa.ArrowInvalid:
        return None
    numbers = np.setdiff1d(np.arange(header + 1, len(starts)), odd)
    if len(numbers) != len(table):
        return None
    return WholeCsv({name: _encoded(table.column(name)) for name in wanted}, numbers, tuple(odd), raw, starts)


def _encoded(column: pa.ChunkedArray) -> Column:
    """Return a column with stripped values; those that stripping makes equal are one."""
    whole = column.unify_dictionaries().combine_chunks()
    whole = whole.chunk(0) if isinstance(whole, pa.ChunkedArray) else whole
    values = whole.dictionary.to_pylist()
    known = np.arange(len(values), dtype=np.int32)
    places = np.flatnonzero(_may_be_stripped(whole.dictionary)).tolist()
    stripped = {place: text for place in places if (text := values[place].strip()) != values[place]}
    if stripped:
        for place, text in stripped.items():
            values[place] = text
        distinct = list(dict.fromkeys(values))
        numbers = dict(zip(distinct, range(len(distinct)), strict=True))
        known = np.fromiter(map(numbers.__getitem__, values), dtype=np.int32, count=len(values))
        values = distinct
    if "" in values:
        empty = values.index("")
        del values[empty]
        known = np.where(known == empty, MISSING, known - (known > empty)).astype(np.int32)
    codes = (
        known[whole.indices.to_numpy(zero_copy_only=False)] if len(known) else np.full(len(whole), MISSING, np.int32)
    )
    return Column(tuple(values), codes)


def _may_be_stripped(texts: pa.StringArray) -> npt.NDArray[np.bool_]:
    """Return which texts are empty or begin or end with what may be a space: a letter up to the space, or beyond ASCII."""
    offsets = np.frombuffer(texts.buffers()[1], dtype=np.int32)[texts.offset : texts.offset + len(texts) + 1]
    data = texts.buffers()[2]
    letters = np.frombuffer(data, dtype=np.uint8) if data is not None and data.size else np.zeros(1, dtype=np.uint8)
    first = letters[np.minimum(offsets[:-1], len(letters) - 1)]
    last = letters[np.maximum(offsets[1:] - 1, 0)]
    empty: npt.NDArray[np.bool_] = offsets[1:] == offsets[:-1]
    return empty | (first <= _SPACE) | (last <= _SPACE) | (first > _ASCII) | (last > _ASCII)
