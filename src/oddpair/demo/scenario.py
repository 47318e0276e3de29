"""The Kittiwake Chandlery Group: three registers, five sources each, with the truth of who is who."""

import csv
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path
from random import Random

from ..core.fields import RegisterKind
from .entities import Organisation, Person, make_organisations, make_people
from .formats import FILE_ENDINGS, write_source
from .habits import HABITS, Habits, organisation_values, person_values

SEED = 20261123
_TODAY = date(2026, 11, 1)

#: Up to this scale the stock of hand-picked words suffices.
_STOCK_SUFFICES = 2.0
#: Share of entities that each source knows, and share of those it holds twice.
_KNOWN = {"till": 0.5, "webshop": 0.5, "ledger": 0.48, "northhouse": 0.42, "callsheet": 0.42}
_TWICE = {"till": 0.08, "webshop": 0.05, "ledger": 0.0, "northhouse": 0.04, "callsheet": 0.06}
_KNOWN_PEOPLE_FACTOR = 0.95
_ID_FORMS = {
    "till": "{:06d}",
    "webshop": "w{:05d}",
    "ledger": "{:05d}",
    "northhouse": "NH-{:04d}",
    "callsheet": "K-{:04d}",
}


@dataclass(frozen=True, slots=True)
class DemoFile:
    """A file of the demo: which register and source it belongs to, how many records and bad rows it holds."""

    register: str
    kind: RegisterKind
    source: str
    path: Path
    records: int
    bad_rows: int


@dataclass(frozen=True, slots=True)
class _Register:
    name: str
    kind: RegisterKind
    entities: int


REGISTERS = (
    _Register("Customers", RegisterKind.ORGANISATION, 1230),
    _Register("Boat owners", RegisterKind.PERSON, 865),
    _Register("Suppliers", RegisterKind.ORGANISATION, 330),
)


def _records_of_source(
    entities: Sequence[Organisation | Person],
    source: str,
    habits: Habits,
    values: Callable[..., dict[str, str]],
    random: Random,
) -> list[tuple[str, dict[str, str]]]:
    """Return (entity key, values) of every record of a source, in a shuffled order, with the source's ids."""
    records = []
    for entity in entities:
        if random.random() < _KNOWN[source] * (_KNOWN_PEOPLE_FACTOR if isinstance(entity, Person) else 1.0):
            for _ in range(2 if random.random() < _TWICE[source] else 1):
                record = values(entity, habits, random)
                record["updated"] = (_TODAY - timedelta(days=random.randrange(1, 1800))).isoformat()
                records.append((entity.key, record))
    random.shuffle(records)
    numbers = random.sample(range(1, 10 * len(records) + 10), len(records))
    for number, (_, record) in zip(numbers, records, strict=True):
        record["id"] = _ID_FORMS[source].format(number)
    return records


def _make_register(
    folder: Path, register: _Register, spoil: Callable[[str, Habits], Habits], coined: float, random: Random
) -> list[DemoFile]:
    people = register.kind is RegisterKind.PERSON
    entities: Sequence[Organisation | Person]
    if people:
        entities = make_people(random, register.entities, coined)
    else:
        entities = make_organisations(random, register.entities, register.name == "Suppliers", coined)
    folder.mkdir(parents=True, exist_ok=True)
    files: list[DemoFile] = []
    truth: list[tuple[str, str, str, str]] = []
    traps = {entity.key: entity.trap for entity in entities}
    for source, habits in HABITS.items():
        values = person_values if people else organisation_values
        records = _records_of_source(entities, source, spoil(source, habits), values, random)
        path = folder / f"{source}.{FILE_ENDINGS[source]}"
        bad = write_source(path, source, register.kind.value, [record for _, record in records], random)
        truth += [(source, record["id"], key, traps[key]) for key, record in records]
        files.append(DemoFile(register.name, register.kind, source, path, len(records), bad))
    with (folder / "truth.csv").open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(["source", "source_id", "entity", "trap"])
        writer.writerows(sorted(truth))
    return files


def make_demo(
    folder: Path, *, seed: int = SEED, scale: float = 1.0, difficulty: float = 1.0, mix: str = "", coined: float | None = None,
    only: Sequence[str] = (),
) -> list[DemoFile]:  # fmt: skip
    """Write the demo's files and truths below ``folder``, one folder a register; the same seed gives the same files.

    ``scale`` multiplies the number of entities, ``difficulty`` the shares of slips. ``mix`` names a mixture of errors: each
    name makes other kinds of slips frequent. ``coined`` is the share of words made of syllables, by default none up to
    twice the usual size and four in five beyond. ``only`` names the registers wanted.
    """
    if coined is None:
        coined = 0.0 if scale <= _STOCK_SUFFICES else 0.8
    files: list[DemoFile] = []
    for register in REGISTERS:
        if only and register.name not in only:
            continue
        random = Random(f"{seed}/{register.name}")
        sized = _Register(register.name, register.kind, max(int(register.entities * scale), 60))
        files += _make_register(
            folder / register.name.lower().replace(" ", "-"),
            sized,
            lambda source, habits: habits.mixed(f"{mix}/{source}" if mix else "").worse(difficulty),
            coined,
            random,
        )
    return files
