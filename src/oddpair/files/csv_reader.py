"""CSV of any common dialect and encoding, read row by row."""

import csv
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from itertools import islice
from pathlib import Path

from ..core.errors import InputError
from .encodings import LONGEST_LINE, encoding_of, open_text
from .table import (
    MOST_CELL_LETTERS,
    BadRow,
    Cells,
    FileFormat,
    Reading,
    Table,
    header_place,
    is_headerless,
    is_sound,
    shown,
    unique_headers,
)

_SAMPLE_LINES, _SAMPLE_LETTERS = 5000, 400_000
_DIALECT_ROWS = 200
_DELIMITERS = ",;\t|"
_QUOTES = "\"'"
#: A quoted cell over more lines than this is taken for a forgotten closing quote.
_LONGEST_CELL_LINES = 40
_HEADER_SOUGHT_IN = 40
csv.field_size_limit(LONGEST_LINE)


def _lines(path: Path, encoding: str, name: str) -> Iterator[str]:
    for number, line in enumerate(open_text(path, encoding), start=1):
        if len(line) == LONGEST_LINE and not line.endswith(("\n", "\r")):
            raise InputError("the line is too long to be a row of a table", file=name, row=number)
        yield line


def _is_complete(text: str, delimiter: str, quote: str) -> bool:
    """Whether no quoted cell is left open at the end; a quote mark inside a cell that is not quoted means nothing."""
    if text.count(quote) % 2 == 0 and text.count("\n") <= 1:
        return True
    try:
        return len(list(csv.reader([text], delimiter=delimiter, quotechar=quote, strict=True))) == 1
    except csv.Error:
        return False


def _logical_lines(lines: Iterator[str], delimiter: str, quote: str) -> Iterator[tuple[int, str, str]]:
    """Yield (first line number, text, problem): lines joined while a quoted cell is open.

    If a quote is never closed only its own line is bad; the lines after it are read afresh.
    """
    pending: list[tuple[int, str]] = []
    numbered = enumerate(lines, start=1)
    while True:
        entry = pending.pop(0) if pending else next(numbered, None)
        if entry is None:
            return
        number, text = entry
        if quote not in text:
            yield number, text, ""
            continue
        taken: list[tuple[int, str]] = []
        while not (complete := _is_complete(text, delimiter, quote)) and len(taken) < _LONGEST_CELL_LINES:
            following = pending.pop(0) if pending else next(numbered, None)
            if following is None:
                break
            taken.append(following)
            text += following[1]
        if complete:
            yield number, text, ""
        else:
            pending = taken + pending
            yield number, entry[1], "a quoted cell is never closed"


def _records(path: Path, format_: FileFormat, name: str) -> Iterator[tuple[int, list[str], str]]:
    """Yield (line number, cells, problem) of every row that is not blank."""
    current: list[str] = []
    # One reader for all lines: it is given one logical line at a time, so an open quote cannot run on into the next.
    reader = csv.reader(
        iter(current.pop, None), delimiter=format_.delimiter, quotechar=format_.quote, skipinitialspace=True
    )
    for number, text, problem in _logical_lines(_lines(path, format_.encoding, name), format_.delimiter, format_.quote):
        if not text.strip() or (number == 1 and text.lower().startswith("sep=")):
            continue
        try:
            if problem or format_.quote in text:
                cells = next(
                    csv.reader([text], delimiter=format_.delimiter, quotechar=format_.quote, skipinitialspace=True), []
                )
            else:
                current.append(text)
                cells = next(reader, [])
        except csv.Error as error:
            yield number, [text.strip()], str(error)
            continue
        if any(cells) and any(map(str.strip, cells)):
            yield number, cells, problem


def _score_dialect(text: str, delimiter: str, quote: str) -> tuple[float, int]:
    counts: Counter[int] = Counter()
    for place, (_, line, _) in enumerate(_logical_lines(iter(text.splitlines(keepends=True)), delimiter, quote)):
        if place >= _DIALECT_ROWS:
            break
        if not line.strip():
            continue
        try:
            counts[len(next(csv.reader([line], delimiter=delimiter, quotechar=quote), []))] += 1
        except csv.Error:
            counts[0] += 1
    if not counts:
        return 0.0, 0
    width, agreeing = max(counts.items(), key=lambda item: (item[1] * (item[0] > 1), item[0]))
    return (agreeing / sum(counts.values()) if width > 1 else 0.0), width


def _detect_dialect(text: str) -> tuple[str, str]:
    """Return (delimiter, quote): the ones under which most rows have the same number of cells, more cells on a tie."""
    best = max(
        ((*_score_dialect(text, delimiter, quote), -rank, delimiter, quote))
        for rank, (quote, delimiter) in enumerate((quote, delimiter) for quote in _QUOTES for delimiter in _DELIMITERS)
    )
    return (best[3], best[4]) if best[0] > 0 else (",", '"')


def _header(path: Path, format_: FileFormat, reading: Reading, name: str) -> tuple[int, list[str]]:
    """Return (line number, cells) of the header; line 0 where a person says that there is none."""
    first: list[tuple[int, list[str]]] = []
    for number, cells, _ in _records(path, format_, name):
        if reading.header_row and number >= reading.header_row:
            return number, cells
        first.append((number, cells))
        if len(first) == _HEADER_SOUGHT_IN and not reading.header_row:
            break
    if not first:
        raise InputError("the file is empty", file=name)
    if reading.header_row == 0:
        return 0, ["" for _ in range(max(len(cells) for _, cells in first))]
    if reading.header_row:
        raise InputError(f"there is no row {reading.header_row} for the header", file=name)
    rows = [cells for _, cells in first]
    place = header_place(rows)
    if place == 0 and is_headerless(rows):
        return 0, ["" for _ in range(max(map(len, rows)))]
    return first[place]


def open_csv(path: Path, name: str, reading: Reading) -> Table:
    """Open a CSV file; raise InputError if it has no header or is no text."""
    encoding = encoding_of(path, name, reading.encoding)
    first = list(islice(open_text(path, encoding.name), _SAMPLE_LINES))
    delimiter, quote = _detect_dialect("".join(first)[:_SAMPLE_LETTERS])
    format_ = FileFormat("csv", encoding.name, delimiter, quote, looks_misread=encoding.doubtful)
    header_line, header = _header(path, format_, reading, name)
    columns = unique_headers(header, name, header_line or None)

    def rows() -> Iterator[Cells | BadRow]:
        for number, row, problem in _records(path, format_, name):
            if number > header_line:
                yield _row(number, columns, row, problem, format_)

    letters = sum(map(len, first)) * (2 if "16" in encoding.name else 4 if "32" in encoding.name else 1)
    expected = round(path.stat().st_size * (len(first) + 1) / max(letters, 1))
    return Table(replace(format_, header_row=header_line), columns, rows, expected, path)


def read_row(number: int, columns: tuple[str, ...], line: str, format_: FileFormat) -> Cells | BadRow | None:
    """Return one row of a file, given its text; None for a blank one."""
    cells = next(csv.reader([line], delimiter=format_.delimiter, quotechar=format_.quote, skipinitialspace=True), [])
    return _row(number, columns, cells, "", format_) if any(map(str.strip, cells)) else None


def _row(number: int, columns: tuple[str, ...], cells: list[str], problem: str, format_: FileFormat) -> Cells | BadRow:
    raw = format_.delimiter.join(cells)
    if problem or len(cells) != len(columns) or len(raw) > MOST_CELL_LETTERS or not is_sound(raw):
        problem, column = _what_is_wrong(columns, cells, problem, format_)
        if problem:
            # Cells beyond the header stay visible in the last one, so that a person sees where the row went wrong.
            shortened = [*cells[: len(columns) - 1], format_.delimiter.join(cells[len(columns) - 1 :])]
            by_column = {name: text for name, cell in zip(columns, shortened, strict=False) if (text := shown(cell))}
            return BadRow(number, column, shown(raw), problem, by_column)
    return number, [cell.strip() for cell in cells[: len(columns)]]


def _what_is_wrong(columns: tuple[str, ...], cells: list[str], problem: str, format_: FileFormat) -> tuple[str, str]:
    """Return (what is wrong with a row or "", the column it is wrong in or "")."""
    if problem:
        return problem, ""
    # Spreadsheets often write empty cells beyond the header; those lose nothing.
    if len(cells) < len(columns) or any(cell.strip() for cell in cells[len(columns) :]):
        return f"the row has {len(cells)} cells, the header has {len(columns)}", ""
    for column, cell in zip(columns, cells, strict=False):
        if "\0" in cell:
            return "the cell holds a zero byte", column
        if not is_sound(cell):
            return f"the cell holds bytes that are not valid {format_.encoding.upper()}", column
        if len(cell) > MOST_CELL_LETTERS:
            return f"the cell holds {len(cell)} letters, more than {MOST_CELL_LETTERS}", column
    return "", ""
