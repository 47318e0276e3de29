"""Profiling: what a column of values looks like, so that a person understands it before anything is compared."""

from ..tidying.validity import CHECKED_KINDS, countries_with_check_digits, is_valid
from .column import ColumnProfile, ColumnProfiler, ValueCount
from .oddities import ODDITIES, oddities_of
from .rules import RULE_KINDS, QualityRule, rules_from
from .shapes import LONGEST_SHAPE, SHAPE_FROM, SHAPE_TO, shape_of

__all__ = [
    "CHECKED_KINDS", "LONGEST_SHAPE", "ODDITIES", "RULE_KINDS", "SHAPE_FROM", "SHAPE_TO", "ColumnProfile",
    "ColumnProfiler", "QualityRule", "ValueCount", "countries_with_check_digits", "is_valid", "oddities_of", "rules_from",
    "shape_of",
]  # fmt: skip
