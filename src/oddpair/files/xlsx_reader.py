"""XLSX spreadsheets: the first sheet that holds anything, its first filled row being the header."""

from collections.abc import Iterator
from datetime import date, datetime, time, timedelta
from pathlib import Path
from zipfile import BadZipFile, ZipFile

from python_calamine import CalamineError, CalamineWorkbook

from ..core.errors import InputError
from .table import BadRow, FileFormat, Row, Table, unique_headers

_CELL_ERRORS = frozenset({"#REF!", "#N/A", "#VALUE!", "#DIV/0!", "#NAME?", "#NULL!", "#NUM!"})
#: More unpacked bytes than this is taken for a file made to exhaust memory.
_MOST_UNPACKED_BYTES = 1_000_000_000
_XML_CONTROL = {code: " " for code in range(32) if code not in (9, 10, 13)}


def _text(cell: object) -> str:
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float) and cell.is_integer():
        return str(int(cell))
    if isinstance(cell, datetime) and cell.time() == time():
        return cell.date().isoformat()
    if isinstance(cell, datetime | date | time):
        return cell.isoformat()
    if isinstance(cell, timedelta):
        return str(cell)
    return str(cell).translate(_XML_CONTROL).strip()


def _check_size(path: Path, name: str) -> None:
    try:
        with ZipFile(path) as archive:
            unpacked = sum(entry.file_size for entry in archive.infolist())
    except BadZipFile as error:
        raise InputError("this is not a readable XLSX file", file=name) from error
    if unpacked > _MOST_UNPACKED_BYTES:
        raise InputError(f"the file unpacks to {unpacked // 1_000_000} MB, more than can be read", file=name)


def open_xlsx(path: Path, name: str) -> Table:
    """Open an XLSX file; raise InputError if it is broken or holds no rows."""
    _check_size(path, name)
    try:
        workbook = CalamineWorkbook.from_path(str(path))
        sheets = [
            (title, workbook.get_sheet_by_name(title).to_python(skip_empty_area=False))
            for title in workbook.sheet_names
        ]
    except (CalamineError, OSError, ValueError) as error:
        raise InputError(f"this is not a readable XLSX file ({error})", file=name) from error
    for title, cells in sheets:
        grid = [[_text(cell) for cell in row] for row in cells]
        header = next((place for place, row in enumerate(grid) if any(row)), None)
        if header is not None:
            return _table(title, grid, header)
    raise InputError("no sheet of the file holds anything", file=name)


def _table(title: str, grid: list[list[str]], header: int) -> Table:
    width = max((place + 1 for row in grid[header:] for place, cell in enumerate(row) if cell), default=0)
    columns = unique_headers(grid[header][:width])

    def rows() -> Iterator[Row | BadRow]:
        for number, row in enumerate(grid[header + 1 :], start=header + 2):
            if not any(row):
                continue
            broken = [column for column, cell in zip(columns, row, strict=False) if cell in _CELL_ERRORS]
            if broken:
                value = row[columns.index(broken[0])]
                yield BadRow(number, broken[0], " | ".join(row)[:2000], f"the cell holds the error {value}")
            else:
                yield Row(number, {column: cell for column, cell in zip(columns, row, strict=False) if cell})

    return Table(FileFormat("xlsx", sheet=title), columns, rows)
