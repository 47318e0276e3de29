"""Column mapping: which delivered column is which field."""

from .mapping import (
    ID_TARGET,
    Assignment,
    Mapping,
    apply_mapping,
    assignment_from,
    constants,
    continued,
    field_columns,
    id_column,
    join_continued,
    mapping_from_columns,
    mapping_from_document,
    place_labels,
    validate_mapping,
)
from .propose import propose_mapping, proposed_mapping, with_names_that_go_on
from .samples import ColumnSample, Proposal

__all__ = [
    "ID_TARGET", "Assignment", "ColumnSample", "Mapping", "Proposal", "apply_mapping", "assignment_from", "constants", "continued",
    "field_columns", "id_column", "join_continued", "mapping_from_columns", "mapping_from_document", "place_labels", "propose_mapping",
    "proposed_mapping", "validate_mapping", "with_names_that_go_on",
]  # fmt: skip
