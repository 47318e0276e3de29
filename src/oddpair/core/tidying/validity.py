"""Whether a field's value is what its kind asks for, told from what tidying made of it."""

from collections.abc import Iterable, Mapping

from ..addresses.postcodes import fits
from ..contacts.identifiers import tax_number_rules
from ..fields import Field, FieldKind

#: Kinds that can be told to be invalid: the tidy value is missing where the delivered one is none of its kind.
CHECKED_KINDS = frozenset(
    {
        FieldKind.PHONE,
        FieldKind.EMAIL,
        FieldKind.WEB_SITE,
        FieldKind.DATE,
        FieldKind.POSTCODE,
        FieldKind.COUNTRY,
        FieldKind.IDENTIFIER,
    }
)


def is_valid(field: Field, tidy: Mapping[str, str]) -> bool:
    """Whether the delivered value of a filled field is valid, as far as can be told.

    A postcode must have a form of its country where the country is known, an identifier the check digits of its country.
    """
    value = tidy.get(field.name, "")
    if not value:
        return False
    country = tidy.get("address.country", "")
    if field.kind is FieldKind.POSTCODE:
        return not country or fits(value, country)
    if field.kind is FieldKind.IDENTIFIER and country and tax_number_rules(country) is not None:
        return bool(tidy.get(f"{field.name}.checked"))
    return True


def countries_with_check_digits(countries: Iterable[str]) -> list[str]:
    """Return those of the countries whose tax numbers have check digits."""
    return sorted(country for country in countries if tax_number_rules(country) is not None)
