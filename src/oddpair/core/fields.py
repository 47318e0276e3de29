"""Field kinds and layouts: what a register's records consist of."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from .errors import InputError, NotFound


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
    NUMBER = "number"
    CATEGORY = "category"
    REFERENCE = "reference"
    TEXT = "text"


@dataclass(frozen=True, slots=True)
class Field:
    """One field of a layout.

    ``group`` names fields that win or lose as a whole in a golden record (the parts of one address, of one name).
    ``register`` is the short name of the register that a reference leads to.
    """

    name: str
    kind: FieldKind
    label: str
    group: str = ""
    register: str = ""

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


_NAME = re.compile(r"[a-z][a-z0-9_]{0,39}")
_LONGEST_LABEL = 60
_MOST_ADDED = 100


def added_fields(layout: Layout) -> tuple[Field, ...]:
    """Return the fields that a layout has beyond those of its kind."""
    known = set(default_layout(layout.kind).names)
    return tuple(field for field in layout.fields if field.name not in known)


def layout_from(kind: RegisterKind, document: Sequence[Mapping[str, str]]) -> Layout:
    """Return the layout that a document says: labels of the usual fields, and fields added to them, each with name, label, kind.

    Raises InputError naming the field. Fields of the kind stay in their places, whatever the document says of them.
    """
    labels: dict[str, str] = {}
    added: list[Field] = []
    usual = default_layout(kind)
    taken = set(usual.names) | {name.partition(".")[0] for name in usual.names}
    for entry in document:
        name, label = entry.get("name", ""), " ".join(entry.get("label", "").split())
        if not label or len(label) > _LONGEST_LABEL:
            raise InputError(f"a label has one to {_LONGEST_LABEL} letters", column=name or label)
        if name in usual.names:
            labels[name] = label
            continue
        if not _NAME.fullmatch(name):
            raise InputError(
                "a name begins with a small letter and holds up to 40 small letters, digits and _", column=name or label
            )
        if name in taken:
            raise InputError("there is a field of this name already", column=name)
        taken.add(name)
        try:
            added.append(_added_field(name, FieldKind(entry.get("kind", "")), label, entry.get("register", "")))
        except ValueError as error:
            kinds = ", ".join(kind.value for kind in FieldKind)
            raise InputError(f"'{entry.get('kind', '')}' is no kind of field, only {kinds}", column=name) from error
    if len(added) > _MOST_ADDED:
        raise InputError(f"a layout takes at most {_MOST_ADDED} fields beyond the usual ones")
    fields = tuple(replace(field, label=labels.get(field.name, field.label)) for field in usual.fields)
    return Layout(kind, (*fields, *added))


def _added_field(name: str, kind: FieldKind, label: str, register: str) -> Field:
    if (kind is FieldKind.REFERENCE) != bool(register):
        problem = (
            "a reference must name the register it leads to" if not register else "only a reference leads to a register"
        )
        raise InputError(problem, column=name)
    return Field(name, kind, label, register=register)


def layout_document(layout: Layout) -> list[dict[str, str]]:
    """Return what has to be kept of a layout: changed labels and added fields."""
    usual = {field.name: field for field in default_layout(layout.kind).fields}
    return [
        {
            "name": field.name,
            "label": field.label,
            "kind": field.kind.value,
            **({"register": field.register} if field.register else {}),
        }
        for field in layout.fields
        if field.name not in usual or usual[field.name].label != field.label
    ]
