"""Names of people: given and family names, suffixes, short forms."""

from .in_order import given_name_first
from .names import (
    GivenNameForms,
    PersonName,
    given_name_forms,
    is_birth_name_marker,
    is_particle,
    is_suffix,
    is_title,
    parse_person_name,
    parse_person_names,
)

__all__ = [
    "GivenNameForms", "PersonName", "given_name_first", "given_name_forms", "is_birth_name_marker", "is_particle", "is_suffix", "is_title",
    "parse_person_name", "parse_person_names",
]  # fmt: skip
