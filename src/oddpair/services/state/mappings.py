"""Column mappings as they are kept in the database."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict

from ...core.mapping import Assignment, assignment_from


def mapping_of(document: Sequence[Mapping[str, str]]) -> tuple[Assignment, ...]:
    """Return a mapping as it is kept in the database."""
    return tuple(assignment_from(item) for item in document)


def mapping_document(mapping: Sequence[Assignment]) -> list[dict[str, str]]:
    """Return a mapping as it is kept in the database: what is empty is left out."""
    return [{key: value for key, value in asdict(item).items() if value} for item in mapping]
