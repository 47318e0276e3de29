"""Writes tables whose columns are dictionary-encoded, a column at a time: many times as quick as row by row."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
import pyarrow as pa
from pyarrow import compute

from .writers import SUSPICIOUS, csv_lines, harmless

#: Rows that are written at a time, which bounds memory.
_ROWS_AT_ONCE = 200_000
_COMMA, _END, _NOTHING = (pa.scalar(text, pa.large_string()) for text in (",", "\r\n", ""))
_QUOTED = ',"\r\n'
_MARKS = f"[{_QUOTED}]"


class EncodedTexts(NamedTuple):
    """Texts by number: ``texts[codes[row]]`` is what stands in a row, nothing where the code is negative."""

    texts: Sequence[str]
    codes: npt.NDArray[np.integer]


def _cell(text: str) -> str:
    """Return a text as it stands in an RFC 4180 file: in quotes where it must be."""
    text = harmless(text)
    if any(mark in text for mark in _QUOTED):
        return '"' + text.replace('"', '""') + '"'
    return text


def _cells(texts: Sequence[str]) -> pa.LargeStringArray:
    """Return texts as they stand in the file, null for an empty one; only those that have to be changed are looked at one by one."""
    array = pa.array(texts, pa.large_string())
    changed = compute.or_(
        compute.match_substring_regex(array, _MARKS),
        compute.is_in(compute.utf8_slice_codeunits(array, 0, 1), pa.array(sorted(SUSPICIOUS), pa.large_string())),
    )
    if compute.any(changed).as_py():
        cells = [_cell(text) for text in array.filter(changed).to_pylist()]
        array = compute.replace_with_mask(array, changed, pa.array(cells, pa.large_string()))
    return compute.if_else(compute.equal(array, _NOTHING), None, array)


def write_csv_columns(path: Path, columns: Mapping[str, EncodedTexts], *, rows_at_once: int = _ROWS_AT_ONCE) -> None:
    """Write a CSV file in UTF-8 with a header; every column has the same number of rows."""
    known = [_cells(column.texts) for column in columns.values()]
    codes = [column.codes for column in columns.values()]
    with path.open("wb") as file:
        file.write("".join(csv_lines(list(columns), [])).encode("utf-8"))
        for start in range(0, len(codes[0]), rows_at_once):
            parts = [column[start : start + rows_at_once] for column in codes]
            cells = [texts.take(pa.array(part, mask=part < 0)) for texts, part in zip(known, parts, strict=True)]
            lines = compute.binary_join_element_wise(*cells, _COMMA, null_handling="replace")
            lines = compute.binary_join_element_wise(lines, _NOTHING, _END)
            # The texts of an array stand one behind the other, which is the file.
            offsets = np.frombuffer(lines.buffers()[1], dtype=np.int64)
            file.write(memoryview(lines.buffers()[2])[offsets[lines.offset] : offsets[lines.offset + len(lines)]])
