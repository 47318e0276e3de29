"""From the rows of a file to source records: the mapping applied, and every row accounted for."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..core.mapping import ID_TARGET, apply_mapping
from .table import BadRow, Row, Table

_NAMES = frozenset({"name", "name.given", "name.family"})


@dataclass(frozen=True, slots=True)
class AcceptedRow:
    """A row that became a source record: its id, the delivered cells, and the mapped fields."""

    number: int
    record_id: str
    delivered: dict[str, str]
    fields: dict[str, str]


@dataclass(frozen=True, slots=True)
class RejectedRow:
    """A row set aside, with row, column and reason; ``value`` is what stands there."""

    number: int
    column: str
    value: str
    reason: str


def intake(table: Table, mapping: Mapping[str, str]) -> Iterator[AcceptedRow | RejectedRow]:
    """Yield one accepted or rejected row for every row of the file that is not blank.

    Rejected are rows the reader could not read, rows without an id (where a column is mapped to it), rows whose id has
    come before, and rows without any name. Without an id column the row's number serves as id.
    """
    id_column = next((column for column, target in mapping.items() if target == ID_TARGET), "")
    name_columns = [column for column, target in mapping.items() if target == "name" or target.startswith("name.")]
    seen: dict[str, int] = {}
    for row in table.rows():
        if isinstance(row, BadRow):
            yield RejectedRow(row.number, row.column, row.value, row.reason)
            continue
        record_id, fields = apply_mapping(mapping, row.values)
        record_id = record_id if id_column else str(row.number)
        if not record_id:
            yield _rejected(row, id_column, "the id is missing")
        elif record_id in seen:
            yield _rejected(row, id_column, f"the id '{record_id}' stands in row {seen[record_id]} already")
        elif _NAMES.isdisjoint(fields):
            yield _rejected(row, name_columns[0] if name_columns else "", "the name is missing")
        else:
            seen[record_id] = row.number
            yield AcceptedRow(row.number, record_id, row.values, fields)


def _rejected(row: Row, column: str, reason: str) -> RejectedRow:
    return RejectedRow(row.number, column, " | ".join(row.values.values())[:2000], reason)
