"""Names of people: given and family names, suffixes, short forms."""

from .names import PersonName, parse_person_name, parse_person_names, short_form_groups

__all__ = ["PersonName", "parse_person_name", "parse_person_names", "short_form_groups"]
