"""Survivorship: which value wins in a golden record, and why."""

from .columns import golden_columns
from .rules import (
    RULES,
    Contributor,
    Survivor,
    default_rules,
    golden_rows,
    golden_values,
    validate_rules,
)

__all__ = [
    "RULES",
    "Contributor",
    "Survivor",
    "default_rules",
    "golden_columns",
    "golden_rows",
    "golden_values",
    "validate_rules",
]
