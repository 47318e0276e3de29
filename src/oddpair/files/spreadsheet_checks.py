"""What a spreadsheet file is checked for before it is opened: that it is what it says, and not made to exhaust memory."""

import re
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from xml.etree import ElementTree
from zipfile import BadZipFile, ZipFile

from ..core.errors import InputError

#: More unpacked bytes than this are taken for a file made to exhaust memory.
_MOST_UNPACKED_BYTES = 1_500_000_000
#: A sheet is held in memory as a rectangle; this many cells fit.
_MOST_CELLS = 40_000_000
_CHUNK_BYTES = 1_000_000
#: A tag that is cut off at the end of a chunk is shorter than this.
_OVERLAP_BYTES = 40_000
#: Cells of an XLSX sheet that give their place (ECMA-376, part 1, 18.3.1.4).
_PLACE = re.compile(rb"""<(?:\w+:)?c\s[^>]*?\br=["']([A-Z]{1,4})(\d{1,9})["']""")
#: Cells with an error, or with a formula whose result was not saved; the reading package leaves both empty.
_UNREAD_CELL = re.compile(
    rb'<c\s(?=[^>]*?\br="([A-Z]{1,4})(\d{1,9})")[^>]*?(?:\bt="e"[^>]*>(?:<f[^<]*</f>|<f[^<]*/>)?<v>([^<]*)</v>|>(<f)[^<]*(?:</f>)?(?:<v\s*/>|<v></v>)?</c>)'
)
#: Rows and cells of an ODS sheet (OpenDocument 1.3, part 3, 9.1), with how often each is repeated.
_ODS_TAG = re.compile(rb"<\w+:(table|table-row|table-cell|covered-table-cell)(\s[^>]*?)?(/?)>|</\w+:(table|table-row)>")
_ODS_REPEATED = re.compile(rb"""number-(?:rows|columns)-repeated=["'](\d{1,12})["']""")
_RELATION = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}id"

BROKEN_ZIP = (BadZipFile, OSError, EOFError, KeyError, NotImplementedError, RuntimeError, ValueError, zlib.error)


@dataclass(slots=True)
class UnreadCells:
    """Row number → (column place, why) of cells whose value cannot be read."""

    rows: dict[int, tuple[int, str]] = field(default_factory=dict)


def spreadsheet_kind(path: Path, name: str) -> str:
    """Return "xlsx" or "ods" after every part was unpacked once to see that it is whole; raise InputError."""
    unpacked = 0
    try:
        with ZipFile(path) as archive:
            names = archive.namelist()
            for entry in archive.infolist():
                with archive.open(entry) as part:
                    while chunk := part.read(_CHUNK_BYTES):
                        unpacked += len(chunk)
                        if unpacked > _MOST_UNPACKED_BYTES:
                            raise InputError(
                                f"the file unpacks to more than {_MOST_UNPACKED_BYTES // 1_000_000} MB, which cannot be read",
                                file=name,
                            )
    except BROKEN_ZIP as error:
        raise InputError("this is not a readable spreadsheet; it is damaged or was cut off", file=name) from error
    if "content.xml" in names:
        return "ods"
    if "xl/workbook.xml" in names:
        return "xlsx"
    raise InputError("this is a ZIP archive but not a spreadsheet (XLSX or ODS)", file=name)


def _last_cell(text: bytes) -> int:
    """Return where the last cell of an XLSX sheet opens, whatever the prefix of its name."""
    return max(text.rfind(b"<c "), text.rfind(b"<", 0, text.rfind(b":c ") + 1))


def _last_tag(text: bytes) -> int:
    return text.rfind(b"<")


def _chunks(
    path: Path, part: str, last_opening: Callable[[bytes], int], size: int = _CHUNK_BYTES
) -> Iterator[tuple[bytes, int]]:
    """Yield (a stretch of a part, where what is new in it ends being whole); stretches overlap."""
    with ZipFile(path) as archive:
        if part not in archive.namelist():
            return
        with archive.open(part) as file:
            stretch = b""
            while chunk := file.read(size):
                stretch += chunk
                # Only what lies before the last opening is surely whole.
                whole = max(last_opening(stretch), len(stretch) - _OVERLAP_BYTES, 0)
                yield stretch, whole
                stretch = stretch[whole:]
            yield stretch, len(stretch)


def _part_of_sheet(path: Path, title: str) -> str:
    with ZipFile(path) as archive:
        workbook = ElementTree.fromstring(archive.read("xl/workbook.xml"))
        relations = ElementTree.fromstring(archive.read("xl/_rels/workbook.xml.rels"))
    targets = {item.get("Id"): item.get("Target", "") for item in relations}
    part = next((targets.get(sheet.get(_RELATION), "") for sheet in workbook.iter() if sheet.get("name") == title), "")
    return part.lstrip("/") if part.startswith("/") else f"xl/{part}"


def _column_place(letters: bytes) -> int:
    number = 0
    for letter in letters:
        number = number * 26 + letter - ord("A") + 1
    return number - 1


def check_xlsx_sheet(path: Path, title: str, name: str, *, chunk_bytes: int = _CHUNK_BYTES) -> UnreadCells:
    """Return the cells of a sheet that cannot be read; raise InputError if the sheet spans more than memory can hold."""
    unread = UnreadCells()
    last_row = last_column = 0
    for text, whole in _chunks(path, _part_of_sheet(path, title), _last_cell, chunk_bytes):
        for letters, row in set(_PLACE.findall(text, 0, whole)):
            last_row, last_column = max(last_row, int(row)), max(last_column, _column_place(letters) + 1)
        _check_cells(last_row * last_column, title, name)
        for found in _UNREAD_CELL.finditer(text, 0, whole):
            why = f"the cell holds the error {found[3].decode('utf-8', 'replace')}" if found[3] else _NO_RESULT
            unread.rows.setdefault(int(found[2]), (_column_place(found[1]), why))
    return unread


_NO_RESULT = "the cell holds a formula whose result was not saved; open the file in a spreadsheet program and save it"


def check_ods(path: Path, name: str) -> None:
    """Raise InputError if the sheets, with all that is repeated in them written out, are more than memory can hold.

    Empty cells and rows at the end are repeated to the edge of a sheet by every program; only what comes before a value
    counts.
    """
    row_cells = row_filled = row_repeat = 0
    rows = width = pending_rows = 0
    for text, whole in _chunks(path, "content.xml", _last_tag):
        for tag in _ODS_TAG.finditer(text, 0, whole):
            repeated = _ODS_REPEATED.search(tag[2] or b"")
            times = int(repeated[1]) if repeated else 1
            if tag[1] == b"table":
                rows = width = pending_rows = 0
            elif tag[1] == b"table-row":
                row_cells, row_filled, row_repeat = 0, 0, times
            elif tag[1]:
                row_cells += times
                if b"value-type" in (tag[2] or b""):
                    row_filled = row_cells
            if tag[4] == b"table-row" or (tag[1] == b"table-row" and tag[3]):
                pending_rows += row_repeat
                if row_filled:
                    rows, width, pending_rows = rows + pending_rows, max(width, row_filled), 0
                _check_cells(rows * width, "", name)


def _check_cells(cells: int, title: str, name: str) -> None:
    if cells > _MOST_CELLS:
        where = f"the sheet '{title}'" if title else "a sheet"
        raise InputError(f"{where} spans {cells} cells, more than the {_MOST_CELLS} that can be read", file=name)
