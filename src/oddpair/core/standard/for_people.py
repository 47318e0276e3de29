"""Values as people read them, made from the standard form: telephones in international notation, countries by name."""

from collections.abc import Mapping
from functools import lru_cache

import phonenumbers

from ..addresses import country_name
from ..fields import FieldKind, Layout


def for_people(layout: Layout, values: Mapping[str, str]) -> dict[str, str]:
    """Return values with telephones in international notation (ITU-T E.123) and countries by their English names."""
    kinds = {field.name: field.kind for field in layout.fields}
    return {name: _written(kinds.get(name), value) for name, value in values.items()}


def _written(kind: FieldKind | None, value: str) -> str:
    if kind is FieldKind.PHONE:
        return readable_phone(value)
    return country_name(value) or value if kind is FieldKind.COUNTRY else value


@lru_cache(maxsize=50_000)
def readable_phone(number: str) -> str:
    """Return a number in E.164, with an extension as RFC 3966 writes it or without, in international notation; others as they are.

    >>> readable_phone("+441632960704;ext=7")
    '+44 1632 960704 ext. 7'
    """
    digits, _, extension = number.partition(";ext=")
    if not digits.startswith("+"):
        return number
    try:
        parsed = phonenumbers.parse(digits)
    except phonenumbers.NumberParseException:
        return number
    written = phonenumbers.format_number(parsed, phonenumbers.PhoneNumberFormat.INTERNATIONAL)
    return f"{written} ext. {extension}" if extension else written
