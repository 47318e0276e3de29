"""Tidying: from delivered values to tidy values, the same way for one record on a screen and for a million in a run.

A Tidier turns one group of delivered fields into tidy fields. In bulk it is applied to the distinct combinations of
delivered values only, and the outcome is gathered per record.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from .addresses import parse_address
from .addresses.countries import country_code
from .contacts.dates import tidy_date
from .contacts.identifiers import split_tax_number
from .contacts.internet import email_domain, tidy_email, tidy_web_site
from .contacts.phones import phone_end, tidy_phone
from .fields import RegisterKind
from .organisations import parse_organisation_name
from .people import parse_person_name
from .records import MISSING, Column, IntArray, RecordSet, column_from_codes
from .text.tables import phrase

Progress = Callable[[str, int, int], None]


@dataclass(frozen=True, slots=True)
class Tidier:
    """Turns the delivered fields ``inputs`` into the tidy fields ``outputs``; ``apply`` takes and gives them in order."""

    inputs: tuple[str, ...]
    outputs: tuple[str, ...]
    apply: Callable[..., tuple[str, ...]]


def _organisation_name(name: str) -> tuple[str, ...]:
    parsed = parse_organisation_name(name)
    return " ".join(parsed.words), parsed.legal_form, " ".join(parsed.sites)


def _person_name(full: str, given: str, family: str) -> tuple[str, ...]:
    parsed = parse_person_name(full, given, family)
    return " ".join(parsed.given), " ".join(parsed.family), parsed.suffix


def _address(line: str, city: str, postcode: str, region: str, country: str) -> tuple[str, ...]:
    parsed = parse_address(line, city, postcode, region, country)
    return (
        parsed.number, parsed.street, parsed.unit, parsed.box, parsed.city, parsed.postcode, parsed.region, parsed.country,
    )  # fmt: skip


def _phone(phone: str, country: str) -> tuple[str, ...]:
    tidy = tidy_phone(phone, country_code(country))
    return tidy, phone_end(tidy)


def _email(email: str) -> tuple[str, ...]:
    tidy = tidy_email(email)
    return tidy, email_domain(tidy)


def _tax_number(text: str, country: str) -> tuple[str, ...]:
    return split_tax_number(text, country_code(country))


_SHARED = (
    Tidier(
        ("address.line", "address.city", "address.postcode", "address.region", "address.country"),
        (
            "address.number", "address.street", "address.unit", "address.box", "address.city", "address.postcode",
            "address.region", "address.country",
        ),
        _address,
    ),
    Tidier(("phone", "address.country"), ("phone", "phone.end"), _phone),
    Tidier(("email",), ("email", "email.domain"), _email),
    Tidier(("updated_on",), ("updated_on",), lambda text: (tidy_date(text),)),
)  # fmt: skip

_TIDIERS: dict[RegisterKind, tuple[Tidier, ...]] = {
    RegisterKind.ORGANISATION: (
        Tidier(("name",), ("name", "name.legal_form", "name.sites"), _organisation_name),
        *_SHARED,
        Tidier(("web_site",), ("web_site",), lambda text: (tidy_web_site(text),)),
        Tidier(("tax_number", "address.country"), ("tax_number", "tax_number.checked"), _tax_number),
    ),
    RegisterKind.PERSON: (
        Tidier(("name", "name.given", "name.family"), ("name.given", "name.family", "name.suffix"), _person_name),
        *_SHARED,
        Tidier(("birth_date",), ("birth_date",), lambda text: (tidy_date(text),)),
        Tidier(("boat",), ("boat",), lambda text: (phrase(text),)),
    ),
}


def tidy_fields(kind: RegisterKind) -> tuple[str, ...]:
    """Return the names of the tidy fields of a register of ``kind``."""
    return tuple(output for tidier in _TIDIERS[kind] for output in tidier.outputs)


def tidy_row(kind: RegisterKind, row: Mapping[str, str]) -> dict[str, str]:
    """Return the filled tidy values of one record."""
    tidy: dict[str, str] = {}
    for tidier in _TIDIERS[kind]:
        values = tidier.apply(*(row.get(name, "") for name in tidier.inputs))
        tidy.update({name: value for name, value in zip(tidier.outputs, values, strict=True) if value})
    return tidy


def _distinct_rows(columns: list[Column]) -> tuple[IntArray, IntArray]:
    """Return (one row of codes per distinct combination, per record the number of its combination)."""
    codes = np.stack([column.codes for column in columns], axis=1)
    key = np.zeros(len(codes), dtype=np.int64)
    for place, column in enumerate(columns):
        # Fold one more column into the key and renumber, so that the product of sizes never overflows.
        key = key * (len(column.values) + 1) + (codes[:, place] + 1)
        _, key = np.unique(key, return_inverse=True)
    _, first, inverse = np.unique(key, return_index=True, return_inverse=True)
    return codes[first], inverse.astype(np.int32)


def _apply_to_column(tidier: Tidier, records: RecordSet) -> dict[str, Column]:
    columns = [records.column(name) for name in tidier.inputs]
    combinations, which = _distinct_rows(columns)
    results: list[tuple[str, ...]] = []
    for combination in combinations.tolist():
        values = [column.values[code] if code >= 0 else "" for column, code in zip(columns, combination, strict=True)]
        results.append(tidier.apply(*values))
    outputs = {}
    for place, name in enumerate(tidier.outputs):
        values = [result[place] for result in results]
        outputs[name] = column_from_codes(values, which)
    return outputs


def tidy_records(kind: RegisterKind, records: RecordSet, progress: Progress | None = None) -> RecordSet:
    """Return the same records with tidy columns instead of delivered ones."""
    tidiers = _TIDIERS[kind]
    columns: dict[str, Column] = {}
    for done, tidier in enumerate(tidiers):
        if progress:
            progress("tidy", done, len(tidiers))
        if len(records) and any((records.column(name).codes != MISSING).any() for name in tidier.inputs):
            columns.update(_apply_to_column(tidier, records))
    return RecordSet(records.sources, records.source_codes, records.ids, columns)
