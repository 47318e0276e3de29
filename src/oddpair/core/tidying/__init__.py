"""Tidying: from delivered values to tidy values, the same way for one record on a screen and for a million in a run."""

from .bulk import Progress, tidy_records, tidy_row, tidy_rows
from .tidiers import tidy_fields

__all__ = ["Progress", "tidy_fields", "tidy_records", "tidy_row", "tidy_rows"]
