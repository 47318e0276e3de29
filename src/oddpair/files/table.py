"""What every reader gives: a format, columns, and rows of text, good and bad."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from ..core.errors import InputError
from .encodings import encoding_in_words

#: Tables wider than this are refused: nobody could map their columns.
MOST_COLUMNS = 2000
#: A cell with more letters than this is set aside with its row.
MOST_CELL_LETTERS = 1_000_000
_DELIMITER_NAMES = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", ":": "colon"}
_NAMES = {"jsonl": "JSON Lines", "json": "JSON", "parquet": "Parquet", "vcard": "vCard"}
#: What is longer is no figure.
_LONGEST_FIGURE = 200


@dataclass(frozen=True, slots=True)
class Reading:
    """How a person wants a file to be read; what is left at its default is detected.

    ``sheet`` is a sheet of a spreadsheet, ``path`` leads to the records of a JSON document, ``header_row`` is the number
    of the row with the column names (0: there is none; None: detected), ``encoding`` is that of a text file.
    """

    sheet: str = ""
    header_row: int | None = None
    path: str = ""
    encoding: str = ""


@dataclass(frozen=True, slots=True)
class FileFormat:
    """What was detected of a file, and what else could be chosen.

    ``kind`` is csv, xlsx, ods, jsonl, json, parquet or vcard; ``header_row`` is 0 where there is no header row in use;
    ``sheets`` and ``paths`` are what a Reading may name; ``looks_misread`` where letters make no sense in the encoding.
    """

    kind: str
    encoding: str = ""
    delimiter: str = ""
    quote: str = ""
    sheet: str = ""
    header_row: int = 0
    sheets: tuple[str, ...] = ()
    path: str = ""
    paths: tuple[str, ...] = ()
    looks_misread: bool = False

    @property
    def has_header_row(self) -> bool:
        """Whether the format keeps its column names in a row that can be chosen."""
        return self.kind in ("csv", "xlsx", "ods")

    def describe(self) -> str:
        """Return the format in words."""
        if self.kind == "csv":
            delimiter = _DELIMITER_NAMES.get(self.delimiter, self.delimiter)
            words = f"CSV, {delimiter} between cells, {encoding_in_words(self.encoding)}"
            if self.looks_misread:
                words += " (letters look misread)"
        elif self.kind in ("xlsx", "ods"):
            words = f"{self.kind.upper()}, sheet '{self.sheet}'"
        else:
            words = _NAMES[self.kind] + (f", records at '{self.path}'" if self.path else "")
        if self.has_header_row and self.header_row != 1:
            words += f", header in row {self.header_row}" if self.header_row else ", no header row"
        return words


@dataclass(frozen=True, slots=True)
class Row:
    """A readable row: its number in the file (the first row of a spreadsheet or CSV is row 1) and its filled cells."""

    number: int
    values: dict[str, str]


@dataclass(frozen=True, slots=True)
class BadRow:
    """A row that cannot be read: where, what stands there, and why it was set aside.

    ``cells`` are its cells by column where they could be told apart, so that a person can mend them.
    """

    number: int
    column: str
    value: str
    reason: str
    cells: dict[str, str] | None = None


#: A readable row as it stands in the file: its number and one cell per column, stripped, empty where there is nothing.
Cells = tuple[int, list[str]]


@dataclass(frozen=True, slots=True)
class Table:
    """An opened file: columns in order, and a function that walks its rows from the start each time it is called.

    ``expected_rows`` is about how many rows there are, 0 where nobody can tell without reading all; ``path`` leads to a text file
    that may be read as a whole.
    """

    format: FileFormat
    columns: tuple[str, ...]
    cells: Callable[[], Iterator[Cells | BadRow]]
    expected_rows: int = 0
    path: Path | None = None

    def rows(self) -> Iterator[Row | BadRow]:
        """Walk the rows from the start, with the filled cells by column."""
        for row in self.cells():
            if isinstance(row, BadRow):
                yield row
            else:
                number, cells = row
                yield Row(number, {column: cell for column, cell in zip(self.columns, cells, strict=True) if cell})


def is_sound(text: str) -> bool:
    """Whether text holds neither zero bytes nor bytes that could not be decoded (kept as lone surrogates)."""
    if text.isascii():
        return "\0" not in text
    try:
        return b"\0" not in text.encode("utf-8")
    except UnicodeEncodeError:
        return False


def shown(text: str) -> str:
    """Return the start of what stands somewhere, fit to be kept and shown."""
    return text[:2000].encode("utf-8", errors="replace").decode("utf-8").replace("\0", "�").strip()


def unique_headers(cells: Sequence[str], file: str, row: int | None = None) -> tuple[str, ...]:
    """Return usable column names: empty ones get a number, repeated ones too. Raises InputError if there are too many."""
    if len(cells) > MOST_COLUMNS:
        raise InputError(f"{len(cells)} columns are more than the {MOST_COLUMNS} that can be read", file=file, row=row)
    names: dict[str, None] = {}
    for place, cell in enumerate(cells, start=1):
        name = " ".join(shown(cell)[:200].split()) or f"column {place}"
        repeat, base = 2, name
        while name in names:
            name = f"{base} ({repeat})"
            repeat += 1
        names[name] = None
    return tuple(names)


def header_place(rows: Sequence[Sequence[str]]) -> int:
    """Return the place of the header among the first rows of a file.

    It is the first row that fills as many cells as most rows do, or at least half as many without a figure among them:
    a title, a date or a remark above the header fills fewer.
    """
    filled = [[cell for cell in row if cell.strip()] for row in rows]
    usual = sorted(map(len, filled))[len(filled) // 2] if filled else 0
    for place, cells in enumerate(filled):
        wordy = not any(cell.strip()[0].isdigit() for cell in cells)
        if cells and (len(cells) >= usual or (2 * len(cells) >= usual and wordy)):
            return place
    return 0


def is_headerless(rows: Sequence[Sequence[str]]) -> bool:
    """Whether the first of a file's rows is a record like those below it rather than column names.

    Column names say what stands below; they do not look like it. A figure, date or address of the net in the first row
    tells a record where most cells below look alike; so does a text that stands in the same column again, unless another
    column speaks for names. Needs three rows.
    """
    if len(rows) < 3:
        return False
    first, below = rows[0], rows[1:]
    alike = 0
    for place, cell in enumerate(first):
        others = [row[place] for row in below if place < len(row) and row[place].strip()]
        shape = _shape(cell)
        same = sum(_shape(other) == shape for other in others)
        if shape:
            if others and same < 0.5 * len(others):
                return False
            alike += bool(others)
        elif cell.strip():
            if len(others) > 1 and sum(bool(_shape(other)) for other in others) > 0.8 * len(others):
                return False
            alike += cell in others and len(cell) > 1
    return alike > 0


def _shape(cell: str) -> str:
    """Return what kind of figure a cell is, "" for words."""
    text = cell.strip()
    if len(text) > _LONGEST_FIGURE:
        return ""
    if "@" in text[1:-1]:
        return "mail"
    digits = sum(letter.isdigit() for letter in text)
    return "figure" if digits >= 2 and 2 * digits >= len(text) else ""
