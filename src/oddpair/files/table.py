"""What every reader gives: a format, columns, and rows of text, good and bad."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class FileFormat:
    """The detected format of a file: ``kind`` is csv, xlsx or jsonl; the rest says what was detected."""

    kind: str
    encoding: str = ""
    delimiter: str = ""
    quote: str = ""
    sheet: str = ""

    def describe(self) -> str:
        """Return the format in words."""
        names = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", ":": "colon"}
        if self.kind == "csv":
            return f"CSV, {names.get(self.delimiter, self.delimiter)} between cells, {self.encoding}"
        if self.kind == "xlsx":
            return f"XLSX, sheet '{self.sheet}'"
        return f"JSON Lines, {self.encoding}"


@dataclass(frozen=True, slots=True)
class Row:
    """A readable row: its number in the file (the header is row 1 of a spreadsheet or CSV) and its filled cells."""

    number: int
    values: dict[str, str]


@dataclass(frozen=True, slots=True)
class BadRow:
    """A row that cannot be read: where, what stands there, and why it was set aside."""

    number: int
    column: str
    value: str
    reason: str


#: A readable row as it stands in the file: its number and one cell per column, stripped, empty where there is nothing.
Cells = tuple[int, list[str]]


@dataclass(frozen=True, slots=True)
class Table:
    """An opened file: columns in order, and a function that walks its rows from the start each time it is called."""

    format: FileFormat
    columns: tuple[str, ...]
    cells: Callable[[], Iterator[Cells | BadRow]]

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


def unique_headers(cells: Sequence[str]) -> tuple[str, ...]:
    """Return usable column names: empty ones get a number, repeated ones too."""
    names: list[str] = []
    for place, cell in enumerate(cells, start=1):
        name = " ".join(cell.split()) or f"column {place}"
        repeat, base = 2, name
        while name in names:
            name = f"{base} ({repeat})"
            repeat += 1
        names.append(name)
    return tuple(names)
