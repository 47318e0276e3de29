"""Names of people: given and family names, suffixes, short forms."""

from .names import PersonName, parse_person_name, short_form_groups

__all__ = ["PersonName", "parse_person_name", "short_form_groups"]
