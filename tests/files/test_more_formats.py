"""Spreadsheets with a choice of sheet and header, JSON documents, Parquet and cards."""

import datetime
import json
from decimal import Decimal
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from openpyxl import Workbook

from oddpair.core.errors import InputError
from oddpair.files import BadRow, Reading, Row, open_table
from tests.there import there

from .broken import ods


def written(tmp_path: Path, content: bytes | str, name: str = "list") -> Path:
    path = tmp_path / name
    path.write_bytes(content.encode() if isinstance(content, str) else content)
    return path


def values(path: Path, reading: Reading | None = None) -> list[dict[str, str]]:
    return [row.values for row in open_table(path, reading=reading).rows() if isinstance(row, Row)]


def test_a_header_below_a_title_is_found_and_can_be_chosen(tmp_path: Path) -> None:
    path = written(
        tmp_path, "Customers of the quay shop\n\nprinted,2026-11-01\nid,firm,town\n1,Tern,Oban\n2,Skua,Wick\n"
    )
    table = open_table(path)
    assert (table.format.header_row, table.columns) == (4, ("id", "firm", "town"))
    assert values(path) == [{"id": "1", "firm": "Tern", "town": "Oban"}, {"id": "2", "firm": "Skua", "town": "Wick"}]
    assert open_table(path, reading=Reading(header_row=5)).columns == ("1", "Tern", "Oban")
    without = written(tmp_path, "1,Tern\n2,Skua\n", "none")
    assert values(without, Reading(header_row=0)) == [
        {"column 1": "1", "column 2": "Tern"}, {"column 1": "2", "column 2": "Skua"},
    ]  # fmt: skip
    with pytest.raises(InputError, match="no row 9 for the header"):
        open_table(without, reading=Reading(header_row=9))


@pytest.fixture
def workbook(tmp_path: Path) -> Path:
    book = Workbook()
    there(book.active).title = "Notes"
    there(book.active)["A1"] = "see the other sheet"
    sheet = book.create_sheet("Firms")
    rows: list[list[Any]] = [
        ["List of firms"], ["no", "firm", "since"], [1, "Tern", datetime.date(2020, 5, 1)], [2, "Skua", 2.5],
    ]  # fmt: skip
    for place, cells in enumerate(rows):
        for column, cell in enumerate(cells, start=3):
            sheet.cell(place + 3, column, cell)
    sheet["D7"] = "=1/0"
    path = tmp_path / "book.xlsx"
    book.save(path)
    return path


def test_a_sheet_and_its_header_are_chosen_and_formulas_without_result_set_aside(workbook: Path) -> None:
    with pytest.raises(InputError, match="column names but no rows"):
        open_table(workbook)
    table = open_table(workbook, reading=Reading(sheet="Firms"))
    assert (table.format.sheets, table.format.header_row) == (("Notes", "Firms"), 4)
    first, second, bad = table.rows()
    assert first == Row(5, {"no": "1", "firm": "Tern", "since": "2020-05-01"})
    assert second == Row(6, {"no": "2", "firm": "Skua", "since": "2.5"})
    assert isinstance(bad, BadRow)
    assert (bad.number, bad.column) == (7, "firm")
    assert "result was not saved" in bad.reason
    with pytest.raises(InputError, match="no sheet 'Firmen'"):
        open_table(workbook, reading=Reading(sheet="Firmen"))


def test_open_documents_are_read_and_repeats_are_bounded(tmp_path: Path) -> None:
    rows = [{"id": "1", "firm": "Tern & Co"}, {"id": "2", "firm": "Skua"}]
    empty = '<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="16000"/></table:table-row>'
    path = written(tmp_path, ods(rows, more=empty))
    assert values(path) == rows
    assert open_table(path).format.describe() == "ODS, sheet 'Firms'"


def test_json_documents_give_their_records_wherever_they_lie(tmp_path: Path) -> None:
    firms = [{"id": 1, "name": "Tern", "phones": [{"no": "1"}, {"no": "2"}]}, {"id": 2, "price": 1.50}]
    wanted = [{"id": "1", "name": "Tern", "phones.1.no": "1", "phones.2.no": "2"}, {"id": "2", "price": "1.5"}]
    assert values(written(tmp_path, json.dumps(firms))) == wanted
    nested = written(tmp_path, json.dumps({"about": [{"x": 1}], "data": {"firms": firms}}, indent=2), "nested")
    table = open_table(nested, reading=Reading(path="data.firms"))
    assert table.format.paths == ("about", "data.firms")
    assert values(nested, Reading(path="data.firms")) == wanted
    assert values(written(tmp_path, json.dumps({"firms": firms}))) == wanted
    with pytest.raises(InputError, match="no list of objects at 'firms'"):
        open_table(nested, reading=Reading(path="firms"))
    lines = written(tmp_path, '{"id": 1, "list": [{"a": 0.10}]}\n{"id": 2}\n')
    assert values(lines) == [{"id": "1", "list.1.a": "0.10"}, {"id": "2"}]


def test_parquet_keeps_types_as_text_and_nested_values_by_path(tmp_path: Path) -> None:
    rows = [
        {
            "id": 1,
            "since": datetime.date(2020, 5, 1),
            "price": Decimal("1.50"),
            "open": True,
            "at": {"town": "Oban"},
            "tel": ["1", "2"],
        },
        {"id": 2, "since": None, "price": None, "open": False, "at": None, "tel": []},
    ]
    pq.write_table(pa.Table.from_pylist(rows), tmp_path / "list.parquet")
    assert values(tmp_path / "list.parquet") == [
        {
            "id": "1",
            "since": "2020-05-01",
            "price": "1.50",
            "open": "yes",
            "at.town": "Oban",
            "tel.1": "1",
            "tel.2": "2",
        },
        {"id": "2", "open": "no"},
    ]


def test_cards_are_unfolded_unescaped_and_split_into_parts(tmp_path: Path) -> None:
    text = (
        "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ola Nord\r\n mann\r\nN:Nordmann;Ola;Bjørn;Dr.;\r\nORG:Tern\\, Skua & Co;Sales\r\n"
        'item1.TEL;VALUE=uri;TYPE="voice,work":tel:+47-99-000-001\r\nTEL;TYPE=home:1\r\nTEL;TYPE=home:2\r\n'
        "ADR;TYPE=home:;;Havnegata 4\\nB;Bergen;;5003;Norway\r\nEMAIL:ola@nord.example\r\nPHOTO:data:xxxx\r\nEND:VCARD\r\n"
        "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Broken\r\nno property\r\nEND:VCARD\r\nstray\r\nBEGIN:VCARD\r\nVERSION:3.0\r\nFN:Kari\r\nEND:VCARD\r\n"
    )
    first, broken, stray, last = open_table(written(tmp_path, text)).rows()
    assert first == Row(1, {
        "fn": "Ola Nordmann", "n.family": "Nordmann", "n.given": "Ola", "n.additional": "Bjørn", "n.prefix": "Dr.",
        "org.name": "Tern, Skua & Co", "org.unit": "Sales", "tel.work": "+47-99-000-001", "tel.home": "1", "tel.home.2": "2",
        "adr.home.street": "Havnegata 4 B", "adr.home.city": "Bergen", "adr.home.postcode": "5003", "adr.home.country": "Norway",
        "email": "ola@nord.example",
    })  # fmt: skip
    assert isinstance(broken, BadRow)
    assert "line 17 of the file is no property" in broken.reason
    assert isinstance(stray, BadRow)
    assert isinstance(last, Row)
    assert last.values == {"fn": "Kari"}
