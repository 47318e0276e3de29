"""The generator is seeded, knows the truth, and keeps to what is made up."""

import csv
import re
from collections import Counter
from pathlib import Path
from random import Random

import pytest

from oddpair.core.contacts.identifiers import split_tax_number
from oddpair.core.fields import RegisterKind
from oddpair.demo import LEVELS, DemoFile, make_demo
from oddpair.demo.entities import make_organisations, make_people
from oddpair.demo.formats import COLUMNS
from oddpair.demo.habits import HABITS, Habits
from oddpair.demo.slips import (
    digit_slip,
    drop_word,
    join_words,
    shorten,
    two_letter_vowels,
    typing_slip,
)
from oddpair.files import BadRow, Row, open_table


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> list[DemoFile]:
    return make_demo(tmp_path_factory.mktemp("demo"))


def truth(file: DemoFile) -> dict[tuple[str, str], str]:
    with (file.path.parent / "truth.csv").open(encoding="utf-8", newline="") as rows:
        return {(row["source"], row["source_id"]): row["entity"] for row in csv.DictReader(rows)}


def test_three_registers_of_the_promised_size_over_five_sources(demo: list[DemoFile]) -> None:
    sizes = Counter[str]()
    for file in demo:
        sizes[file.register] += file.records
    assert 2700 < sizes["Customers"] < 3300
    assert 1800 < sizes["Boat owners"] < 2200
    assert 700 < sizes["Suppliers"] < 900
    assert {file.source for file in demo} == set(COLUMNS)
    assert {file.path.suffix for file in demo} == {".csv", ".xlsx", ".jsonl"}


def test_the_same_seed_gives_the_same_files_and_another_seed_others(tmp_path: Path) -> None:
    def contents(folder: str, seed: int) -> list[bytes]:
        files = make_demo(tmp_path / folder, seed=seed, scale=0.05)
        return [file.path.read_bytes() for file in files if file.path.suffix != ".xlsx"]

    assert contents("a", 1) == contents("b", 1)
    assert contents("a", 1) != contents("c", 2)


def test_every_record_has_its_truth_and_bad_rows_are_as_many_as_said(demo: list[DemoFile]) -> None:
    for file in demo:
        known = truth(file)
        column = next(header for header, value in COLUMNS[file.source][file.kind.value].items() if value == "id")
        rows = list(open_table(file.path).rows())
        ids = [row.values.get(column, "") for row in rows if isinstance(row, Row)]
        assert len(rows) == file.records + file.bad_rows
        assert {(file.source, record) for record in ids} >= {key for key in known if key[0] == file.source}
        assert any(isinstance(row, BadRow) for row in rows) == (file.source in ("ledger", "callsheet"))


def test_the_ledger_promises_no_duplicates_and_keeps_it(demo: list[DemoFile]) -> None:
    for file in demo:
        if file.source == "ledger":
            entities = Counter(entity for (source, _), entity in truth(file).items() if source == "ledger")
            assert max(entities.values()) == 1


def test_addresses_of_mail_are_examples_and_tax_numbers_are_well_formed(demo: list[DemoFile]) -> None:
    good = total = 0
    for file in demo:
        for row in open_table(file.path).rows():
            if not isinstance(row, Row):
                continue
            for value in row.values.values():
                assert "@" not in value or value.endswith(".example"), value
            if file.source == "ledger" and file.kind is RegisterKind.ORGANISATION and "VAT no" in row.values:
                total += 1
                good += bool(split_tax_number(row.values["VAT no"], row.values["Country code"])[1])
    assert good / total > 0.95


def test_telephones_of_britain_lie_in_the_range_kept_for_fiction(demo: list[DemoFile]) -> None:
    for file in demo:
        if file.source == "webshop" and file.kind is RegisterKind.ORGANISATION:
            phones = [
                row.values.get("phone", "")
                for row in open_table(file.path).rows()
                if isinstance(row, Row) and row.values.get("country") == "United Kingdom"
            ]
            british = [phone for phone in phones if re.match(r"\+44 (\(0\))?1632", phone)]
            assert len(british) > 50


def test_slips_change_a_value_the_way_they_say() -> None:
    random = Random(3)
    assert typing_slip("Harbour", random) != "Harbour"
    assert digit_slip("NR32 1XA", random) != "NR32 1XA"
    assert sum(letter.isdigit() for letter in digit_slip("NR32 1XA", random)) == 3
    assert shorten("Mariners Way", random) == "Mariners Way"
    assert shorten("Harbour Street", random) in ("Hbr Street", "Harbour St")
    assert len(drop_word("Skua Rope Works", random).split()) == 2
    assert join_words("Skua Rope", random) == "Skuarope"
    assert two_letter_vowels("Müller Ålesund") == "Mueller Aalesund"
    assert typing_slip("A1", random) == "A1"


def test_a_mixture_of_errors_depends_on_its_name_alone_and_keeps_shares_between_bounds() -> None:
    habits = HABITS["till"]
    assert habits.mixed("") == habits
    assert habits.mixed("reporting") == habits.mixed("reporting") != habits.mixed("developing")
    for mix in ("reporting", "developing"):
        mixed = habits.mixed(mix).worse(LEVELS["hard"])
        shares = [value for value in (getattr(mixed, name) for name in Habits.__slots__) if isinstance(value, float)]
        assert all(0 <= share <= 1 for share in shares)


def test_large_data_coin_words_and_no_two_firms_share_a_domain() -> None:
    firms = make_organisations(Random(5), 900, False, coined=0.8)
    own = [firm.web_site for firm in firms if firm.trap != "branch"]
    assert len(set(own)) == len(own)
    assert len({firm.name for firm in firms}) > len({firm.name for firm in make_organisations(Random(5), 900, False)})
    people = make_people(Random(5), 300, coined=0.8)
    assert len({person.family for person in people}) > 150
    assert len({person.email for person in people}) == 300


def test_only_the_registers_asked_for_are_made(tmp_path: Path) -> None:
    files = make_demo(tmp_path, scale=0.05, only=["Suppliers"])
    assert {file.register for file in files} == {"Suppliers"}
    with (files[0].path.parent / "truth.csv").open(encoding="utf-8", newline="") as rows:
        traps = {row["trap"] for row in csv.DictReader(rows)}
    assert "" in traps
