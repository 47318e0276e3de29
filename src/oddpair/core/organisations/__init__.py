"""Organisation names: their words, legal form and site markers."""

from .names import (
    OrganisationName,
    common_words,
    legal_form_words,
    parse_organisation_name,
    parse_organisation_names,
    without_native_forms,
)
from .remarks import without_remarks

__all__ = [
    "OrganisationName", "common_words", "legal_form_words", "parse_organisation_name", "parse_organisation_names", "without_native_forms",
    "without_remarks",
]  # fmt: skip
