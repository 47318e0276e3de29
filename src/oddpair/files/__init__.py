"""Readers and writers of open formats; rows in and out, errors by file, row and column."""

from .intake import AcceptedRow, RejectedRow, intake
from .open_table import open_table
from .table import BadRow, FileFormat, Row, Table

__all__ = ["AcceptedRow", "BadRow", "FileFormat", "RejectedRow", "Row", "Table", "intake", "open_table"]
