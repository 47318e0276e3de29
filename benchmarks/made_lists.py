"""Makes two lists that know some of the same organisations or people, with few fields and the truth of who is who.

Two lists without much in them are the most frequent job of all: names alone, names with a country or a town, people with
their address. A case says how long the lists are, how much they overlap, whether they hold duplicates of their own,
whether relatives (spouses, sister firms) stand in one list only, and whether one list abbreviates.
"""

import csv
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from random import Random

from oddpair.core.fields import RegisterKind
from oddpair.demo.entities import Organisation, Person, make_organisations, make_people
from oddpair.demo.habits import Habits, organisation_values, person_values
from oddpair.demo.names import business_name, given_name

#: Which values a list holds, by what is told of it, in order of columns.
FIELDS = {
    "name": ("name",),
    "name + country": ("name", "country"),
    "name + town": ("name", "town"),
    "name + address": ("name", "street", "postcode", "town", "country"),
    "all": ("name", "street", "postcode", "town", "country", "phone", "email", "extra"),
}
#: How a list that abbreviates writes the words of trades.
_SHORT = {
    "Marine": "Mar", "Services": "Svc", "Engineering": "Engrg", "Sailing": "Slg", "School": "Sch", "Works": "Wks", "Builders": "Bldrs",
    "Harbour": "Hbr", "Chandlers": "Chndlrs", "Yacht": "Yt", "Bootswerft": "Bw", "Segelschule": "Segelsch", "Scheepswerf": "Schwf",
    "Chantier": "Ch", "Naval": "Nav", "Boatyard": "Byd", "Marina": "Mna", "Skipsservice": "Skserv", "Fiskeri": "Fisk",
}  # fmt: skip
#: Shares of entities to whom a relative is added in one list only.
_RELATIVES = 0.15


@dataclass(frozen=True, slots=True)
class ListCase:
    """Two lists of ``size`` records each, of which ``overlap`` know the same entities; ``own_duplicates`` is the share of
    records that a list holds a second time."""

    kind: RegisterKind
    fields: str
    size: int
    overlap: float
    own_duplicates: float = 0.0
    relatives: bool = False
    abbreviating: bool = False
    seed: int = 1

    def describe(self) -> str:
        """Return the case in a few words."""
        more = [f"{self.own_duplicates:.0%} own duplicates"] if self.own_duplicates else []
        more += ["relatives"] if self.relatives else []
        more += ["abbreviating"] if self.abbreviating else []
        return f"{self.kind.value}s, {self.fields}, {self.size}, overlap {self.overlap}" + "".join(
            f", {text}" for text in more
        )


_FIRST = Habits(
    slip=0.03,
    short=0.05,
    drop=0.02,
    no_legal_form=0.2,
    no_address=0.02,
    moved=0.02,
    short_name=0.08,
    initial=0.06,
    no_birth_date=0.3,
)
_SECOND = Habits(
    upper=True, slip=0.05, short=0.2, drop=0.03, join=0.02, no_legal_form=0.4, plain_letters=True, no_address=0.03, moved=0.05,
    short_name=0.15, initial=0.1, no_birth_date=0.3, family_first=True, national_phone=True,
)  # fmt: skip


def _entities(case: ListCase, count: int, random: Random) -> Sequence[Organisation | Person]:
    if case.kind is RegisterKind.PERSON:
        return make_people(random, count, 0.8)
    # Namesakes and branches in another place cannot be told apart by names alone, by anybody.
    made = make_organisations(random, count * 2, suppliers=False, coined=0.8)
    seen: dict[str, Organisation] = {}
    for entity in made:
        if entity.trap not in ("same name elsewhere", "branch"):
            seen.setdefault(f"{entity.name}/{entity.place.town if 'town' in case.fields else ''}", entity)
    return list(seen.values())[:count]


def _relative(entity: Organisation | Person, key: str, random: Random) -> Organisation | Person:
    """Return somebody of the same family name and address, or a sister firm in the same town."""
    if isinstance(entity, Person):
        given = given_name(random, entity.place.country.code)
        while given[0] == entity.given[0]:
            given = given_name(random, random.choice(("GB", "NO", "DE")))
        return replace(
            entity,
            key=key,
            given=given,
            second="",
            email=f"{given.lower()}{key.lower()}@postbox.example",
            birth_date="",
        )
    own = entity.name.split()[0]
    other = business_name(random, entity.place.country.code, entity.place.town, False).split()[1:] or ["Trust"]
    name = " ".join([own, *other])
    return replace(entity, key=key, name=name if name != entity.name else f"{name} Trust", tax_number="", web_site="")


def _abbreviated(name: str) -> str:
    return " ".join(_SHORT.get(word, word) for word in name.split())


def _rows(
    case: ListCase, entities: list[Organisation | Person], habits: Habits, random: Random, abbreviating: bool
) -> list[tuple[str, dict[str, str]]]:
    rows = []
    for entity in entities:
        for _ in range(2 if random.random() < case.own_duplicates else 1):
            if isinstance(entity, Organisation):
                written = replace(entity, name=_abbreviated(entity.name)) if abbreviating else entity
                values = organisation_values(written, habits, random)
                values["extra"] = values["tax_number"]
            else:
                values = person_values(entity, habits, random)
                values["extra"] = values["birth_date"]
            rows.append((entity.key, values))
    random.shuffle(rows)
    return rows


def make_lists(folder: Path, case: ListCase) -> dict[tuple[str, str], str]:
    """Write ``first.csv`` and ``second.csv`` of a case below ``folder``; return (source, id) → entity."""
    random = Random(f"{case.describe()}/{case.seed}")
    shared = round(case.size * case.overlap)
    pool: list[Organisation | Person] = list(_entities(case, 2 * case.size - shared, random))
    random.shuffle(pool)
    first: list[Organisation | Person] = [*pool[: case.size]]
    second: list[Organisation | Person] = [*pool[case.size - shared :]]
    if case.relatives:
        chosen = [entity for entity in first if random.random() < _RELATIVES]
        first += [_relative(entity, f"R{number:05d}", random) for number, entity in enumerate(chosen)]
    folder.mkdir(parents=True, exist_ok=True)
    columns = FIELDS[case.fields]
    heads = {"extra": "tax number" if case.kind is RegisterKind.ORGANISATION else "birth date"}
    truth: dict[tuple[str, str], str] = {}
    for name, members, habits in (("first", first, _FIRST), ("second", second, _SECOND)):
        rows = _rows(case, members, habits, random, case.abbreviating and name == "second")
        with (folder / f"{name}.csv").open("w", encoding="utf-8", newline="") as file:
            writer = csv.writer(file)
            writer.writerow(["id", *(heads.get(column, column) for column in columns)])
            for number, (key, values) in enumerate(rows):
                truth[(name, f"{name[0]}{number}")] = key
                writer.writerow([f"{name[0]}{number}", *(values.get(column, "") for column in columns)])
    return truth
