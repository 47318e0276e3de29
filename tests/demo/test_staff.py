"""The group's employees: planted conflicts that are what they are said to be, and the same every time."""

import csv
from pathlib import Path

import pytest

from oddpair.demo import DemoFile, add_accounts, make_demo, make_staff
from oddpair.demo.staff import CONFLICTS, account_number


def made(folder: Path, seed: int = 5) -> tuple[list[DemoFile], DemoFile]:
    files = make_demo(folder, seed=seed, scale=0.4, only=["Suppliers"])
    add_accounts(next(file.path for file in files if file.source == "ledger"), seed=seed)
    return files, make_staff(folder, files, seed=seed)


def rows(path: Path, delimiter: str = ",", encoding: str = "utf-8") -> list[dict[str, str]]:
    return list(csv.DictReader(path.read_text(encoding=encoding).splitlines(), delimiter=delimiter))


@pytest.fixture(scope="module")
def staff(tmp_path_factory: pytest.TempPathFactory) -> tuple[list[DemoFile], DemoFile]:
    return made(tmp_path_factory.mktemp("staff"))


def test_every_planted_conflict_is_shared_as_said(staff: tuple[list[DemoFile], DemoFile]) -> None:
    files, payroll = staff
    paths = {file.source: file.path for file in files}
    shop = {row["id"]: row for row in rows(paths["webshop"])}
    ledger = {row["Account no"]: row for row in rows(paths["ledger"], ";", "latin-1")}
    people = {row["Staff no"]: row for row in rows(payroll.path)}
    planted = rows(payroll.path.parent / "conflicts.csv")
    assert sorted(one["shares"] for one in planted) == sorted(CONFLICTS)
    for one in planted:
        person = people[one["employee"]]
        if one["shares"] == "bank account":
            assert person["IBAN"] == ledger[one["source_id"]]["IBAN"]
            continue
        firm = shop[one["source_id"]]
        if one["shares"] == "phone":
            assert person["Phone"] == firm["phone"]
        elif one["shares"] == "address":
            assert (person["Street"], person["Town"]) == (firm["street"], firm["town"])
        else:
            assert person["Name"].split()[1].lower() in firm["company"].lower()
            assert person["Town"] == firm["town"]
            assert person["Street"] != firm["street"]


def test_accounts_are_invented_and_belong_to_one_owner_each(staff: tuple[list[DemoFile], DemoFile]) -> None:
    files, payroll = staff
    ledger = rows(next(file.path for file in files if file.source == "ledger"), ";", "latin-1")
    filled = [row for row in ledger if row.get("IBAN")]
    assert len(filled) > 0.9 * len(ledger)
    by_owner = {row["Account no"]: row["IBAN"] for row in filled}
    assert len(set(by_owner.values())) == len(by_owner)
    assert all(account[4:8] == "KITT" for account in by_owner.values())
    assert len({row["IBAN"] for row in rows(payroll.path)}) == payroll.records


def test_the_same_seed_gives_the_same_staff(tmp_path: Path) -> None:
    texts = [
        made(tmp_path / name, seed)[1].path.read_text(encoding="utf-8") for name, seed in (("a", 5), ("b", 5), ("c", 6))
    ]
    assert texts[0] == texts[1] != texts[2]
    assert account_number(5, "x") == account_number(5, "x") != account_number(6, "x")
