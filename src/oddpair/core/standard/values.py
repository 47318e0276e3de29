"""The standard form of a record's values, field by field; names and addresses as wholes."""

from collections.abc import Callable, Mapping
from functools import lru_cache

from ..addresses import country_code
from ..contacts.dates import tidy_date
from ..contacts.identifiers import tidy_identifier
from ..contacts.phones import phone_extension, tidy_phone
from ..fields import Field, FieldKind, Layout
from .addresses import standard_address
from .letters import proper_case, proper_name
from .people import standard_person_name

#: In which form golden values are given.
AS_DELIVERED, STANDARD = FORMS = ("as delivered", "standard")
Values = Mapping[str, str]
_Pairs = tuple[tuple[str, str], ...]
_MOST_TIMES = 4
#: The field that says which country's numbers a record's are.
COUNTRY = "address.country"
_NOWHERE: Values = {}


def standard_values(layout: Layout, values: Values, countries: Values = _NOWHERE) -> dict[str, str]:
    """Return the values of a record in standard form, made from what was delivered and nothing else; what is not understood stays.

    The standard form of a standard form is itself. ``countries`` says, by field, which country's a number is where the record itself
    gives none.
    """
    standard: dict[str, str] = {}
    for fields in _units(layout):
        country = values.get(COUNTRY) or countries.get(fields[0].name, "")
        standard.update(standard_unit(fields, values, country))
    return standard


@lru_cache(maxsize=64)
def _units(layout: Layout) -> tuple[tuple[Field, ...], ...]:
    return tuple(layout.groups.values())


def standard_unit(fields: tuple[Field, ...], values: Values, country: str) -> dict[str, str]:
    """Return the values of one unit in standard form; ``country`` is what the record gives as its country."""
    if len(fields) == 1:
        text = " ".join(values.get(fields[0].name, "").split())
        return {fields[0].name: _value(fields[0].kind, text, country)} if text else {}
    own = tuple((field.name, text) for field in fields if (text := " ".join(values.get(field.name, "").split())))
    return dict(_settled(fields, own, country)) if own else {}


def standard_alone(field: Field, text: str) -> str:
    """Return the value of a field that is a unit of its own, where it hangs on nothing else."""
    return _value(field.kind, " ".join(text.split()), "")


def _settled(fields: tuple[Field, ...], own: _Pairs, country: str) -> _Pairs:
    """Return what making the standard form again and again comes to; what never comes to rest is no name or address, and stays."""
    made = own
    for _ in range(_MOST_TIMES):
        before, made = made, _unit(fields, made, country)
        if made == before:
            return made
        country = dict(made).get(COUNTRY, country)
    return own


def _unit(fields: tuple[Field, ...], own: _Pairs, country: str) -> _Pairs:
    kind = fields[0].kind
    if kind is FieldKind.PERSON_NAME:
        return tuple(standard_person_name(dict(own)).items())
    if kind is FieldKind.ADDRESS:
        return tuple(standard_address(dict(own)).items())
    kinds = {field.name: field.kind for field in fields}
    return tuple((name, _value(kinds[name], text, country)) for name, text in own)


def _value(kind: FieldKind, text: str, country: str) -> str:
    make = _BY_KIND.get(kind)
    return (make(text, country) or text) if make else text


def _phone(text: str, country: str) -> str:
    """Return the number as ITU-T E.164 has it, where its country is known, with its extension as RFC 3966 writes it."""
    number = tidy_phone(text.partition(";ext=")[0], country_code(country))
    if not number.startswith("+"):
        return text
    extension = text.partition(";ext=")[2] or phone_extension(text)
    return f"{number};ext={extension}" if extension else number


def _mailbox(text: str, country: str) -> str:
    """Return an address in small letters, which every provider of note takes for the same; a list stays as it is."""
    return text.lower() if text.count("@") == 1 and " " not in text else text


def _identifier(text: str, country: str) -> str:
    """Return a number without decoration, its country in front where that was delivered."""
    return tidy_identifier(text)


def _web_site(text: str, country: str) -> str:
    """Return a web site without its scheme, the host in small letters."""
    bare = text.partition("://")[2] or text
    host, slash, path = bare.partition("/")
    return host.lower() + (slash + path if path else "") if "." in host and " " not in host else text


_BY_KIND: dict[FieldKind, Callable[[str, str], str]] = {
    FieldKind.ORGANISATION_NAME: lambda text, country: proper_case(text.strip(" ,;")),
    FieldKind.PERSON_NAME: lambda text, country: proper_name(text),
    FieldKind.CITY: lambda text, country: proper_case(text),
    FieldKind.COUNTRY: lambda text, country: country_code(text),
    FieldKind.PHONE: _phone,
    FieldKind.EMAIL: _mailbox,
    FieldKind.WEB_SITE: _web_site,
    FieldKind.IDENTIFIER: _identifier,
    FieldKind.DATE: lambda text, country: tidy_date(text),
}
