"""The rows of a file that asks for counterparts: read with all their columns, as records and as they stand."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from ...core.fields import Layout
from ...core.mapping import Mapping
from ...core.records import RecordSet, RecordSetBuilder
from ...files import AcceptedCells, RejectedRow, Table, field_values, intake_cells, open_table
from .read_files import mapping_for


@dataclass(frozen=True, slots=True)
class AskingRows:
    """A file's ``columns`` and accepted rows (record id and cells) in the order of the file, its records, and the rows set aside."""

    columns: tuple[str, ...]
    rows: AcceptedCells
    records: RecordSet
    rejected: tuple[RejectedRow, ...]
    mapping: Mapping

    def cells(self, row: Sequence[str]) -> dict[str, str]:
        """Return the filled cells of a row by column."""
        return {column: cell for column, cell in zip(self.columns, row, strict=True) if cell}


def read_asking(
    path: Path, layout: Layout, *, source: str, map_document: object = None, mapping: Mapping | None = None
) -> AskingRows:
    """Return all rows of a file, mapped onto a layout as said, else as proposed; raise InputError or MappingInvalid."""
    table = open_table(path)
    chosen = mapping if mapping is not None else mapping_for(path, table, layout, map_document)
    return asking_rows(table, chosen, source)


def asking_rows(table: Table, mapping: Mapping, source: str) -> AskingRows:
    """Return all rows of an opened table, as records of one ``source``."""
    builder = RecordSetBuilder()
    rows: AcceptedCells = []
    rejected = []
    for part in intake_cells(table, mapping):
        if isinstance(part, RejectedRow):
            rejected.append(part)
            continue
        builder.add_many(source, [record_id for record_id, _ in part], field_values(table.columns, mapping, part))
        rows += part
    return AskingRows(table.columns, rows, builder.build(), tuple(rejected), mapping)
