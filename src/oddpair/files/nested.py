"""Nested values as columns: each is reached by its path ("address.town", "phones.1")."""

from collections.abc import Callable, Iterable, Iterator
from datetime import date, datetime, time
from decimal import Decimal
from functools import lru_cache

from ..core.errors import InputError
from .table import (
    MOST_CELL_LETTERS,
    MOST_COLUMNS,
    BadRow,
    Cells,
    FileFormat,
    Row,
    Table,
    is_sound,
)

_DEEPEST = 8

#: A record as it was read, or a row that could not be read.
Nested = tuple[int, object] | BadRow


def scalar_text(value: object) -> str:
    """Return a single value as text: whole numbers without a point, dates in ISO form, yes and no."""
    if isinstance(value, str):
        return value.strip()
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    if isinstance(value, Decimal):
        return format(value, "f")
    if isinstance(value, datetime) and value.time() == time() and value.tzinfo is None:
        return value.date().isoformat()
    if isinstance(value, date | time):
        return value.isoformat()
    if isinstance(value, bytes):
        return value.decode("utf-8").strip()
    return str(value)


@lru_cache(maxsize=10_000)
def _name(key: str) -> str:
    """Return a key as it stands in the name of a column."""
    return " ".join(key.split())[:200]


_is_sound_path = lru_cache(maxsize=10_000)(is_sound)


def _flatten(value: object, path: str, into: dict[str, str], depth: int = 0) -> None:
    if depth > _DEEPEST:
        raise ValueError(f"values are nested more than {_DEEPEST} deep")
    if isinstance(value, dict):
        for key, item in value.items():
            name = _name(str(key))
            where = f"{path}.{name}" if path else name
            if isinstance(item, str) and depth < _DEEPEST:
                # By far the most frequent case.
                _put(item.strip(), where, into)
            elif item is not None or depth == _DEEPEST:
                _flatten(item, where, into, depth + 1)
    elif isinstance(value, list | tuple):
        for place, item in enumerate(value, start=1):
            _flatten(item, f"{path}.{place}", into, depth + 1)
    elif value is not None:
        _put(scalar_text(value), path, into)


def _put(text: str, path: str, into: dict[str, str]) -> None:
    """Put a value in its column; raise ValueError if it is none that can be kept."""
    if len(text) > MOST_CELL_LETTERS:
        raise ValueError(f"'{path}' holds {len(text)} letters, more than {MOST_CELL_LETTERS}")
    if not is_sound(text) or not _is_sound_path(path):
        raise ValueError(f"'{path.encode('utf-8', 'replace').decode()}' holds a letter that is not valid text")
    if text:
        into[path] = text


def flat_rows(records: Iterable[Nested], a_record: str) -> Iterator[Row | BadRow]:
    """Yield a row per record; ``a_record`` says in messages what could not be used ("the line")."""
    for record in records:
        if isinstance(record, BadRow):
            yield record
            continue
        number, document = record
        if not isinstance(document, dict):
            yield BadRow(number, "", _start(document), f"{a_record} is JSON but not an object")
            continue
        values: dict[str, str] = {}
        try:
            _flatten(document, "", values)
        except (ValueError, RecursionError) as error:
            reason = f"{a_record} holds bytes that are no text" if isinstance(error, UnicodeError) else str(error)
            yield BadRow(number, "", _start(document), reason)
        else:
            yield Row(number, values)


def _start(document: object) -> str:
    return str(document)[:2000].encode("utf-8", "replace").decode().replace("\0", "�")


def nested_table(
    format_: FileFormat,
    rows: Callable[[], Iterator[Row | BadRow]],
    *,
    name: str,
    no_record: str,
    columns: tuple[str, ...] = (),
    expected_rows: int = 0,
) -> Table:
    """Return a table of rows whose columns are found by walking all of them, unless they are known already.

    Raises InputError with ``no_record`` if there is no readable row, and if there are more columns than can be mapped.
    """
    if not columns:
        found: dict[str, None] = {}
        expected_rows = 0
        for row in rows():
            expected_rows += 1
            if isinstance(row, Row):
                found.update(dict.fromkeys(row.values))
            if len(found) > MOST_COLUMNS:
                raise InputError(
                    f"more than {MOST_COLUMNS} different columns cannot be read", file=name, row=row.number
                )
        columns = tuple(found)
    if not columns:
        raise InputError(no_record, file=name)

    def cells() -> Iterator[Cells | BadRow]:
        for row in rows():
            yield row if isinstance(row, BadRow) else (row.number, [row.values.get(column, "") for column in columns])

    return Table(format_, columns, cells, expected_rows)
