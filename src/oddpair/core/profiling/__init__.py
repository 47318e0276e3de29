"""Profiling: what a column of values looks like, so that a person understands it before anything is compared."""

from .column import ColumnProfile, ColumnProfiler, ValueCount
from .oddities import ODDITIES, oddities_of
from .shapes import LONGEST_SHAPE, SHAPE_FROM, SHAPE_TO, shape_of
from .validity import CHECKED_KINDS, countries_with_check_digits, is_valid

__all__ = [
    "CHECKED_KINDS", "LONGEST_SHAPE", "ODDITIES", "SHAPE_FROM", "SHAPE_TO", "ColumnProfile", "ColumnProfiler", "ValueCount",
    "countries_with_check_digits", "is_valid", "oddities_of", "shape_of",
]  # fmt: skip
