"""Pairs that any person decides at a glance, alone, among a thousand others and among a hundred thousand."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import pytest

from oddpair.core import explain, pipeline
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.plan import default_plan
from oddpair.core.records import RecordSetBuilder
from oddpair.core.tidying import tidy_records
from oddpair.demo import make_demo
from oddpair.services.offline.read_files import read_files

from ..sizes import size

KINDS = list(RegisterKind)
_HOME = Path(__file__).parent / "data"
_PLACE = ("address.line", "address.city", "address.postcode", "phone", "email")
TABLES = {
    RegisterKind.ORGANISATION: ("common_sense_organisations.txt", ("name", *_PLACE), "Customers"),
    RegisterKind.PERSON: ("common_sense_people.txt", ("name", "birth_date", *_PLACE), "Boat owners"),
}


@dataclass(frozen=True)
class Pair:
    verdict: str
    case: str
    rows: tuple[dict[str, str], dict[str, str]]


@cache
def table(kind: RegisterKind) -> tuple[Pair, ...]:
    """Two lines make a pair, under the latest line that says "= verdict: case"."""
    file, fields, _ = TABLES[kind]
    pairs, verdict, case, waiting = [], "", "", dict[str, str]()
    for line in (_HOME / file).read_text(encoding="utf-8").splitlines():
        if line.startswith("= "):
            verdict, _, case = line[2:].partition(": ")
        elif line and not line.startswith("#"):
            cells = zip(fields, line.split(";"), strict=False)
            row = {field: text for field, cell in cells if (text := cell.strip())}
            if waiting:
                pairs.append(Pair(verdict, case, (waiting, row)))
            waiting = {} if waiting else row
    return tuple(pairs)


def verdicts(kind: RegisterKind, pairs: Sequence[Pair], others: Sequence[dict[str, str]]) -> list[str]:
    """Match the pairs, one record of each in either list, beside other records."""
    builder = RecordSetBuilder()
    for number, pair in enumerate(pairs):
        for source, row in zip(("till", "ledger"), pair.rows, strict=True):
            builder.add(source, f"pair {number}", row)
    for number, row in enumerate(others):
        builder.add(("till", "ledger", "webshop")[number % 3], f"other {number}", row)
    records = builder.build()
    tidy = tidy_records(default_layout(kind), records)
    result = pipeline.run(tidy, default_plan(kind), are_tidy=True)
    at = {(records.source_of(place), records.ids[place]): place for place in range(len(records))}
    told = set(zip(result.pairs.left.tolist(), result.pairs.right.tolist(), strict=True))
    found = []
    for number in range(len(pairs)):
        one, other = sorted(at[source, f"pair {number}"] for source in ("till", "ledger"))
        same = result.labels[one] == result.labels[other]
        found.append("same" if same else "unsure" if (one, other) in told else "different")
    sentences, _ = explain.distinct_sentences(result.first.scorer, result.pairs)
    assert all(sentences)
    return found


def demo_rows(kind: RegisterKind, folder: Path, scale: float) -> list[dict[str, str]]:
    files = make_demo(folder, scale=scale, seed=7, only=(TABLES[kind][2],))
    records = read_files([file.path for file in files], kind, None, None).records
    return [records.row(place) for place in range(len(records))]


def are_a_persons(pairs: Sequence[Pair], found: Sequence[str], most_unsure: float) -> None:
    opposite = [
        (pair.case, pair.rows)
        for pair, verdict in zip(pairs, found, strict=True)
        if {pair.verdict, verdict} == {"same", "different"}
    ]
    assert opposite == []
    assert Counter(found)["unsure"] <= most_unsure * len(pairs)


def test_the_table_is_large_and_has_as_many_of_either_verdict() -> None:
    pairs = [pair for kind in KINDS for pair in table(kind)]
    assert len(pairs) >= 150
    assert 0.45 < sum(pair.verdict == "same" for pair in pairs) / len(pairs) < 0.55


@pytest.mark.parametrize("kind", KINDS)
def test_each_alone_among_few_is_never_the_opposite(kind: RegisterKind) -> None:
    pairs = table(kind)
    chosen = range(0, len(pairs), size(everyday=7, long=1))
    found = []
    for number in chosen:
        beside = [pairs[(number * 7 + step * 5 + 1) % len(pairs)] for step in range(1, 9)]
        others = [other.rows[0] for other in beside if other is not pairs[number]]
        found += verdicts(kind, [pairs[number]], others)
    are_a_persons([pairs[number] for number in chosen], found, 0.4)


@pytest.mark.parametrize("kind", KINDS)
def test_among_many_they_are_as_a_person_would_say(kind: RegisterKind, tmp_path: Path) -> None:
    """Beside some thousand others, or a hundred thousand."""
    others = demo_rows(kind, tmp_path, size(everyday=0.35, long=30.0))
    are_a_persons(table(kind), verdicts(kind, table(kind), others), 0.2)
