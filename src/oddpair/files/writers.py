"""Writers of tables: CSV, XLSX and JSON Lines, from the same columns and rows."""

import csv
import io
import json
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from pathlib import Path

from openpyxl import Workbook

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
}


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


def xlsx_bytes(columns: Sequence[str], rows: Iterable[Mapping[str, str]], title: str) -> bytes:
    """Return a workbook with one sheet; all cells are text, so that leading zeros stay."""
    workbook = Workbook(write_only=True)
    sheet = workbook.create_sheet(title[:31])
    sheet.append(list(columns))
    for row in rows:
        sheet.append([_NO_XML.sub("", harmless(row.get(column, ""))) for column in columns])
    buffer = io.BytesIO()
    workbook.save(buffer)
    return buffer.getvalue()


def table_chunks(
    format_: str, columns: Sequence[str], rows: Iterable[Mapping[str, str]], title: str
) -> Iterator[bytes]:
    """Yield the bytes of a table in ``format_`` (csv, xlsx or jsonl)."""
    if format_ == "xlsx":
        yield xlsx_bytes(columns, rows, title)
        return
    for text in csv_lines(columns, rows) if format_ == "csv" else json_lines(columns, rows):
        yield text.encode("utf-8")


def write_csv(path: Path, columns: Sequence[str], rows: Iterable[Mapping[str, str]]) -> None:
    """Write a CSV file in UTF-8."""
    with path.open("wb") as file:
        file.writelines(table_chunks("csv", columns, rows, path.stem))
