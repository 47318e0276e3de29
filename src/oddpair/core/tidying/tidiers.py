"""What is made of which delivered fields: one tidier per group of fields that are understood together."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, lru_cache

from ..addresses import Address, parse_address
from ..addresses.countries import country_code
from ..addresses.postcodes import tidy_postcode
from ..addresses.regions import region_code
from ..contacts.dates import tidy_date
from ..contacts.identifiers import split_tax_number
from ..contacts.internet import email_domain, split_emails, tidy_email, tidy_web_site
from ..contacts.phones import phone_end, phone_extension, split_phones, tidy_phone
from ..fields import Field, FieldKind, Layout, RegisterKind, added_fields
from ..organisations import parse_organisation_names, without_native_forms
from ..people import parse_person_names
from ..records import MOST_VALUES, further
from ..text.numbers import plain_number
from ..text.scripts import ideographs
from ..text.tables import phrase, read_word_list

#: The values of the outputs of a tidier; several where a field holds several values.
Tidied = list[tuple[str, ...]]
_LONGEST_PLACEHOLDER = 20
_FILLING = " .,;:-_/*?#+()"


@dataclass(frozen=True, slots=True)
class Tidier:
    """Turns the delivered fields ``inputs`` into the tidy fields ``outputs``; ``apply`` takes and gives them in order."""

    inputs: tuple[str, ...]
    outputs: tuple[str, ...]
    apply: Callable[..., Tidied]


@lru_cache(maxsize=100_000)
def is_placeholder(text: str) -> bool:
    """Whether a delivered value only fills a gap: "n/a", "UNKNOWN", "0000", "-"."""
    if len(text) > _LONGEST_PLACEHOLDER:
        return False
    rest = text.lstrip(_FILLING)
    if not rest:
        return True
    # Most values begin with a letter with which no placeholder does, or hold different digits.
    if rest[0].isdigit():
        return len(text) > 2 and rest[0] in "09" and not rest.strip(_FILLING + rest[0])
    return (not rest.isascii() or rest[0].lower() in _first_letters()) and phrase(text) in _placeholders()


def filled_value(text: str) -> str:
    """Return the value, or "" where it only fills a gap."""
    return "" if text and is_placeholder(text) else text


@cache
def _placeholders() -> frozenset[str]:
    return read_word_list(__package__, "placeholders.txt")


@cache
def _first_letters() -> frozenset[str]:
    return frozenset(text[0] for text in _placeholders())


def _organisation_name(name: str) -> Tidied:
    names = parse_organisation_names(name)
    original = ideographs(without_native_forms(name)) if len(names) == 1 else ""
    return [(" ".join(parsed.words), parsed.legal_form, " ".join(parsed.sites), original) for parsed in names]


def _person_name(full: str, given: str, middle: str, family: str, suffix: str) -> Tidied:
    # A suffix in a column of its own is the same to the parser as one after the family name.
    behind = f" {suffix}" if suffix else ""
    if family:
        family += behind
    elif full:
        full += behind
    names = parse_person_names(full, f"{given} {middle}".strip(), family)
    # In any order, since one source writes the family name first and another has columns for both.
    original = "".join(sorted(ideographs(given + family or full))) if len(names) == 1 else ""
    return [(" ".join(parsed.given), " ".join(parsed.family), parsed.suffix, original) for parsed in names]


def _address(line: str, number: str, line2: str, city: str, postcode: str, region: str, country: str) -> Tidied:
    first, second = (line, line2) if line else (line2, "")
    parsed = parse_address(f"{number} {first}".strip(), city, postcode, region, country)
    # What a second line holds beside parts of the building and a box (a farm, "care of") is too loose to be compared.
    if second:
        more = parse_address(second, city="-")
        parsed = parsed._replace(
            unit=parsed.unit or more.unit, floor=parsed.floor or more.floor, building=parsed.building or more.building,
            box=parsed.box or more.box,
        )  # fmt: skip
    return [parsed]


def _phone(phone: str, country: str) -> Tidied:
    code = country_code(country)
    listed = {tidy: part for part in split_phones(phone) if (tidy := tidy_phone(part, code))}
    return [(number, phone_end(number), phone_extension(part)) for number, part in listed.items()]


def _email(email: str) -> Tidied:
    tidy = [tidy for part in split_emails(email) if (tidy := tidy_email(part))]
    return [(address, email_domain(address)) for address in dict.fromkeys(tidy)]


def _tax_number(text: str, country: str) -> Tidied:
    return [split_tax_number(text, country_code(country))]


def _single(tidy: Callable[[str], str]) -> Callable[[str], Tidied]:
    return lambda text: [(tidy(text),)]


_NAME_PARTS = ("given", "family", "suffix", "original")
_SHARED = (
    Tidier(
        (
            "address.line", "address.number", "address.line2", "address.city", "address.postcode", "address.region",
            "address.country",
        ),
        tuple(f"address.{part}" for part in Address._fields),
        _address,
    ),
    Tidier(("phone", "address.country"), ("phone", "phone.end", "phone.extension"), _phone),
    Tidier(("email",), ("email", "email.domain"), _email),
    Tidier(("updated_on",), ("updated_on",), _single(tidy_date)),
)  # fmt: skip

TIDIERS: dict[RegisterKind, tuple[Tidier, ...]] = {
    RegisterKind.ORGANISATION: (
        Tidier(("name",), ("name", "name.legal_form", "name.sites", "name.original"), _organisation_name),
        *_SHARED,
        Tidier(("web_site",), ("web_site",), _single(tidy_web_site)),
        Tidier(("tax_number", "address.country"), ("tax_number", "tax_number.checked"), _tax_number),
    ),
    RegisterKind.PERSON: (
        Tidier(
            ("name", "name.given", "name.middle", "name.family", "name.suffix"),
            tuple(f"name.{part}" for part in _NAME_PARTS),
            _person_name,
        ),
        *_SHARED,
        Tidier(("birth_date",), ("birth_date",), _single(tidy_date)),
        Tidier(("identifier",), ("identifier", "identifier.checked"), lambda text: [split_tax_number(text)]),
        Tidier(("boat",), ("boat",), _single(phrase)),
    ),
}


_COUNTRY = "address.country"


def _added(field: Field) -> Tidier:
    """Return the tidier of a field that a layout has beyond the usual ones, by its kind."""
    name, kind = field.name, field.kind

    def outputs(*parts: str) -> tuple[str, ...]:
        return (name, *(f"{name}.{part}" for part in parts))

    if kind is FieldKind.ORGANISATION_NAME:
        return Tidier((name,), outputs("legal_form", "sites", "original"), _organisation_name)
    if kind is FieldKind.PERSON_NAME:
        return Tidier(
            (name,), tuple(f"{name}.{part}" for part in _NAME_PARTS), lambda text: _person_name(text, "", "", "", "")
        )
    if kind is FieldKind.ADDRESS:
        return Tidier((name,), tuple(f"{name}.{part}" for part in Address._fields), lambda text: [parse_address(text)])
    if kind is FieldKind.PHONE:
        return Tidier((name, _COUNTRY), outputs("end", "extension"), _phone)
    if kind is FieldKind.EMAIL:
        return Tidier((name,), outputs("domain"), _email)
    if kind is FieldKind.IDENTIFIER:
        return Tidier((name, _COUNTRY), outputs("checked"), _tax_number)
    if kind is FieldKind.POSTCODE:
        return Tidier(
            (name, _COUNTRY), outputs(), lambda text, country: [(tidy_postcode(text, country_code(country)),)]
        )
    if kind is FieldKind.REGION:
        return Tidier(
            (name, _COUNTRY),
            outputs(),
            lambda text, country: [(region_code(text, country_code(country)) or phrase(text),)],
        )
    return Tidier((name,), outputs(), _single(_SIMPLE_KINDS.get(kind, phrase)))


_SIMPLE_KINDS: dict[FieldKind, Callable[[str], str]] = {
    FieldKind.COUNTRY: country_code, FieldKind.WEB_SITE: tidy_web_site, FieldKind.DATE: tidy_date, FieldKind.NUMBER: plain_number,
}  # fmt: skip


@lru_cache(maxsize=200)
def tidiers_of(layout: Layout) -> tuple[Tidier, ...]:
    """Return the tidiers of a layout: those of its kind, then one for each added field."""
    return (*TIDIERS[layout.kind], *map(_added, added_fields(layout)))


def tidy_fields(layout: Layout) -> tuple[str, ...]:
    """Return the names of the tidy fields of a layout."""
    return tuple(output for tidier in tidiers_of(layout) for output in tidier.outputs)


#: What is the same for all values of a record.
_COMMON = frozenset({"address.country"})


def inputs_at(tidier: Tidier, place: int) -> tuple[str, ...]:
    """Return the names of the delivered fields from which the values number ``place`` are tidied."""
    return tuple(name if name in _COMMON else further(name, place) for name in tidier.inputs)


def tidy_values(tidier: Tidier, combination: tuple[str, ...]) -> Tidied:
    """Return the distinct values, the first few, that come of the delivered values of one place after the other."""
    size = len(tidier.inputs)
    if len(combination) == size:
        return tidier.apply(*combination)[:MOST_VALUES]
    tidied: Tidied = []
    for start in range(0, len(combination), size):
        delivered = combination[start : start + size]
        if any(value and name not in _COMMON for name, value in zip(tidier.inputs, delivered, strict=True)):
            tidied += tidier.apply(*delivered)
    return list(dict.fromkeys(values for values in tidied if any(values)))[:MOST_VALUES]
