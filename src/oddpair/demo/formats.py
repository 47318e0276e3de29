"""The five files of a register: each source's columns and its file format, with a handful of bad rows in two of them."""

import json
from collections.abc import Mapping, Sequence
from datetime import date
from pathlib import Path
from random import Random

from openpyxl import Workbook

Record = Mapping[str, str]

#: Per source, per register kind: header → plain name of the value it holds.
COLUMNS: dict[str, dict[str, dict[str, str]]] = {
    "till": {
        "organisation": {"CUST_NO": "id", "CUSTOMER": "name", "ADDRESS": "one_line", "TEL": "phone", "LAST_SALE": "updated"},
        "person": {"CUST_NO": "id", "NAME": "name", "ADDRESS": "one_line", "TEL": "phone", "BOAT": "boat", "LAST_SALE": "updated"},
    },
    "webshop": {
        "organisation": {
            "id": "id", "company": "name", "street": "street", "town": "town", "postcode": "postcode", "country": "country",
            "phone": "phone", "email": "email", "website": "web_site", "updated_at": "updated",
        },
        "person": {
            "id": "id", "first_name": "given", "last_name": "family", "street": "street", "town": "town", "postcode": "postcode",
            "country": "country", "phone": "phone", "email": "email", "date_of_birth": "birth_date", "updated_at": "updated",
        },
    },
    "ledger": {
        "organisation": {
            "Account no": "id", "Account name": "name", "Street": "street", "Post code": "postcode", "Town": "town",
            "Country code": "country_code", "VAT no": "tax_number", "Tel": "phone", "Mail": "email", "Changed on": "updated",
        },
        "person": {
            "Account no": "id", "Account name": "name", "Street": "street", "Post code": "postcode", "Town": "town",
            "Country code": "country_code", "Born": "birth_date", "Tel": "phone", "Mail": "email", "Changed on": "updated",
        },
    },
    "northhouse": {
        "organisation": {
            "Customer number": "id", "Firm": "name", "Street address": "street", "Post town": "town", "Postal code": "postcode",
            "Land": "country", "Telephone": "phone", "E-mail": "email", "VAT": "tax_number", "Last changed": "updated",
        },
        "person": {
            "Customer number": "id", "Owner": "name", "Street address": "street", "Post town": "town", "Postal code": "postcode",
            "Land": "country", "Telephone": "phone", "E-mail": "email", "Birth date": "birth_date", "Vessel": "boat",
            "Last changed": "updated",
        },
    },
    "callsheet": {
        "organisation": {
            "ref": "id", "company": "name", "where.street": "street", "where.town": "town", "where.postcode": "postcode",
            "where.country": "country", "tel": "phone", "mail": "email", "web": "web_site", "last_contact": "updated",
        },
        "person": {
            "ref": "id", "contact": "name", "where.street": "street", "where.town": "town", "where.postcode": "postcode",
            "where.country": "country", "tel": "phone", "mail": "email", "boat": "boat", "last_contact": "updated",
        },
    },
}  # fmt: skip
FILE_ENDINGS = {"till": "csv", "webshop": "csv", "ledger": "csv", "northhouse": "xlsx", "callsheet": "jsonl"}
_DATE_STYLES = {
    "till": "%d/%m/%Y",
    "webshop": "%Y-%m-%d",
    "ledger": "%d.%m.%Y",
    "northhouse": "%Y-%m-%d",
    "callsheet": "%Y-%m-%d",
}


def _dated(source: str, record: Record) -> dict[str, str]:
    values = dict(record)
    for name in ("updated", "birth_date"):
        if values.get(name):
            values[name] = (
                date.fromisoformat(values[name]).strftime(_DATE_STYLES[source])
                if _is_date(values[name])
                else values[name]
            )
    return values


def _is_date(text: str) -> bool:
    try:
        date.fromisoformat(text)
    except ValueError:
        return False
    return True


def _cell(text: str, delimiter: str) -> str:
    return '"' + text.replace('"', '""') + '"' if any(mark in text for mark in (delimiter, '"', "\n")) else text


def _delimited(rows: Sequence[Sequence[str]], delimiter: str) -> list[str]:
    return [delimiter.join(_cell(cell, delimiter) for cell in row) for row in rows]


def write_source(path: Path, source: str, kind: str, records: Sequence[Record], random: Random) -> int:
    """Write the file of a source; return how many bad rows were put into it on purpose."""
    columns = COLUMNS[source][kind]
    rows = [[_dated(source, record).get(value, "") for value in columns.values()] for record in records]
    if source == "northhouse":
        _write_xlsx(path, list(columns), rows, kind)
        return 0
    if source == "callsheet":
        return _write_json_lines(path, list(columns), rows, random)
    if source == "ledger":
        lines = _delimited([list(columns), *rows], ";")
        # Two rows cut short by a line break in the export, one without its account number, one exported twice.
        bad = [lines[5].rsplit(";", 4)[0], lines[9].rsplit(";", 6)[0], ";" + lines[12].split(";", 1)[1], lines[15]]
        for place, line in enumerate(bad):
            lines.insert(20 + 17 * place, line)
        path.write_bytes("\r\n".join([*lines, ""]).encode("latin-1", errors="replace"))
        return len(bad)
    path.write_text("\n".join([*_delimited([list(columns), *rows], ","), ""]), encoding="utf-8")
    return 0


def _write_xlsx(path: Path, columns: Sequence[str], rows: Sequence[Sequence[str]], kind: str) -> None:
    workbook = Workbook(write_only=True)
    sheet = workbook.create_sheet("Owners" if kind == "person" else "Firms")
    sheet.append(list(columns))
    for row in rows:
        sheet.append(list(row))
    workbook.save(path)


def _write_json_lines(path: Path, columns: Sequence[str], rows: Sequence[Sequence[str]], random: Random) -> int:
    lines = []
    for row in rows:
        document: dict[str, object] = {}
        for column, value in zip(columns, row, strict=True):
            outer, _, inner = column.partition(".")
            if value and inner:
                document.setdefault(outer, {})[inner] = value  # type: ignore[index]
            elif value:
                document[outer] = value
        lines.append(json.dumps(document, ensure_ascii=False))
    bad = [
        lines[7][: len(lines[7]) // 2],
        '"called, nobody there"',
        json.dumps({"ref": "K-none", "tel": "no name noted"}),
    ]
    for line in bad:
        lines.insert(random.randrange(10, len(lines)), line)
    path.write_text("\n".join([*lines, ""]), encoding="utf-8")
    return len(bad)
