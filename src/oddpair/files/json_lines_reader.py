"""JSON Lines: one JSON object a line; nested values are reached by path ("address.town", "phones.1")."""

import json
from collections.abc import Iterator
from pathlib import Path

from ..core.errors import InputError
from .table import BadRow, Cells, FileFormat, Row, Table, is_sound

_DEEPEST = 8


def _flatten(value: object, path: str, into: dict[str, str], depth: int = 0) -> None:
    if depth > _DEEPEST:
        raise ValueError(f"values are nested more than {_DEEPEST} deep")
    if isinstance(value, str):
        if text := value.strip():
            if not is_sound(text):
                raise ValueError(f"'{path}' holds a letter that is not valid text")
            into[path] = text
    elif isinstance(value, dict):
        for key, item in value.items():
            _flatten(item, f"{path}.{key}" if path else str(key), into, depth + 1)
    elif isinstance(value, list):
        for place, item in enumerate(value, start=1):
            _flatten(item, f"{path}.{place}", into, depth + 1)
    elif value is not None:
        into[path] = ("yes" if value else "no") if isinstance(value, bool) else str(value)


def _shown(raw: bytes) -> str:
    return raw.decode("utf-8", errors="replace").replace("\0", "�").strip()[:2000]


def _rows(path: Path) -> Iterator[Row | BadRow]:
    with path.open("rb") as file:
        for number, raw in enumerate(file, start=1):
            if not raw.strip():
                continue
            try:
                document = json.loads(raw.decode("utf-8-sig"))
                values: dict[str, str] = {}
                _flatten(document, "", values)
            except UnicodeDecodeError:
                yield BadRow(number, "", _shown(raw), "the line is not valid UTF-8")
            except json.JSONDecodeError as error:
                yield BadRow(
                    number, "", _shown(raw), f"the line is not valid JSON: {error.msg} at letter {error.colno}"
                )
            except (ValueError, RecursionError) as error:
                yield BadRow(number, "", _shown(raw), str(error))
            else:
                if isinstance(document, dict):
                    yield Row(number, values)
                else:
                    yield BadRow(number, "", _shown(raw), "the line is JSON but not an object")


def open_json_lines(path: Path, name: str) -> Table:
    """Open a JSON Lines file; raise InputError if no line of it is a JSON object."""
    columns: dict[str, None] = {}
    for row in _rows(path):
        if isinstance(row, Row):
            columns.update(dict.fromkeys(row.values))
    if not columns:
        raise InputError("no line of the file is a JSON object", file=name)

    def cells() -> Iterator[Cells | BadRow]:
        for row in _rows(path):
            yield row if isinstance(row, BadRow) else (row.number, [row.values.get(column, "") for column in columns])

    return Table(FileFormat("jsonl", "utf-8"), tuple(columns), cells)
