"""Survivorship: which value wins in a golden record, and why."""

from .columns import golden_columns
from .contradictions import contradicting_fields, contradictions
from .further_values import HeldValue, all_values
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
    "HeldValue",
    "Rules",
    "Survivor",
    "all_values",
    "chain_in_words",
    "contradicting_fields",
    "contradictions",
    "default_rules",
    "golden_columns",
    "golden_rows",
    "golden_values",
    "rules_document",
    "rules_from",
    "rules_that_fit",
]
