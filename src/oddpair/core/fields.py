"""Field kinds and layouts: what a register's records consist of."""

from dataclasses import dataclass
from enum import StrEnum

from .errors import NotFound


class RegisterKind(StrEnum):
    """What a register's records stand for."""

    ORGANISATION = "organisation"
    PERSON = "person"


class FieldKind(StrEnum):
    """What sort of value a field holds; decides how it is tidied and compared."""

    ORGANISATION_NAME = "organisation name"
    PERSON_NAME = "person name"
    GIVEN_NAME = "given name"
    FAMILY_NAME = "family name"
    ADDRESS = "address"
    CITY = "city"
    POSTCODE = "postcode"
    REGION = "region"
    COUNTRY = "country"
    PHONE = "phone"
    EMAIL = "email"
    WEB_SITE = "web site"
    IDENTIFIER = "identifier"
    DATE = "date"
    CATEGORY = "category"
    TEXT = "text"


@dataclass(frozen=True, slots=True)
class Field:
    """One field of a layout.

    ``group`` names fields that win or lose as a whole in a golden record (the parts of one address, of one name).
    """

    name: str
    kind: FieldKind
    label: str
    group: str = ""

    @property
    def survivor_group(self) -> str:
        """Return the name of the unit in which this field survives."""
        return self.group or self.name


@dataclass(frozen=True, slots=True)
class Layout:
    """The fields of a register, in the order in which people see them."""

    kind: RegisterKind
    fields: tuple[Field, ...]

    @property
    def names(self) -> tuple[str, ...]:
        """Return the field names in order."""
        return tuple(field.name for field in self.fields)

    @property
    def groups(self) -> dict[str, tuple[Field, ...]]:
        """Return the survivor groups in order, each with its fields."""
        groups: dict[str, tuple[Field, ...]] = {}
        for field in self.fields:
            groups[field.survivor_group] = (*groups.get(field.survivor_group, ()), field)
        return groups

    def field(self, name: str) -> Field:
        """Return the field of that name; raise NotFound."""
        for field in self.fields:
            if field.name == name:
                return field
        raise NotFound("field", name)


_ADDRESS_AND_CONTACT = (
    Field("address.line", FieldKind.ADDRESS, "Street or whole address", "address"),
    Field("address.number", FieldKind.TEXT, "House number", "address"),
    Field("address.line2", FieldKind.ADDRESS, "Second address line", "address"),
    Field("address.city", FieldKind.CITY, "Town", "address"),
    Field("address.postcode", FieldKind.POSTCODE, "Postcode", "address"),
    Field("address.region", FieldKind.REGION, "Region", "address"),
    Field("address.country", FieldKind.COUNTRY, "Country", "address"),
    Field("phone", FieldKind.PHONE, "Phone"),
    Field("email", FieldKind.EMAIL, "E-mail"),
)

_LAYOUTS = {
    RegisterKind.ORGANISATION: Layout(
        RegisterKind.ORGANISATION,
        (
            Field("name", FieldKind.ORGANISATION_NAME, "Name"),
            *_ADDRESS_AND_CONTACT,
            Field("web_site", FieldKind.WEB_SITE, "Web site"),
            Field("tax_number", FieldKind.IDENTIFIER, "Tax number"),
            Field("updated_on", FieldKind.DATE, "Updated on"),
        ),
    ),
    RegisterKind.PERSON: Layout(
        RegisterKind.PERSON,
        (
            Field("name", FieldKind.PERSON_NAME, "Full name", "name"),
            Field("name.given", FieldKind.GIVEN_NAME, "Given name", "name"),
            Field("name.middle", FieldKind.GIVEN_NAME, "Middle name", "name"),
            Field("name.family", FieldKind.FAMILY_NAME, "Family name", "name"),
            Field("name.suffix", FieldKind.TEXT, "Name suffix", "name"),
            *_ADDRESS_AND_CONTACT,
            Field("birth_date", FieldKind.DATE, "Birth date"),
            Field("identifier", FieldKind.IDENTIFIER, "Personal number"),
            Field("boat", FieldKind.TEXT, "Boat"),
            Field("updated_on", FieldKind.DATE, "Updated on"),
        ),
    ),
}

#: The field that says how fresh a record is; survivorship rule "newest" reads it.
FRESHNESS_FIELD = "updated_on"


def default_layout(kind: RegisterKind) -> Layout:
    """Return the layout that a new register of ``kind`` starts with."""
    return _LAYOUTS[kind]
