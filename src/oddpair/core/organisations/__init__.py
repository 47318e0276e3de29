"""Organisation names: their words, legal form and site markers."""

from .names import OrganisationName, common_words, parse_organisation_name, parse_organisation_names

__all__ = ["OrganisationName", "common_words", "parse_organisation_name", "parse_organisation_names"]
