"""Opens a file of any known format, told by its contents rather than by its name."""

import json
from pathlib import Path

from ..core.errors import InputError
from .csv_reader import open_csv
from .encodings import open_as_utf8, wide_encoding
from .json_lines_reader import open_json_lines
from .json_reader import open_json
from .parquet_reader import open_parquet
from .spreadsheet_reader import open_spreadsheet
from .table import Reading, Table
from .vcard_reader import open_vcard

_ZIP_MARK = b"PK\x03\x04"
_OLD_SPREADSHEET_MARK = b"\xd0\xcf\x11\xe0"
_PARQUET_MARK = b"PAR1"
_VCARD_MARK = b"BEGIN:VCARD"
_MARKUP = (b"<!doctype", b"<html", b"<?xml", b"<table")
_FIRST_LINE_BYTES = 2_000_000


def open_table(path: Path, name: str = "", reading: Reading | None = None, columns: tuple[str, ...] = ()) -> Table:
    """Open a file of any known format; ``name`` is what messages call it.

    ``reading`` says what a person chose, ``columns`` spares the search for columns where they are known already (of
    formats that name them in every record). Raises InputError with a clear reason.
    """
    name = name or path.name
    table = _opened(path, name, reading or Reading(), columns)
    if next(table.cells(), None) is None:
        raise InputError("the file holds column names but no rows", file=name)
    return table


def _opened(path: Path, name: str, reading: Reading, columns: tuple[str, ...]) -> Table:
    try:
        with path.open("rb") as file:
            start = file.read(4096)
    except OSError as error:
        raise InputError(f"cannot be opened ({error.strerror})", file=name) from error
    if not start.strip():
        raise InputError("the file is empty", file=name)
    if start.startswith(_ZIP_MARK):
        return open_spreadsheet(path, name, reading)
    if start.startswith(_OLD_SPREADSHEET_MARK):
        raise InputError("old binary spreadsheets cannot be read; save it as XLSX or CSV", file=name)
    if start.startswith(_PARQUET_MARK):
        return open_parquet(path, name, columns)
    wide = wide_encoding(start)
    text = start.decode(wide, errors="ignore").encode() if wide else start
    text = text.removeprefix(b"\xef\xbb\xbf").lstrip()
    if text[: len(_VCARD_MARK)].upper() == _VCARD_MARK:
        return open_vcard(path, name, reading, columns)
    if text[:9].lower().startswith(_MARKUP):
        raise InputError("this is a web page or XML, not a table; save it as CSV, XLSX or JSON", file=name)
    if text.startswith(b"[") or (text.startswith(b"{") and _is_one_document(path, wide)):
        return open_json(path, name, reading, columns)
    if text.startswith(b"{"):
        return open_json_lines(path, name, reading, columns)
    return open_csv(path, name, reading)


def _is_one_document(path: Path, wide: str) -> bool:
    """Whether a file that begins with an object is one JSON document rather than an object a line.

    A document goes on in the next line, or is alone in its line and holds a list of objects.
    """
    with open_as_utf8(path, wide or "utf-8") as file:
        first = file.readline(_FIRST_LINE_BYTES)
        more = bool(file.read(4096).strip())
    if first.strip() == b"{":
        return True
    try:
        document = json.loads(first)
    except (ValueError, RecursionError):
        # A long single line is a document; a short one that cannot be read is a broken line of many.
        return not more or len(first) == _FIRST_LINE_BYTES
    lists = document.values() if isinstance(document, dict) else ()
    return not more and any(isinstance(item, list) and item and isinstance(item[0], dict) for item in lists)
