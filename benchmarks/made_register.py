"""Makes the records of one register from several sources, with relations that look like identity.

The demo's traps are few and kind. Here related entities are planted on purpose, each kind with a share of its own: sister
firms behind one door, mailbox or domain; branches that only a number of four digits tells apart; like names in one town;
clients of one bookkeeper; columns that cut names off; colleagues, households, namesakes, given names that are too alike at
one address; dates that only fill a gap. The truth and the kind of every planted entity are written beside the files.
"""

import csv
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from random import Random
from typing import TypeVar

from oddpair.core.fields import RegisterKind
from oddpair.demo.entities import Organisation, Person, make_organisation, make_person
from oddpair.demo.habits import Habits, organisation_values, person_values
from oddpair.demo.names import given_name

SOURCES = ("alpha", "beta", "gamma", "delta")
_KNOWN, _TWICE = 0.55, 0.05
_WIDTH = 22
_USUAL = (
    "Leasing Foods Logistics Trading Properties Holdings Retail Energy Media Travel Systems Consulting Cleaning Security Catering"
).split()
#: Given names that are different people's, however near they look.
_NEAR = (("Elin", "Ellen"), ("Maria", "Marie"), ("Jan", "Jon"), ("Anna", "Anne"), ("Erik", "Erika"), ("Karin", "Karen"), ("Ole", "Olav"),
         ("Christian", "Christine"), ("Frank", "Franka"), ("Mette", "Merete"))  # fmt: skip

_HABITS = {
    "alpha": Habits(slip=0.04, short=0.08, no_legal_form=0.3, no_phone=0.1, no_email=0.1, moved=0.03, digit=0.015, no_birth_date=0.4),
    "beta": Habits(
        upper=True, plain_letters=True, slip=0.06, short=0.3, drop=0.03, join=0.02, no_legal_form=0.5, no_phone=0.2, no_email=0.6,
        family_first=True, national_phone=True, initial=0.12, no_birth_date=0.7, digit=0.02, no_number=0.03,
    ),
    "gamma": Habits(
        slip=0.05, short=0.12, no_phone=0.25, no_email=0.4, moved=0.06, national_phone=True, no_birth_date=0.2, short_name=0.15,
    ),
    "delta": Habits(
        slip=0.08, short=0.25, drop=0.04, join=0.04, no_legal_form=0.6, two_letters=0.3, no_address=0.1, no_number=0.06, no_email=0.3,
        short_name=0.3, initial=0.06, digit=0.03, no_birth_date=0.5,
    ),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class MadeFile:
    """A file and its source."""

    source: str
    path: Path


def _own_word(random: Random, name: str) -> str:
    return f"{name.split()[0]} {random.choice(_USUAL)}"


def _related_organisation(
    random: Random, one: Organisation, key: str, taken: set[str]
) -> tuple[Organisation, Organisation]:
    """Return (the organisation, perhaps renamed; a different one that is related to it)."""
    kind = random.choice(("sister", "sister", "branch", "branch", "same town", "bookkeeper", "same name elsewhere"))
    other = make_organisation(random, key, False, one.place.country, coined=0.8)
    other = _with_own_contacts(other, taken)
    if kind == "sister":
        one = replace(one, name=_own_word(random, one.name), trap=kind)
        name = _own_word(random, one.name)
        while name == one.name:
            name = _own_word(random, one.name)
        shared = random.choice(
            (
                {"place": one.place},
                {"phone": one.phone},
                {"email": one.email, "web_site": one.web_site},
                {"place": one.place, "phone": one.phone},
            )
        )
        other = replace(other, place=replace(other.place, town=one.place.town), name=name)
        return one, replace(other, trap=kind, **shared)
    if kind == "branch":
        brand = one.name
        one = replace(one, name=f"{brand} {random.randrange(1000, 9999)}", trap=kind)
        name = f"{brand} {random.randrange(1000, 9999)}"
        return one, replace(
            other,
            name=name,
            email=one.email,
            web_site=one.web_site,
            trap=kind,
            tax_number=random.choice(("", one.tax_number)),
        )
    if kind == "same town":
        return one, replace(
            other,
            name=f"{one.name.split()[0]} {other.name.split(' ', 1)[-1]}",
            place=replace(other.place, town=one.place.town),
            trap=kind,
        )
    if kind == "bookkeeper":
        return one, replace(other, phone=one.phone, email=one.email, place=one.place, trap=kind)
    return one, replace(other, name=one.name, trap=kind)


def _related_person(random: Random, one: Person, key: str, taken: set[str]) -> tuple[Person, Person]:
    kind = random.choice(
        ("colleague", "household", "household", "near given name", "same name", "same name in town", "parent")
    )
    other = _with_own_contacts(make_person(random, key, 0.8), taken)
    country = one.place.country.code
    if kind == "colleague":
        domain = f"{one.family.lower().split()[-1]}-{key.lower()}.example"
        one = replace(one, email=f"{one.given.lower()}@{domain}", trap=kind)
        return one, replace(
            other, place=one.place, phone=one.phone, email=f"{other.given.lower()}@{domain}", boat="", trap=kind
        )
    if kind == "household":
        given = given_name(random, country)
        while given == one.given:
            given = given_name(random, country)
        return one, replace(
            other, given=given, family=one.family, place=one.place, phone=one.phone, boat=one.boat, trap=kind
        )
    if kind == "near given name":
        first, second = random.choice(_NEAR)
        one = replace(one, given=first, second="", trap=kind)
        return one, replace(
            other,
            given=second,
            second="",
            family=one.family,
            place=one.place,
            phone=one.phone,
            boat=one.boat,
            trap=kind,
        )
    if kind == "same name":
        return one, replace(other, given=one.given, family=one.family, trap=kind)
    if kind == "same name in town":
        return one, replace(
            other, given=one.given, family=one.family, place=replace(other.place, town=one.place.town), trap=kind
        )
    birth = f"{max(int(one.birth_date[:4]) - random.randrange(22, 38), 1915)}{other.birth_date[4:]}"
    return one, replace(
        other,
        given=one.given,
        second="",
        family=one.family,
        place=one.place,
        phone=one.phone,
        birth_date=birth,
        trap=kind,
    )


Entity = TypeVar("Entity", Organisation, Person)


def _with_own_contacts(entity: Entity, taken: set[str]) -> Entity:
    """Return the entity with a domain or mailbox that nobody else registered before it."""
    if isinstance(entity, Person):
        box, _, domain = entity.email.partition("@")
        own, number = entity.email, 1
        while own in taken:
            number += 1
            own = f"{box}{number}@{domain}"
        taken.add(own)
        return replace(entity, email=own)
    domain = entity.web_site.removeprefix("www.")
    own, number = domain, 1
    while own in taken:
        number += 1
        own = domain.replace(".example", f"-{number}.example")
    taken.add(own)
    return replace(entity, web_site=f"www.{own}", email=f"{entity.email.partition('@')[0]}@{own}")


def _entities(kind: RegisterKind, count: int, related: float, random: Random) -> list[Organisation] | list[Person]:
    made: list[Organisation | Person] = []
    taken: set[str] = set()
    while len(made) < count:
        key = f"E{len(made):06d}"
        if kind is RegisterKind.PERSON:
            one: Organisation | Person = _with_own_contacts(make_person(random, key, 0.8), taken)
        else:
            one = _with_own_contacts(make_organisation(random, key, False, coined=0.8), taken)
        if random.random() < related:
            other_key = f"E{len(made) + 1:06d}"
            if isinstance(one, Person):
                made += _related_person(random, one, other_key, taken)
            else:
                made += _related_organisation(random, one, other_key, taken)
        else:
            made.append(one)
    return made  # type: ignore[return-value]


def _row(entity: Organisation | Person, source: str, random: Random) -> dict[str, str]:
    habits = _HABITS[source]
    if isinstance(entity, Organisation):
        row = organisation_values(entity, habits, random)
        if random.random() < 0.5:
            row["tax_number"] = ""
        if source == "gamma":
            row["name"] = row["name"][:_WIDTH].rstrip()
        return row
    row = person_values(entity, habits, random)
    if source == "gamma" and not row["birth_date"]:
        row["birth_date"] = "1900-01-01"
    return row


_COLUMNS = {
    RegisterKind.ORGANISATION: (
        "name",
        "street",
        "postcode",
        "town",
        "country",
        "phone",
        "email",
        "web_site",
        "tax_number",
    ),
    RegisterKind.PERSON: ("name", "street", "postcode", "town", "country", "phone", "email", "birth_date", "boat"),
}


def _register_of(
    kind: RegisterKind, records: int, related: float, seed: int
) -> tuple[Sequence[Organisation | Person], Random]:
    random = Random(f"{kind.value}/{records}/{seed}")
    count = max(int(records / (len(SOURCES) * _KNOWN * (1 + _TWICE))), 5)
    return _entities(kind, count, related, random), random


def true_values(kind: RegisterKind, records: int, *, related: float = 0.12, seed: int = 1) -> dict[str, dict[str, str]]:
    """Return entity → its true values by field, of the register that ``make_register`` makes of the same numbers."""
    return {entity.key: _true_fields(entity) for entity in _register_of(kind, records, related, seed)[0]}


def _true_fields(entity: Organisation | Person) -> dict[str, str]:
    own = (
        {"name": f"{entity.name} {entity.legal_form}", "web_site": entity.web_site, "tax_number": entity.tax_number}
        if isinstance(entity, Organisation)
        else {
            "name.given": f"{entity.given} {entity.second}".strip(), "name.family": entity.family, "name.suffix": entity.suffix,
            "birth_date": entity.birth_date, "boat": entity.boat,
        }
    )  # fmt: skip
    place = entity.place
    return {
        **own, "address.line": place.line, "address.city": place.town, "address.postcode": place.postcode,
        "address.country": place.country.name, "phone": entity.phone, "email": entity.email,
    }  # fmt: skip


def make_register(
    folder: Path, kind: RegisterKind, records: int, *, related: float = 0.12, seed: int = 1,
    keep: Callable[[str], bool] = lambda column: True,
) -> tuple[list[MadeFile], dict[tuple[str, str], tuple[str, str]]]:  # fmt: skip
    """Write about ``records`` records of a register below ``folder``; return the files and (source, id) → (entity, kind of relation)."""
    entities, random = _register_of(kind, records, related, seed)
    folder.mkdir(parents=True, exist_ok=True)
    columns = [column for column in _COLUMNS[kind] if keep(column)]
    truth: dict[tuple[str, str], tuple[str, str]] = {}
    files = []
    for source in SOURCES:
        rows = [
            (entity, _row(entity, source, random))
            for entity in entities if random.random() < _KNOWN
            for _ in range(2 if random.random() < _TWICE else 1)
        ]  # fmt: skip
        random.shuffle(rows)
        path = folder / f"{source}.csv"
        with path.open("w", encoding="utf-8", newline="") as file:
            writer = csv.writer(file)
            writer.writerow(["id", *(column.replace("_", " ") for column in columns)])
            for number, (entity, row) in enumerate(rows):
                truth[(source, f"{source[0]}{number}")] = (entity.key, entity.trap)
                writer.writerow([f"{source[0]}{number}", *(row.get(column, "") for column in columns)])
        files.append(MadeFile(source, path))
    return files, truth
