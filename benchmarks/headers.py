"""How many columns of made-up files are mapped right without a touch, by language and shape of their headers.

Run: ``.venv/bin/python -m benchmarks.headers [--part held] [--wrong]``. The header sets are kept in
``data/header_sets.txt``; their contents are made like the demo's. One half of them is kept aside while developing.
"""

import argparse
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from random import Random

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.mapping import ColumnSample, propose_mapping
from oddpair.demo.entities import Organisation, Person, make_organisations, make_people

_SETS = Path(__file__).parent / "data" / "header_sets.txt"
_ROWS = 80
_COUNTRY_OF = {"de": "DE", "nl": "NL", "fr": "FR", "no": "NO", "da": "DK", "pl": "PL"}


_CHOICES = {
    "address.line2": ["", "", "Unit 4", "c/o Harbour Office", "2. Stock", "Apt 12"],
    "address.region": ["Suffolk", "Kent", "NRW", "Fife"],
    "word": ["active", "blocked", "30 days", "new"],
    "text": ["", "", "call before noon", "pays late, ask first"],
    "title": ["Mr", "Ms", "Dr", ""],
    "company": ["Oban Boatyard Ltd", "Skua Ropes AS", "", "Tern GmbH", ""],
    "person": ["Anna Holm", "Jan Bakker", "Ole Moen", "Susan Selby", "", "Piotr Nowicki"],
}


@dataclass(frozen=True, slots=True)
class HeaderSet:
    """A made-up file: columns as (header, what it is, what it holds)."""

    part: str
    kind: RegisterKind
    language: str
    shape: str
    columns: tuple[tuple[str, str, str], ...]


def header_sets() -> list[HeaderSet]:
    """Return all sets."""
    sets = []
    for line in _SETS.read_text(encoding="utf-8").splitlines():
        if not line or line.startswith("#"):
            continue
        head, _, columns = line.partition(": ")
        part, kind, language, shape = (text.strip() for text in head.split("|"))
        parsed = []
        for column in columns.split("; "):
            header, _, meant = column.rpartition(" = ")
            target, _, holds = meant.strip().partition(" ")
            parsed.append((header.strip(), "" if target == "-" else target, holds or target))
        sets.append(HeaderSet(part, RegisterKind(kind), language, shape, tuple(parsed)))
    return sets


def _values(holds: str, entities: Sequence[Organisation | Person], further: bool, random: Random) -> list[str]:
    """Return a column's values; ``further`` ones of a field are often missing."""
    made = [_value(holds, place, entity, random) for place, entity in enumerate(entities)]
    return [value if not further or random.random() < 0.25 else "" for value in made]


def _value(holds: str, place: int, entity: Organisation | Person, random: Random) -> str:
    home = entity.place
    day = f"{random.randrange(2016, 2026)}-{random.randrange(1, 13):02d}-{random.randrange(1, 29):02d}"
    values = {
        "id": f"{1000 + 7 * place}", "address.line": home.line, "address.number": home.number, "address.city": home.town,
        "address.postcode": home.postcode, "phone": entity.phone, "email": entity.email, "updated_on": day, "date": day,
        "address.country": random.choice([home.country.name, home.country.code]), "amount": f"{random.uniform(0, 9000):.2f}",
        **{name: random.choice(choices) for name, choices in _CHOICES.items()},
    }  # fmt: skip
    if isinstance(entity, Organisation):
        values |= {
            "name": f"{entity.name} {entity.legal_form}".strip(),
            "web_site": entity.web_site,
            "tax_number": entity.tax_number,
        }
    else:
        values |= {
            "name": f"{entity.given} {entity.family}", "name.given": entity.given, "name.family": entity.family,
            "name.middle": entity.second[:1], "birth_date": entity.birth_date, "boat": entity.boat,
            "identifier": f"{random.randrange(10**8, 10**9)}",
        }  # fmt: skip
    return values[holds]


def mistakes(item: HeaderSet) -> list[str]:
    """Return what is wrong in the mapping proposed for a set."""
    random = Random(f"{item.language}/{item.shape}/{item.columns}")
    people = item.kind is RegisterKind.PERSON
    entities: Sequence[Organisation | Person]
    entities = make_people(random, _ROWS) if people else make_organisations(random, _ROWS, suppliers=False)
    samples, seen = [], set[str]()
    for header, _, holds in item.columns:
        values = _values(holds, entities, holds in seen, random)
        seen.add(holds)
        samples.append(ColumnSample(header, tuple(value for value in values if value), len(values)))
    proposals = propose_mapping(default_layout(item.kind), samples)
    return [
        f"{proposal.column}: {proposal.target or 'nothing'} instead of {target or 'nothing'}"
        for proposal, (_, target, _) in zip(proposals, item.columns, strict=True)
        if proposal.target != target
    ]


def main() -> None:
    """Print the share of columns mapped right."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--part", default="developing", choices=["developing", "held"])
    parser.add_argument("--wrong", action="store_true", help="list what is wrong")
    options = parser.parse_args()
    columns: dict[str, int] = defaultdict(int)
    wrong: dict[str, int] = defaultdict(int)
    for item in header_sets():
        if item.part != options.part:
            continue
        found = mistakes(item)
        for group in ("all", item.language, item.shape, item.kind.value):
            columns[group] += len(item.columns)
            wrong[group] += len(found)
        if options.wrong and found:
            print(f"{item.kind.value}, {item.language}, {item.shape}: " + "; ".join(found))
    for group, count in columns.items():
        print(f"{group:<14}{count:5d} columns, right {1 - wrong[group] / count:.3f}")


if __name__ == "__main__":
    main()
