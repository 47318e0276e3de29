"""Column mapping: which delivered column is which field."""

from .mapping import ID_TARGET, Mapping, apply_mapping, field_columns, mapping_from_document, validate_mapping
from .propose import ColumnSample, Proposal, propose_mapping

__all__ = [
    "ID_TARGET", "ColumnSample", "Mapping", "Proposal", "apply_mapping", "field_columns", "mapping_from_document",
    "propose_mapping", "validate_mapping",
]  # fmt: skip
