"""JSON Lines: one JSON object a line."""

import json
from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path
from typing import NoReturn

from ..core.errors import InputError
from .encodings import encoding_of, open_as_utf8
from .nested import Nested, flat_rows, nested_table
from .table import BadRow, FileFormat, Reading, Row, Table

#: A line with more bytes than this is no record.
_LONGEST_LINE_BYTES = 20_000_000
_SAMPLE_BYTES = 1_000_000


def _shown(raw: bytes) -> str:
    return raw[:8000].decode("utf-8", errors="replace").replace("\0", "�").strip()[:2000]


def _no_number(text: str) -> NoReturn:
    raise ValueError(f"{text} is not a number that JSON knows")


#: One for all lines: making one takes as long as reading a line.
_DECODER = json.JSONDecoder(parse_float=Decimal, parse_constant=_no_number)


def _records(path: Path, encoding: str, name: str) -> Iterator[Nested]:
    with open_as_utf8(path, encoding) as file:
        number = 0
        while raw := file.readline(_LONGEST_LINE_BYTES):
            number += 1
            if len(raw) == _LONGEST_LINE_BYTES and not raw.endswith(b"\n"):
                raise InputError("the line is too long to be a record", file=name, row=number)
            if not raw.strip():
                continue
            try:
                # Numbers keep the digits with which they were delivered.
                text = raw.decode("utf-8")
                yield number, _DECODER.decode(text)
            except UnicodeDecodeError:
                yield BadRow(number, "", _shown(raw), "the line is not valid UTF-8")
            except json.JSONDecodeError as error:
                yield BadRow(
                    number, "", _shown(raw), f"the line is not valid JSON: {error.msg} at letter {error.colno}"
                )
            except (ValueError, RecursionError) as error:
                yield BadRow(number, "", _shown(raw), str(error))


def open_json_lines(path: Path, name: str, reading: Reading, columns: tuple[str, ...] = ()) -> Table:
    """Open a JSON Lines file; raise InputError if no line of it is a JSON object."""
    encoding = encoding_of(path, name, reading.encoding)

    def rows() -> Iterator[Row | BadRow]:
        return flat_rows(_records(path, encoding.name, name), "the line")

    with path.open("rb") as file:
        sample = file.read(_SAMPLE_BYTES)
    expected = round(path.stat().st_size * (sample.count(b"\n") + 1) / max(len(sample), 1))
    return nested_table(
        FileFormat("jsonl", encoding.name, looks_misread=encoding.doubtful), rows,
        name=name, no_record="no line of the file is a JSON object",
        columns=columns, expected_rows=expected,
    )  # fmt: skip
