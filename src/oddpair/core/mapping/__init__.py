"""Column mapping: which delivered column is which field."""

from .mapping import (
    ID_TARGET,
    Assignment,
    Mapping,
    apply_mapping,
    assignment_from,
    constants,
    field_columns,
    id_column,
    mapping_from_columns,
    mapping_from_document,
    place_labels,
    validate_mapping,
)
from .propose import ColumnSample, Proposal, propose_mapping, proposed_mapping

__all__ = [
    "ID_TARGET", "Assignment", "ColumnSample", "Mapping", "Proposal", "apply_mapping", "assignment_from", "constants",
    "field_columns", "id_column", "mapping_from_columns", "mapping_from_document", "place_labels", "propose_mapping",
    "proposed_mapping",    "validate_mapping",
]  # fmt: skip
