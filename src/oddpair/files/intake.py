"""From the rows of a file to source records: the mapping applied, and every row accounted for."""

from collections.abc import Iterator, Sequence
from collections.abc import Mapping as Rows
from dataclasses import dataclass
from itertools import islice

from ..core.mapping import (
    ID_TARGET,
    Mapping,
    apply_mapping,
    constants,
    field_columns,
    id_column,
    join_continued,
)
from .table import BadRow, Table

#: Fields without any of which a row is no record.
NAMES = frozenset({"name", "name.given", "name.family"})
ROWS_AT_ONCE = 20_000
#: A longer id, in letters, is none.
LONGEST_ID = 500
#: Why rows are set aside; pages count rows by these.
ID_MISSING, NAME_MISSING = "the id is missing", "the name is missing"
ID_REPEATED = "the id '{id}' stands in {where} already"


@dataclass(frozen=True, slots=True)
class AcceptedRow:
    """A row that became a source record: its id, the delivered cells, and the mapped fields."""

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


#: Accepted rows as they stand in the file: the record's id, and one cell per column.
AcceptedCells = list[tuple[str, Sequence[str]]]


def intake_cells(
    table: Table, mapping: Mapping, rows_at_once: int = ROWS_AT_ONCE
) -> Iterator[AcceptedCells | RejectedRow]:
    """Yield accepted rows, many at a time, and rejected ones: each row of the file that is not blank is in one of them.

    Rejected are rows the reader could not read, rows without an id (where a column is mapped to it), rows whose id has
    come before, and rows without any name. Without an id column the row's number serves as id.
    """
    place_of = {column: place for place, column in enumerate(table.columns)}
    id_place = place_of.get(id_column(mapping))
    names = sorted({place_of[column] for field, column in field_columns(mapping).items() if field in NAMES})
    seen: dict[str, int] = {}
    rows = table.cells()
    while batch := list(islice(rows, rows_at_once)):
        accepted: AcceptedCells = []
        for row in batch:
            if isinstance(row, BadRow):
                yield RejectedRow(row.number, row.column, row.value, row.reason, row.cells)
                continue
            number, cells = row
            record_id = str(number) if id_place is None else cells[id_place]
            usable = 0 < len(record_id) <= LONGEST_ID and record_id not in seen
            if usable and any(cells[place] for place in names):
                seen[record_id] = number
                accepted.append((record_id, cells))
            else:
                yield rejected_row(number, filled_cells(table.columns, cells), record_id, seen, mapping)
        if accepted:
            yield accepted


def filled_cells(columns: Sequence[str], cells: Sequence[str]) -> dict[str, str]:
    """Return the filled cells of a row by column."""
    return {column: cell for column, cell in zip(columns, cells, strict=True) if cell}


def rejected_row(
    number: int, cells: dict[str, str], record_id: str, seen: Rows[str, int], mapping: Mapping
) -> RejectedRow:
    """Say why a row that could be read is no source record."""
    column, reason = why_rejected(record_id, f"row {seen[record_id]}" if record_id in seen else "", mapping)
    return RejectedRow(number, column, " | ".join(cells.values())[:2000], reason, cells)


def why_rejected(record_id: str, stands_in: str, mapping: Mapping) -> tuple[str, str]:
    """Return (column, reason) for a row that lacks an id or a name, or whose id ``stands_in`` another row already."""
    if not record_id:
        wrong, reason = {ID_TARGET}, ID_MISSING
    elif len(record_id) > LONGEST_ID:
        wrong, reason = {ID_TARGET}, f"the id has {len(record_id)} letters, more than {LONGEST_ID}"
    elif stands_in:
        wrong, reason = {ID_TARGET}, ID_REPEATED.format(id=record_id, where=stands_in)
    else:
        wrong, reason = set(NAMES), NAME_MISSING
    return next((item.column for item in mapping if item.field in wrong), ""), reason


def has_name(fields: Rows[str, str]) -> bool:
    """Whether mapped fields hold any part of a name, without which a record cannot be matched."""
    return not NAMES.isdisjoint(fields)


def intake(table: Table, mapping: Mapping) -> Iterator[AcceptedRow | RejectedRow]:
    """Yield what ``intake_cells`` yields, row by row and with its fields."""
    for part in intake_cells(table, mapping):
        if isinstance(part, RejectedRow):
            yield part
            continue
        for record_id, cells in part:
            delivered = filled_cells(table.columns, cells)
            yield AcceptedRow(record_id, delivered, apply_mapping(mapping, delivered)[1])


def field_values(columns: Sequence[str], mapping: Mapping, rows: AcceptedCells) -> dict[str, list[str]]:
    """Return, per place of a field, its value in each of the rows ("" if missing)."""
    place_of = {column: place for place, column in enumerate(columns)}
    places = {field: place_of[column] for field, column in field_columns(mapping).items() if column in place_of}
    values = {field: [cells[place] for _, cells in rows] for field, place in places.items()}
    join_continued(mapping, values)
    return {**values, **{field: [constant] * len(rows) for field, constant in constants(mapping).items()}}


def intake_columns(table: Table, mapping: Mapping) -> Iterator[AcceptedColumns | RejectedRow]:
    """Yield what ``intake_cells`` yields by columns: quicker where delivered cells are not kept."""
    for part in intake_cells(table, mapping):
        if isinstance(part, RejectedRow):
            yield part
        else:
            yield AcceptedColumns([record_id for record_id, _ in part], field_values(table.columns, mapping, part))
