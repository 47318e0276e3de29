"""Writers of tables: CSV, XLSX, JSON Lines, Parquet and vCard, from the same columns and rows."""

import csv
import io
import json
import re
import tempfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import chain, islice
from pathlib import Path

from openpyxl import Workbook

from .parquet_writer import parquet_chunks
from .vcard_writer import vcard_lines

#: Cells that a spreadsheet would take for a formula; a leading + or - is kept where a number or phone follows.
#: Full-width signs (U+FF1D and others) count as the plain ones do: East Asian spreadsheets take them for the same.
_FORMULA = re.compile(r"^(?:[=@\t\r\n＝＠]|[+\-＋－](?![\d\s().]*\d[\d\s()./\-]*$))")
#: What such a cell begins with.
SUSPICIOUS = frozenset("=@\t\r\n+-＝＠＋－")
#: Control characters that a spreadsheet's XML cannot hold (XML 1.0, section 2.2).
_NO_XML = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
CONTENT_TYPES = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "jsonl": "application/jsonl",
    "parquet": "application/vnd.apache.parquet",
    "vcf": "text/vcard; charset=utf-8",
}
#: A sheet takes no more rows (ECMA-376, as spreadsheets have it), the header among them.
_MOST_ROWS_OF_SHEET = 1_048_576
_CHUNK_BYTES = 1 << 20
_JOINED_LETTERS = 64_000


def harmless(cell: str) -> str:
    """Return the cell so that no spreadsheet runs it as a formula: a quote mark goes before it."""
    return "'" + cell if cell[:1] in SUSPICIOUS and _FORMULA.match(cell) else cell


def csv_lines(columns: Sequence[str], rows: Iterable[Mapping[str, str]]) -> Iterator[str]:
    """Yield the lines of an RFC 4180 file with a header, in UTF-8 text."""
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\r\n")

    def flushed() -> str:
        text = buffer.getvalue()
        buffer.seek(0)
        buffer.truncate()
        return text

    writer.writerow(columns)
    for row in rows:
        writer.writerow([harmless(row.get(column, "")) for column in columns])
        if buffer.tell() > 64_000:
            yield flushed()
    yield flushed()


def json_lines(columns: Sequence[str], rows: Iterable[Mapping[str, str]]) -> Iterator[str]:
    """Yield one JSON object a line; empty values are left out."""
    for row in rows:
        yield json.dumps({column: row[column] for column in columns if row.get(column)}, ensure_ascii=False) + "\n"


def xlsx_chunks(
    columns: Sequence[str], rows: Iterable[Mapping[str, str]], title: str, *, most_rows: int = _MOST_ROWS_OF_SHEET
) -> Iterator[bytes]:
    """Yield the bytes of a workbook; all cells are text, so that leading zeros stay. What one sheet cannot take goes on the next."""
    workbook = Workbook(write_only=True)
    left = iter(rows)
    first = next(left, None)
    number = 0
    while first is not None or not number:
        number += 1
        sheet = workbook.create_sheet(title[:31] if number == 1 else f"{title[:26]} {number}")
        sheet.append(list(columns))
        if first is not None:
            for row in chain([first], islice(left, most_rows - 2)):
                sheet.append([_NO_XML.sub("", harmless(row.get(column, ""))) for column in columns])
        first = next(left, None)
    with tempfile.TemporaryFile() as file:
        workbook.save(file)
        file.seek(0)
        while chunk := file.read(_CHUNK_BYTES):
            yield chunk


def table_chunks(
    format_: str, columns: Sequence[str], rows: Iterable[Mapping[str, str]], title: str
) -> Iterator[bytes]:
    """Yield the bytes of a table in a format of CONTENT_TYPES; cards hold what they have a place for, whatever the columns."""
    if format_ == "xlsx":
        yield from xlsx_chunks(columns, rows, title)
    elif format_ == "parquet":
        yield from parquet_chunks(columns, rows)
    else:
        texts = {
            "csv": lambda: csv_lines(columns, rows), "jsonl": lambda: json_lines(columns, rows), "vcf": lambda: vcard_lines(rows),
        }[format_]()  # fmt: skip
        for text in _joined(texts):
            yield text.encode("utf-8", "replace")


def _joined(texts: Iterable[str]) -> Iterator[str]:
    """Yield short texts joined into longer ones: whoever sends them takes a while for each."""
    parts: list[str] = []
    size = 0
    for text in texts:
        parts.append(text)
        size += len(text)
        if size > _JOINED_LETTERS:
            yield "".join(parts)
            parts, size = [], 0
    if parts:
        yield "".join(parts)


def write_csv(path: Path, columns: Sequence[str], rows: Iterable[Mapping[str, str]]) -> None:
    """Write a CSV file in UTF-8."""
    with path.open("wb") as file:
        file.writelines(table_chunks("csv", columns, rows, path.stem))
