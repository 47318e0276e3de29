"""Spreadsheets, XLSX and ODS: one sheet, a header row, and the rows below it."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import islice
from pathlib import Path

from python_calamine import CalamineError, CalamineSheet, CalamineWorkbook, SheetVisibleEnum

from ..core.errors import InputError
from .nested import scalar_text
from .spreadsheet_checks import BROKEN_ZIP, UnreadCells, check_ods, check_xlsx_sheet, spreadsheet_kind
from .table import (
    MOST_CELL_LETTERS,
    BadRow,
    Cells,
    FileFormat,
    Reading,
    Table,
    header_place,
    is_headerless,
    shown,
    unique_headers,
)

_HEADER_SOUGHT_IN = 40
_XML_CONTROL = {code: " " for code in range(32) if code not in (9, 10, 13)}
_BROKEN = (CalamineError, SyntaxError, *BROKEN_ZIP)


def _text(cell: object) -> str:
    text = (
        str(cell)
        if not isinstance(cell, str | bool | float | int) and not hasattr(cell, "isoformat")
        else scalar_text(cell)
    )
    return text if text.isprintable() else text.translate(_XML_CONTROL).strip()


def _grid(sheet: CalamineSheet) -> Iterator[tuple[int, list[str]]]:
    """Yield (row number, cells) of every row, from the first column that holds anything."""
    for number, row in enumerate(sheet.iter_rows(), start=1):
        yield number, [_text(cell) for cell in row]


def _header(
    first: Sequence[tuple[int, list[str]]], sheet: CalamineSheet, reading: Reading, name: str
) -> tuple[int, list[str]]:
    """Return (row number, cells) of the header; row 0 where a person says that there is none."""
    rows = [cells for _, cells in first]
    place = header_place(rows)
    if reading.header_row == 0 or (reading.header_row is None and place == 0 and is_headerless(rows)):
        return 0, [""] * sheet.width
    if reading.header_row:
        chosen = next((row for row in _grid(sheet) if row[0] >= reading.header_row and any(row[1])), None)
        if chosen is None:
            raise InputError(f"there is no row {reading.header_row} for the header", file=name)
        return chosen
    return first[place]


def open_spreadsheet(path: Path, name: str, reading: Reading) -> Table:
    """Open a spreadsheet at the sheet asked for, else at the first one that holds anything, hidden ones last.

    Raises InputError if the file is broken, made to exhaust memory, or holds nothing.
    """
    kind = spreadsheet_kind(path, name)
    if kind == "ods":
        check_ods(path, name)
    try:
        with CalamineWorkbook.from_path(str(path)) as workbook:
            hidden = {sheet.name for sheet in workbook.sheets_metadata if sheet.visible != SheetVisibleEnum.Visible}
            titles = tuple(sorted(workbook.sheet_names, key=hidden.__contains__))
            if reading.sheet and reading.sheet not in titles:
                raise InputError(f"there is no sheet '{reading.sheet}' (there is: {', '.join(titles)})", file=name)
            for title in (reading.sheet,) if reading.sheet else titles:
                # What is checked comes before what is read: reading lays the whole sheet out in memory.
                unread = check_xlsx_sheet(path, title, name) if kind == "xlsx" else UnreadCells()
                sheet = workbook.get_sheet_by_name(title)
                first = list(islice((row for row in _grid(sheet) if any(row[1])), _HEADER_SOUGHT_IN))
                if first:
                    return _table(FileFormat(kind, sheet=title, sheets=titles), sheet, first, unread, reading, name)
    except _BROKEN as error:
        raise _unreadable(error, name) from error
    except BaseException as error:
        # The reading package is written in another language, whose fatal errors come as this one.
        if type(error).__name__ == "PanicException":
            raise _unreadable(error, name) from error
        raise
    raise InputError("no sheet of the file holds anything", file=name)


def _unreadable(error: BaseException, name: str) -> InputError:
    return InputError(f"this is not a readable spreadsheet ({shown(str(error))[:200]})", file=name)


def _table(
    format_: FileFormat,
    sheet: CalamineSheet,
    first: Sequence[tuple[int, list[str]]],
    unread: UnreadCells,
    reading: Reading,
    name: str,
) -> Table:
    header_row, header = _header(first, sheet, reading, name)
    skipped = (sheet.start or (0, 0))[1]
    width = sheet.width if header_row == 0 else _width(sheet, header_row)
    columns = unique_headers(header[:width], name, header_row or None)

    def rows() -> Iterator[Cells | BadRow]:
        number = header_row
        for number, cells in _grid(sheet):
            if number <= header_row:
                continue
            cells = cells[:width]
            place, why = unread.rows.get(number, (-1, ""))
            if skipped <= place < skipped + width:
                yield _bad(number, columns[place - skipped], why, columns, cells)
            elif (longest := max(map(len, cells), default=0)) > MOST_CELL_LETTERS:
                column = columns[list(map(len, cells)).index(longest)]
                why = f"the cell holds {longest} letters, more than {MOST_CELL_LETTERS}"
                yield _bad(number, column, why, columns, [shown(cell) for cell in cells])
            elif any(cells):
                yield number, cells
        # Below the last value there may still be cells that hold one which cannot be read.
        for below in sorted(row for row in unread.rows if row > number):
            place, why = unread.rows[below]
            yield BadRow(below, columns[place - skipped] if skipped <= place < skipped + width else "", "", why)

    return Table(replace(format_, header_row=header_row), columns, rows, sheet.total_height - header_row)


def _bad(number: int, column: str, why: str, columns: Sequence[str], cells: Sequence[str]) -> BadRow:
    by_column = {name: cell for name, cell in zip(columns, cells, strict=True) if cell}
    return BadRow(number, column, shown(" | ".join(cells)), why, by_column)


def _width(sheet: CalamineSheet, header_row: int) -> int:
    """Return how many columns there are from the first to the last that is filled at or below the header."""
    width = 0
    for row in islice(sheet.iter_rows(), header_row - 1, None):
        beyond = row[width:]
        width += max((place for place, cell in enumerate(beyond, start=1) if cell != ""), default=0)
    return width
