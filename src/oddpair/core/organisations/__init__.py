"""Organisation names: their words, legal form and site markers."""

from .names import OrganisationName, parse_organisation_name

__all__ = ["OrganisationName", "parse_organisation_name"]
