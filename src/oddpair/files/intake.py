"""From the rows of a file to source records: the mapping applied, and every row accounted for."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import islice

from ..core.mapping import ID_TARGET, apply_mapping, field_columns
from .table import BadRow, Row, Table

_NAMES = frozenset({"name", "name.given", "name.family"})
_ROWS_AT_ONCE = 20_000


@dataclass(frozen=True, slots=True)
class AcceptedRow:
    """A row that became a source record: its id, the delivered cells, and the mapped fields."""

    number: int
    record_id: str
    delivered: dict[str, str]
    fields: dict[str, str]


@dataclass(frozen=True, slots=True)
class RejectedRow:
    """A row set aside, with row, column and reason; ``value`` is what stands there.

    ``cells`` are its cells by column where they could be told apart, so that a person can mend them.
    """

    number: int
    column: str
    value: str
    reason: str
    cells: dict[str, str] | None = None


@dataclass(frozen=True, slots=True)
class AcceptedColumns:
    """Rows that became source records, by columns: their ids and, per mapped field, one value each ("" if missing)."""

    ids: list[str]
    columns: dict[str, list[str]]


def intake(table: Table, mapping: Mapping[str, str]) -> Iterator[AcceptedRow | RejectedRow]:
    """Yield one accepted or rejected row for every row of the file that is not blank.

    Rejected are rows the reader could not read, rows without an id (where a column is mapped to it), rows whose id has
    come before, and rows without any name. Without an id column the row's number serves as id.
    """
    id_column = next((column for column, target in mapping.items() if target == ID_TARGET), "")
    seen: dict[str, int] = {}
    for row in table.rows():
        if isinstance(row, BadRow):
            yield RejectedRow(row.number, row.column, row.value, row.reason, row.cells)
            continue
        record_id, fields = apply_mapping(mapping, row.values)
        record_id = record_id if id_column else str(row.number)
        if record_id and record_id not in seen and not _NAMES.isdisjoint(fields):
            seen[record_id] = row.number
            yield AcceptedRow(row.number, record_id, row.values, fields)
        else:
            yield _rejected(row, record_id, seen, mapping)


def _rejected(row: Row, record_id: str, seen: Mapping[str, int], mapping: Mapping[str, str]) -> RejectedRow:
    """Say why a row that could be read is no source record."""
    if not record_id:
        wrong, reason = {ID_TARGET}, "the id is missing"
    elif record_id in seen:
        wrong, reason = {ID_TARGET}, f"the id '{record_id}' stands in row {seen[record_id]} already"
    else:
        wrong, reason = set(_NAMES), "the name is missing"
    column = next((column for column, target in mapping.items() if target in wrong), "")
    return RejectedRow(row.number, column, " | ".join(row.values.values())[:2000], reason, row.values)


def intake_columns(table: Table, mapping: Mapping[str, str]) -> Iterator[AcceptedColumns | RejectedRow]:
    """Yield what ``intake`` yields, many accepted rows at a time by columns: quicker where delivered cells are not kept."""
    place_of = {column: place for place, column in enumerate(table.columns)}
    fields = {field: place_of[column] for column, field in field_columns(mapping).items() if column in place_of}
    id_place = next((place_of[column] for column, target in mapping.items() if target == ID_TARGET), None)
    names = [place for target, place in fields.items() if target in _NAMES]
    seen: dict[str, int] = {}
    rows = table.cells()
    while batch := list(islice(rows, _ROWS_AT_ONCE)):
        accepted: list[tuple[str, list[str]]] = []
        for row in batch:
            if isinstance(row, BadRow):
                yield RejectedRow(row.number, row.column, row.value, row.reason, row.cells)
                continue
            number, cells = row
            record_id = str(number) if id_place is None else cells[id_place]
            if record_id and record_id not in seen and any(cells[place] for place in names):
                seen[record_id] = number
                accepted.append((record_id, cells))
                continue
            whole = Row(number, {column: cell for column, cell in zip(table.columns, cells, strict=True) if cell})
            yield _rejected(whole, record_id, seen, mapping)
        yield AcceptedColumns(
            [record_id for record_id, _ in accepted],
            {field: [cells[place] for _, cells in accepted] for field, place in fields.items()},
        )
