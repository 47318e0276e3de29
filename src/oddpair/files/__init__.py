"""Readers and writers of open formats; rows in and out, errors by file, row and column."""

from .intake import AcceptedColumns, AcceptedRow, RejectedRow, intake, intake_columns
from .open_table import open_table
from .table import BadRow, FileFormat, Reading, Row, Table

__all__ = [
    "AcceptedColumns", "AcceptedRow", "BadRow", "FileFormat", "Reading", "RejectedRow", "Row", "Table",
    "intake", "intake_columns", "open_table",
]  # fmt: skip
