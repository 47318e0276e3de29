"""XLSX spreadsheets: the first sheet that holds anything, its first filled row being the header."""

import re
from collections.abc import Iterator
from datetime import date, datetime, time, timedelta
from pathlib import Path
from xml.etree import ElementTree
from zipfile import BadZipFile, ZipFile

from python_calamine import CalamineError, CalamineWorkbook

from ..core.errors import InputError
from .table import BadRow, Cells, FileFormat, Table, unique_headers

#: Cells of type error in a sheet's XML (ECMA-376, part 1, 18.3.1.4); the reading package leaves them empty.
_ERROR_CELL = re.compile(rb'<c (?=[^>]*\bt="e")[^>]*\br="([A-Z]+)(\d+)"[^>]*>(?:<f[^<]*</f>)?<v>([^<]*)</v>')
_RELATION = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}id"
#: More unpacked bytes than this is taken for a file made to exhaust memory.
_MOST_UNPACKED_BYTES = 1_000_000_000
_XML_CONTROL = {code: " " for code in range(32) if code not in (9, 10, 13)}


def _text(cell: object) -> str:
    if isinstance(cell, str):
        return (cell if cell.isprintable() else cell.translate(_XML_CONTROL)).strip()
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


def _column_number(letters: str) -> int:
    number = 0
    for letter in letters:
        number = number * 26 + ord(letter) - ord("A") + 1
    return number - 1


def _error_cells(path: Path, title: str) -> dict[tuple[int, int], str]:
    """Return (row number, column) → error of the cells of a sheet that hold a formula's error."""
    with ZipFile(path) as archive:
        workbook = ElementTree.fromstring(archive.read("xl/workbook.xml"))
        relations = ElementTree.fromstring(archive.read("xl/_rels/workbook.xml.rels"))
        targets = {item.get("Id"): item.get("Target", "") for item in relations}
        part = next(
            (targets.get(sheet.get(_RELATION), "") for sheet in workbook.iter() if sheet.get("name") == title), ""
        )
        name = part.lstrip("/") if part.startswith("/") else f"xl/{part}"
        content = archive.read(name) if name in archive.namelist() else b""
    found = _ERROR_CELL.findall(content)
    return {(int(row), _column_number(letters.decode())): error.decode() for letters, row, error in found}


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
            return _table(title, grid, header, _error_cells(path, title))
    raise InputError("no sheet of the file holds anything", file=name)


def _table(title: str, grid: list[list[str]], header: int, errors: dict[tuple[int, int], str]) -> Table:
    width = max((place + 1 for row in grid[header:] for place, cell in enumerate(row) if cell), default=0)
    columns = unique_headers(grid[header][:width])
    errors_by_row = {
        row: (column, error) for (row, column), error in sorted(errors.items(), reverse=True) if column < width
    }

    def rows() -> Iterator[Cells | BadRow]:
        for number, row in enumerate(grid[header + 1 :], start=header + 2):
            if number in errors_by_row:
                column, error = errors_by_row[number]
                yield BadRow(number, columns[column], " | ".join(row)[:2000], f"the cell holds the error {error}")
            elif any(row):
                yield number, row[:width]

    return Table(FileFormat("xlsx", sheet=title), columns, rows)
