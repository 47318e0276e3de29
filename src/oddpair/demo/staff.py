"""The group's employees, and a handful of planted conflicts of interest among them and the suppliers."""

import csv
from collections import Counter
from collections.abc import Mapping, Sequence
from pathlib import Path
from random import Random

from ..core.fields import RegisterKind
from ..core.text.folding import fold, split_words
from .entities import Person, make_people
from .scenario import SEED, DemoFile

#: What a supplier and an employee may share.
CONFLICTS = ("address", "address", "phone", "phone", "bank account", "bank account", "family name and address")
_COLUMNS = ("Staff no", "Name", "Street", "Post code", "Town", "Country", "Phone", "IBAN", "Department")
_DEPARTMENTS = ("purchasing", "accounts", "warehouse", "quay shop", "sales", "workshop")
_STAFF = 140
#: The country in whose town of another name a street of the same name is planted, which is no conflict.
_ABROAD = "Norway"


def account_number(seed: int, owner: str) -> str:
    """Return an invented bank account of an owner, in the shape of an IBAN of a bank that does not exist."""
    random = Random(f"{seed}/account/{owner}")
    return f"GB{random.randrange(10, 99)}KITT{random.randrange(10**13, 10**14)}"


def add_accounts(ledger: Path, *, seed: int = SEED) -> None:
    """Add the column IBAN to a ledger's file: an account for every row that has all its cells and a number."""
    lines = ledger.read_bytes().decode("latin-1").split("\r\n")
    width = lines[0].count(";")
    told = [
        f"{line};{account_number(seed, line.split(';')[0])}" if line.count(";") >= width and line[:1] != ";" else line
        for line in lines[1:]
    ]
    ledger.write_bytes("\r\n".join([f"{lines[0]};IBAN", *told]).encode("latin-1"))


def make_staff(folder: Path, files: Sequence[DemoFile], *, seed: int = SEED) -> DemoFile:
    """Write the list of employees below ``folder``, with conflicts planted among them and the suppliers of the demo's ``files``.

    Beside it stands ``conflicts.csv``: employee, supplier's source and id there, what they share.
    """
    random = Random(f"{seed}/Employees")
    suppliers = {file.source: file.path for file in files if file.register == "Suppliers"}
    people = make_people(random, _STAFF)
    rows = [_row(number, person, seed, random) for number, person in enumerate(people)]
    planted = _plant(rows, _webshop(suppliers["webshop"]), _ledger(suppliers["ledger"]), random)
    home = folder / "employees"
    home.mkdir(parents=True, exist_ok=True)
    _write(home / "payroll.csv", _COLUMNS, rows)
    _write(home / "conflicts.csv", ("employee", "source", "source_id", "shares"), planted)
    return DemoFile("Employees", RegisterKind.PERSON, "payroll", home / "payroll.csv", len(rows), 0)


def _row(number: int, person: Person, seed: int, random: Random) -> dict[str, str]:
    number_of = f"E{number + 100:04d}"
    place = person.place
    cells = (
        number_of, f"{person.given} {person.family}", place.line.strip(), place.postcode, place.town, place.country.name,
        person.phone, account_number(seed, number_of), random.choice(_DEPARTMENTS),
    )  # fmt: skip
    return dict(zip(_COLUMNS, cells, strict=True))


def _webshop(path: Path) -> list[dict[str, str]]:
    """Return the suppliers of the web shop whose telephone and address nobody else has there."""
    with path.open(encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file))
    phones = Counter(row["phone"] for row in rows)
    doors = Counter((row["street"], row["town"]) for row in rows)
    return [
        row
        for row in rows
        if row["phone"] and row["street"] and phones[row["phone"]] == 1 == doors[row["street"], row["town"]]
    ]


def _ledger(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="latin-1", newline="") as file:
        return [row for row in csv.DictReader(file, delimiter=";") if row.get("IBAN") and row["Account no"]]


def _plant(
    rows: list[dict[str, str]], shop: Sequence[Mapping[str, str]], ledger: Sequence[Mapping[str, str]], random: Random
) -> list[dict[str, str]]:
    """Give some employees what a supplier has; return who shares what with whom."""
    employees = random.sample(range(len(rows)), len(CONFLICTS) + 2)
    firms = random.sample(list(shop), len(CONFLICTS) + 1)
    accounts = random.sample(list(ledger), 2)
    planted = []
    for place, shares in enumerate(CONFLICTS):
        row, firm = rows[employees[place]], firms[place]
        source, key = "webshop", firm["id"]
        if shares == "bank account":
            account = accounts.pop()
            row["IBAN"], source, key = account["IBAN"], "ledger", account["Account no"]
        elif shares == "phone":
            row["Phone"] = firm["phone"]
        elif shares == "address":
            row |= _home(firm, firm["street"])
        else:
            family = split_words(fold(firm["company"]))[0].capitalize()
            row["Name"] = f"{row['Name'].split()[0]} {family}"
            row |= _home(firm, _next_door(firm["street"]))
        planted.append({"employee": row["Staff no"], "source": source, "source_id": key, "shares": shares})
    # No conflicts: a street of that name in another country, and somebody of that name in another town.
    stranger, namesake = rows[employees[-2]], rows[employees[-1]]
    stranger |= {"Street": firms[-1]["street"], "Town": "Kristiansand", "Post code": "4605", "Country": _ABROAD}
    namesake["Name"] = f"{namesake['Name'].split()[0]} {split_words(fold(firms[0]['company']))[0].capitalize()}"
    return planted


def _home(firm: Mapping[str, str], street: str) -> dict[str, str]:
    return {"Street": street, "Post code": firm["postcode"], "Town": firm["town"], "Country": firm["country"]}


def _next_door(street: str) -> str:
    """Return the same street with another house number."""
    return " ".join(
        str(int(word) + 4) if word.isdigit() else word for word in street.replace(",", " ,").split()
    ).replace(" ,", ",")


def _write(path: Path, columns: Sequence[str], rows: Sequence[Mapping[str, str]]) -> None:
    with path.open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, columns)
        writer.writeheader()
        writer.writerows(rows)
