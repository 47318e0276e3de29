"""What is made of which delivered fields: one tidier per group of fields that are understood together."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache

from ..addresses import Address, parse_address
from ..addresses.countries import country_code
from ..contacts.dates import tidy_date
from ..contacts.identifiers import split_tax_number
from ..contacts.internet import email_domain, split_emails, tidy_email, tidy_web_site
from ..contacts.phones import phone_end, split_phones, tidy_phone
from ..fields import RegisterKind
from ..organisations import parse_organisation_names
from ..people import parse_person_names
from ..records import further
from ..text.tables import phrase, read_word_list

#: The values of the outputs of a tidier; several where a field holds several values.
Tidied = list[tuple[str, ...]]
#: How many values of one field are kept.
MOST_VALUES = 3
_LONGEST_PLACEHOLDER = 20
_FILLING = frozenset(" .,;:-_/*?#+()")
_REPEATED = ({"0"}, {"9"})


@dataclass(frozen=True, slots=True)
class Tidier:
    """Turns the delivered fields ``inputs`` into the tidy fields ``outputs``; ``apply`` takes and gives them in order."""

    inputs: tuple[str, ...]
    outputs: tuple[str, ...]
    apply: Callable[..., Tidied]


def is_placeholder(text: str) -> bool:
    """Whether a delivered value only fills a gap: "n/a", "UNKNOWN", "0000", "-"."""
    if len(text) > _LONGEST_PLACEHOLDER:
        return False
    marks = set(text) - _FILLING
    # Nothing but one repeated digit or mark, or a phrase that says there is nothing.
    return len(marks) == 0 or (len(text) > 2 and marks in _REPEATED) or phrase(text) in _placeholders()


def filled_value(text: str) -> str:
    """Return the value, or "" where it only fills a gap."""
    return "" if text and is_placeholder(text) else text


@cache
def _placeholders() -> frozenset[str]:
    return read_word_list(__package__, "placeholders.txt")


def _organisation_name(name: str) -> Tidied:
    return [
        (" ".join(parsed.words), parsed.legal_form, " ".join(parsed.sites)) for parsed in parse_organisation_names(name)
    ]


def _person_name(full: str, given: str, middle: str, family: str, suffix: str) -> Tidied:
    # A suffix in a column of its own is the same to the parser as one after the family name.
    behind = f" {suffix}" if suffix else ""
    if family:
        family += behind
    elif full:
        full += behind
    names = parse_person_names(full, f"{given} {middle}".strip(), family)
    return [(" ".join(parsed.given), " ".join(parsed.family), parsed.suffix) for parsed in names]


def _address(line: str, number: str, line2: str, city: str, postcode: str, region: str, country: str) -> Tidied:
    first, second = (line, line2) if line else (line2, "")
    parsed = parse_address(f"{number} {first}".strip(), city, postcode, region, country)
    # What a second line holds beside unit and box (a building, a farm, "care of") is too loose to be compared.
    more = parse_address(second, city="-") if second else Address()
    return [(
        parsed.number, parsed.street, parsed.unit or more.unit, parsed.box or more.box, parsed.city, parsed.postcode,
        parsed.region, parsed.country,
    )]  # fmt: skip


def _phone(phone: str, country: str) -> Tidied:
    code = country_code(country)
    tidy = [tidy for part in split_phones(phone) if (tidy := tidy_phone(part, code))]
    return [(number, phone_end(number)) for number in dict.fromkeys(tidy)]


def _email(email: str) -> Tidied:
    tidy = [tidy for part in split_emails(email) if (tidy := tidy_email(part))]
    return [(address, email_domain(address)) for address in dict.fromkeys(tidy)]


def _tax_number(text: str, country: str) -> Tidied:
    return [split_tax_number(text, country_code(country))]


def _single(tidy: Callable[[str], str]) -> Callable[[str], Tidied]:
    return lambda text: [(tidy(text),)]


_SHARED = (
    Tidier(
        (
            "address.line", "address.number", "address.line2", "address.city", "address.postcode", "address.region",
            "address.country",
        ),
        (
            "address.number", "address.street", "address.unit", "address.box", "address.city", "address.postcode",
            "address.region", "address.country",
        ),
        _address,
    ),
    Tidier(("phone", "address.country"), ("phone", "phone.end"), _phone),
    Tidier(("email",), ("email", "email.domain"), _email),
    Tidier(("updated_on",), ("updated_on",), _single(tidy_date)),
)  # fmt: skip

TIDIERS: dict[RegisterKind, tuple[Tidier, ...]] = {
    RegisterKind.ORGANISATION: (
        Tidier(("name",), ("name", "name.legal_form", "name.sites"), _organisation_name),
        *_SHARED,
        Tidier(("web_site",), ("web_site",), _single(tidy_web_site)),
        Tidier(("tax_number", "address.country"), ("tax_number", "tax_number.checked"), _tax_number),
    ),
    RegisterKind.PERSON: (
        Tidier(
            ("name", "name.given", "name.middle", "name.family", "name.suffix"),
            ("name.given", "name.family", "name.suffix"),
            _person_name,
        ),
        *_SHARED,
        Tidier(("birth_date",), ("birth_date",), _single(tidy_date)),
        Tidier(("identifier",), ("identifier", "identifier.checked"), lambda text: [split_tax_number(text)]),
        Tidier(("boat",), ("boat",), _single(phrase)),
    ),
}


def tidy_fields(kind: RegisterKind) -> tuple[str, ...]:
    """Return the names of the tidy fields of a register of ``kind``."""
    return tuple(output for tidier in TIDIERS[kind] for output in tidier.outputs)


def tidy_row(kind: RegisterKind, row: Mapping[str, str]) -> dict[str, str]:
    """Return the filled tidy values of one record; further values of a field are named as ``records.further`` says."""
    tidy: dict[str, str] = {}
    for tidier in TIDIERS[kind]:
        tidied = tidier.apply(*(filled_value(row.get(name, "")) for name in tidier.inputs))
        for place, values in enumerate(tidied[:MOST_VALUES]):
            filled = zip(tidier.outputs, values, strict=True)
            tidy.update({further(name, place): value for name, value in filled if value})
    return tidy
