"""Opens a file of any known format, told by its contents rather than by its name."""

from pathlib import Path

from ..core.errors import InputError
from .csv_reader import open_csv
from .json_lines_reader import open_json_lines
from .table import Table
from .xlsx_reader import open_xlsx

_ZIP_MARK = b"PK\x03\x04"
_OLD_SPREADSHEET_MARK = b"\xd0\xcf\x11\xe0"


def open_table(path: Path, name: str = "") -> Table:
    """Open a CSV, XLSX or JSON Lines file; ``name`` is what messages call it. Raises InputError with a clear reason."""
    name = name or path.name
    try:
        with path.open("rb") as file:
            start = file.read(4096)
    except OSError as error:
        raise InputError(f"cannot be opened ({error.strerror})", file=name) from error
    if not start.strip():
        raise InputError("the file is empty", file=name)
    if start.startswith(_ZIP_MARK):
        return open_xlsx(path, name)
    if start.startswith(_OLD_SPREADSHEET_MARK):
        raise InputError("old binary spreadsheets cannot be read; save it as XLSX or CSV", file=name)
    text = start.removeprefix(b"\xef\xbb\xbf").lstrip()
    if text.startswith(b"{"):
        return open_json_lines(path, name)
    return open_csv(path, name)
