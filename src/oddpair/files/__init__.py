"""Readers and writers of open formats; rows in and out, errors by file, row and column."""

from .intake import (
    ID_MISSING,
    ID_REPEATED,
    LONGEST_ID,
    NAME_MISSING,
    AcceptedCells,
    AcceptedColumns,
    AcceptedRow,
    RejectedRow,
    field_values,
    filled_cells,
    has_name,
    intake,
    intake_cells,
    intake_columns,
    why_rejected,
)
from .joined_records import joined_records
from .open_table import open_table
from .table import BadRow, FileFormat, Reading, Row, Table
from .whole_intake import intake_whole

__all__ = [
    "ID_MISSING", "ID_REPEATED", "LONGEST_ID", "NAME_MISSING",
    "AcceptedCells", "AcceptedColumns", "AcceptedRow", "BadRow", "FileFormat", "Reading", "RejectedRow", "Row", "Table",
    "field_values", "filled_cells", "has_name", "intake", "intake_cells", "intake_columns", "intake_whole", "joined_records", "open_table",
    "why_rejected",
]  # fmt: skip
