"""Survivorship: which value wins in a golden record, and why."""

from .columns import golden_columns
from .members import Contributor, Survivor
from .rules import (
    RULE_SETS,
    Rules,
    chain_in_words,
    default_rules,
    golden_rows,
    golden_values,
    rules_document,
    rules_from,
    rules_that_fit,
)
from .steps import RULES

__all__ = [
    "RULES",
    "RULE_SETS",
    "Contributor",
    "Rules",
    "Survivor",
    "chain_in_words",
    "default_rules",
    "golden_columns",
    "golden_rows",
    "golden_values",
    "rules_document",
    "rules_from",
    "rules_that_fit",
]
