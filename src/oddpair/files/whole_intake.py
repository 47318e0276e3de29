"""From a CSV file read as a whole to source records: the same rows are accepted and set aside as row by row."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..core.mapping import Mapping, constants, continued, field_columns, id_column, join_continued
from ..core.records import Column, encode
from .csv_reader import read_row
from .intake import LONGEST_ID, NAMES, RejectedRow, filled_cells, rejected_row
from .table import BadRow, Table
from .whole_csv import WORTH_BYTES, WholeCsv, read_whole

Flags = npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class EncodedIntake:
    """Rows that became source records, by columns, and those that were set aside."""

    ids: list[str]
    columns: dict[str, Column]
    rejected: list[RejectedRow]


def intake_whole(table: Table, mapping: Mapping, *, worth_bytes: int = WORTH_BYTES) -> EncodedIntake | None:
    """Return the source records of a CSV file, or None where its rows have to be read one by one."""
    if table.path is None or table.format.kind != "csv":
        return None
    fields = field_columns(mapping)
    id_name = id_column(mapping)
    wanted = list(dict.fromkeys([*fields.values(), *([id_name] if id_name else [])]))
    whole = read_whole(table.path, table.format, table.columns, wanted, worth_bytes=worth_bytes)
    if whole is None or _has_wide_rows_that_lose_nothing(table, whole):
        return None
    ids = _ids(whole, id_name)
    named = np.zeros(len(whole.numbers), dtype=np.bool_)
    for field, column in fields.items():
        if field in NAMES:
            named |= whole.columns[column].codes >= 0
    accepted = _first_of_their_id(ids, named)
    rows = np.flatnonzero(accepted)
    taken = [ids[row] for row in rows.tolist()]
    columns = {
        field: Column(whole.columns[column].values, whole.columns[column].codes[rows])
        for field, column in fields.items()
    }
    for field, constant in constants(mapping).items():
        columns[field] = Column((constant,), np.zeros(len(rows), dtype=np.int32))
    seen = dict(zip(taken, whole.numbers[rows].tolist(), strict=True))
    return EncodedIntake(taken, _joined(mapping, columns), _rejected(table, mapping, whole, accepted, ids, seen))


def _joined(mapping: Mapping, columns: dict[str, Column]) -> dict[str, Column]:
    """Return columns with what goes on in the next one, where one is full, in one value."""
    fields = {field for first, second, _ in continued(mapping) for field in (first, second)}
    values = {field: [columns[field].at(row) for row in range(len(columns[field]))] for field in fields}
    join_continued(mapping, values)
    return columns | {field: encode(column) for field, column in values.items()}


def _has_wide_rows_that_lose_nothing(table: Table, whole: WholeCsv) -> bool:
    """Whether there are rows with empty cells beyond the header, which are as good as others."""
    rows = (read_row(number, table.columns, whole.line(number), table.format) for number in whole.odd)
    return any(row is not None and not isinstance(row, BadRow) for row in rows)


def _ids(whole: WholeCsv, id_name: str) -> list[str]:
    """Return the id of every row: its own, or the number of the row where no column holds one."""
    if not id_name:
        return [str(number) for number in whole.numbers.tolist()]
    column = whole.columns[id_name]
    values = (*column.values, "")
    return [values[code] for code in column.codes.tolist()]


def _first_of_their_id(ids: list[str], named: Flags) -> Flags:
    """Return which rows are accepted: those with a usable id and a name, the first of every id."""
    accepted = named.copy()
    seen: set[str] = set()
    for row in np.flatnonzero(named).tolist():
        record_id = ids[row]
        if not record_id or len(record_id) > LONGEST_ID or record_id in seen:
            accepted[row] = False
        else:
            seen.add(record_id)
    return accepted


def _rejected(
    table: Table, mapping: Mapping, whole: WholeCsv, accepted: Flags, ids: list[str], seen: dict[str, int]
) -> list[RejectedRow]:
    """Return the rows that are set aside, in the order of the file, each read by itself; blank ones are none."""
    set_aside: list[RejectedRow] = []
    of_row = dict(zip(whole.numbers[~accepted].tolist(), np.flatnonzero(~accepted).tolist(), strict=True))
    for number in sorted([*of_row, *whole.odd]):
        row = read_row(number, table.columns, whole.line(number), table.format)
        if row is None:
            continue
        if isinstance(row, BadRow):
            set_aside.append(RejectedRow(row.number, row.column, row.value, row.reason, row.cells))
            continue
        record_id = ids[of_row[number]]
        before = {record_id: seen[record_id]} if seen.get(record_id, number) < number else {}
        set_aside.append(rejected_row(number, filled_cells(table.columns, row[1]), record_id, before, mapping))
    return set_aside
