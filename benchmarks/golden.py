"""How often golden values are right, by field, where any member has the right one.

Run: ``.venv/bin/python -m benchmarks.golden [--records 10000] [--seed 2] [--rules freshest]``. Clusters are those of
the truth, so that only survivorship is measured. A value is right if its tidy form is that of the true entity. Beside the golden
record stand the most frequent tidy value, and the single source whose values are right most often; behind it of what kind the wrong
golden values are. ``--errors N`` shows some of them.
"""

import argparse
import csv
import tempfile
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from random import Random

import numpy as np

from benchmarks.made_register import make_register, true_values
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.survivorship import RULE_SETS, default_rules, golden_columns, rules_from
from oddpair.core.survivorship.support import Relation, relation
from oddpair.core.tidying import tidy_records, tidy_row
from oddpair.services.offline.read_files import read_files

Row = Mapping[str, str]
_PARTS: dict[RegisterKind, dict[str, Callable[[Row], str]]] = {
    RegisterKind.ORGANISATION: {
        "name": lambda tidy: tidy.get("name", ""),
        "web site": lambda tidy: tidy.get("web_site", ""),
        "tax number": lambda tidy: tidy.get("tax_number", ""),
    },
    RegisterKind.PERSON: {
        "given name": lambda tidy: tidy.get("name.given", "").split(" ")[0],
        "family name": lambda tidy: tidy.get("name.family", ""),
        "birth date": lambda tidy: tidy.get("birth_date", ""),
        "boat": lambda tidy: tidy.get("boat", ""),
    },
}
_SHARED: dict[str, Callable[[Row], str]] = {
    "street": lambda tidy: " ".join(filter(None, (tidy.get("address.street"), tidy.get("address.number")))),
    "town": lambda tidy: tidy.get("address.city", ""),
    "postcode": lambda tidy: tidy.get("address.postcode", ""),
    "phone": lambda tidy: tidy.get("phone", ""),
    "e-mail": lambda tidy: tidy.get("email", ""),
}
_ADDED = (" - account closed", " (head office)", " c/o reception", " see new record", " (export dept)")
_FILLERS = ("unknown", "N/A", "-", "none")


def _spoil(path: Path, kind: RegisterKind, seed: int) -> None:
    """Write further errors into a file: text behind names, fillers, dates of another shape, towns and postcodes in the street's line."""
    random = Random(f"{path.stem}/{seed}")
    with path.open(encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file))
    american = random.random() < 0.5
    for row in rows:
        if kind is RegisterKind.ORGANISATION and random.random() < 0.03:
            row["name"] += random.choice(_ADDED)
        if random.random() < 0.04:
            row["street"], row["town"], row["postcode"] = f"{row['street']}, {row['postcode']} {row['town']}", "", ""
        for column in ("phone", "email", "town"):
            if random.random() < 0.01:
                row[column] = random.choice(_FILLERS)
        if row.get("birth date") and american:
            year, month, day = row["birth date"].split("-")
            row["birth date"] = f"{day}.{month}.{year}"
    with path.open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, rows[0])
        writer.writeheader()
        writer.writerows(rows)


#: What is said of a wrong value, by how it stands to the right one.
_KINDS = {
    Relation.SLIP: "slip", Relation.SPACES: "spaces", Relation.SHORT_FOR: "abbreviated or cut",
    Relation.LONG_FORM_OF: "written out otherwise",
    Relation.FEWER_WORDS: "words missing", Relation.MORE_WORDS: "words added", Relation.WITH_ADDED: "text added",
    Relation.WITHOUT_ADDED: "text missing", Relation.NONE: "another value",
}  # fmt: skip


def _kind_of_error(found: str, right: str) -> str:
    return _KINDS[relation(found, right)] if found else "empty"


def _share(right: Sequence[bool]) -> str:
    return f"{sum(right) / max(len(right), 1):8.3f}"


def measure(kind: RegisterKind, records: int, seed: int, named: str, errors: int) -> None:
    """Print the shares of right values of one kind of records."""
    with tempfile.TemporaryDirectory() as folder:
        files, known = make_register(Path(folder), kind, records, seed=seed)
        for file in files:
            _spoil(file.path, kind, seed)
        delivered = read_files([file.path for file in files], kind).records
    truth = true_values(kind, records, seed=seed)
    layout = default_layout(kind)
    tidy = tidy_records(layout, delivered)
    keys = [known[delivered.source_of(place), delivered.ids[place]][0] for place in range(len(delivered))]
    entities, labels = np.unique(keys, return_inverse=True)
    rules = rules_from(layout, default_rules(layout, named))
    golden = golden_columns(layout, rules, delivered, tidy, labels.astype(np.int32))
    members: list[list[int]] = [[] for _ in entities]
    for place, label in enumerate(labels.tolist()):
        members[label].append(place)
    tidy_rows = [tidy.row(place) for place in range(len(tidy))]
    ours: dict[str, list[bool]] = {}
    frequent: dict[str, list[bool]] = {}
    by_source: dict[str, dict[str, list[bool]]] = {}
    shown: Counter[str] = Counter()
    kinds: dict[str, Counter[str]] = {}
    for number, entity in enumerate(entities.tolist()):
        if len(members[number]) < 2:
            continue
        row = {name: value for name in layout.names if (value := golden[name].at(number))}
        found, right = tidy_row(layout, row), tidy_row(layout, truth[entity])
        for part, of in (_PARTS[kind] | _SHARED).items():
            values = [of(tidy_rows[place]) for place in members[number]]
            if not of(right) or of(right) not in values:
                continue
            is_right = of(found) == of(right)
            ours.setdefault(part, []).append(is_right)
            [(usual, _)] = Counter(value for value in values if value).most_common(1)
            frequent.setdefault(part, []).append(usual == of(right))
            for place, value in zip(members[number], values, strict=True):
                by_source.setdefault(part, {}).setdefault(delivered.source_of(place), []).append(value == of(right))
            if not is_right:
                kinds.setdefault(part, Counter())[_kind_of_error(of(found), of(right))] += 1
            if not is_right and shown[part] < errors:
                shown[part] += 1
                print(f"  {part}: '{of(found)}' instead of '{of(right)}' of {values}")
    print(f"{kind.value}s, {len(delivered)} records{'':>12}  golden  most frequent  best source")
    for part, right_ones in ours.items():
        best = max(sum(flags) / len(flags) for flags in by_source[part].values())
        print(
            f"  {part:<30}{_share(right_ones)}{_share(frequent[part]):>15}{best:13.3f}  ({len(right_ones)})  {_told(kinds.get(part))}"
        )


def _told(kinds: Counter[str] | None) -> str:
    return ", ".join(f"{kind} {count}" for kind, count in (kinds or Counter[str]()).most_common())


def main() -> None:
    """Measure organisations and people."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--records", type=int, default=10_000)
    parser.add_argument("--seed", type=int, default=2)
    parser.add_argument("--rules", choices=RULE_SETS, default="consensus", help="a ready-made set of rules")
    parser.add_argument("--errors", type=int, default=0)
    given = parser.parse_args()
    for kind in RegisterKind:
        measure(kind, given.records, given.seed, given.rules, given.errors)


if __name__ == "__main__":
    main()
