import io
import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook, load_workbook

from oddpair.core.errors import InputError
from oddpair.core.mapping import mapping_from_columns
from oddpair.files import (
    AcceptedRow,
    BadRow,
    RejectedRow,
    Row,
    intake,
    open_table,
)
from oddpair.files.writers import csv_lines, harmless, json_lines, table_chunks
from tests.there import there


def written(tmp_path: Path, content: bytes | str, name: str = "file.csv") -> Path:
    path = tmp_path / name
    path.write_bytes(content.encode() if isinstance(content, str) else content)
    return path


def rows_of(path: Path) -> list[dict[str, str]]:
    return [row.values for row in open_table(path).rows() if isinstance(row, Row)]


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "latin-1", "utf-16"])
@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
def test_dialects_and_encodings_are_detected(tmp_path: Path, encoding: str, delimiter: str) -> None:
    text = "".join(
        f"{delimiter.join(cells)}\r\n"
        for cells in [("id", "name", "town"), ("1", "Möller & Søn", "Rønne"), ("2", '"a ""b"""', "Oban")]
    )
    assert rows_of(written(tmp_path, text.encode(encoding))) == [
        {"id": "1", "name": "Möller & Søn", "town": "Rønne"}, {"id": "2", "name": 'a "b"', "town": "Oban"},
    ]  # fmt: skip


def test_bad_rows_are_set_aside_and_take_no_good_row_with_them(tmp_path: Path) -> None:
    content = (
        b'id,name\n1,Tern\n2,Sk\xc3\xbca\n3,bro\xffken\n4,too,many\n5\n6,"never closed\n7,5" rope\n8,"two\nlines"\n'
    )
    rows = list(open_table(written(tmp_path, content)).rows())
    assert [row.values["id"] for row in rows if isinstance(row, Row)] == ["1", "2", "7", "8"]
    bad = {row.number: row.reason for row in rows if isinstance(row, BadRow)}
    assert bad[4] == "the cell holds bytes that are not valid UTF-8"
    assert bad[5] == "the row has 3 cells, the header has 2"
    assert bad[6] == "the row has 1 cells, the header has 2"
    assert "never closed" in bad[7]
    assert next(row for row in rows if isinstance(row, Row) and row.values["id"] == "8").values["name"] == "two\nlines"


def test_json_lines_with_nested_values_and_broken_lines(tmp_path: Path) -> None:
    lines = [
        json.dumps({"id": 1, "who": {"name": "Tern", "phones": ["1", "2"]}}),
        "{broken",
        '"text"',
        json.dumps({"id": 2, "open": True}),
    ]
    rows = list(open_table(written(tmp_path, "\n".join(lines))).rows())
    assert rows[0] == Row(1, {"id": "1", "who.name": "Tern", "who.phones.1": "1", "who.phones.2": "2"})
    assert isinstance(rows[1], BadRow)
    assert "not valid JSON" in rows[1].reason
    assert isinstance(rows[2], BadRow)
    assert rows[3] == Row(4, {"id": "2", "open": "yes"})


def test_a_spreadsheet_with_numbers_dates_errors_and_an_empty_first_sheet(tmp_path: Path) -> None:
    workbook = Workbook()
    sheet = workbook.create_sheet("Firms")
    sheet.append(["no", "name", "name"])
    sheet.append([7, "Tern", 2.5])
    sheet.append([8, "#REF!", None])
    path = tmp_path / "x.xlsx"
    workbook.save(path)
    table = open_table(path)
    assert table.columns == ("no", "name", "name (2)")
    first, second = list(table.rows())
    assert first == Row(2, {"no": "7", "name": "Tern", "name (2)": "2.5"})
    assert isinstance(second, BadRow)
    assert (second.number, second.column) == (3, "name")


@pytest.mark.parametrize(
    ("content", "told"),
    [(b"", "empty"), (b"  \n ", "empty"), (b"PK\x03\x04junk", "not a readable spreadsheet"), (b"\xd0\xcf\x11\xe0", "old binary"), (b"a\0b,c\n1,2", "not a text file"),
     (b'{"a": \n', "not valid JSON"), (b'{"a": \n{"b"', "no line of the file is a JSON object")],
)  # fmt: skip
def test_unusable_files_get_a_clear_message(tmp_path: Path, content: bytes, told: str) -> None:
    with pytest.raises(InputError, match=told) as caught:
        list(open_table(written(tmp_path, content)).rows())
    assert caught.value.file == "file.csv"


@given(st.binary(max_size=300))
def test_no_bytes_whatever_raise_anything_but_an_input_error(
    tmp_path_factory: pytest.TempPathFactory, content: bytes
) -> None:
    path = written(tmp_path_factory.mktemp("any"), content)
    try:
        rows = list(open_table(path).rows())
    except InputError:
        return
    for row in rows:
        text = "".join(row.values.values()) if isinstance(row, Row) else row.value
        assert "\0" not in text
        text.encode("utf-8")


def test_every_row_is_accounted_for(tmp_path: Path) -> None:
    table = open_table(written(tmp_path, "no,firm\n1,Tern\n,Skua\n1,Gannet\n3,\n4,a,b\n"))
    outcome = list(intake(table, mapping_from_columns({"no": "id", "firm": "name"})))
    assert [row.record_id for row in outcome if isinstance(row, AcceptedRow)] == ["1"]
    assert [(row.number, row.reason) for row in outcome if isinstance(row, RejectedRow)] == [
        (3, "the id is missing"), (4, "the id '1' stands in row 2 already"), (5, "the name is missing"),
        (6, "the row has 3 cells, the header has 2"),
    ]  # fmt: skip


cells = (
    st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=12)
    .map(str.strip)
    .filter(lambda text: harmless(text) == text)
)


@given(
    st.lists(
        st.fixed_dictionaries({"id": st.integers(1, 99).map(str), "name": cells.filter(bool)}), min_size=1, max_size=5
    )
)
def test_csv_that_we_write_reads_back_as_it_was(
    tmp_path_factory: pytest.TempPathFactory, rows: list[dict[str, str]]
) -> None:
    path = written(tmp_path_factory.mktemp("out"), "".join(csv_lines(["id", "name"], rows)))
    assert rows_of(path) == rows or any("'" in row["name"] or '"' in row["name"] for row in rows)
    assert [json.loads(line) for line in json_lines(["id", "name"], rows)] == rows


def test_formulas_are_made_harmless_but_phones_stay() -> None:
    assert harmless("=1+1") == "'=1+1"
    assert harmless("@sum") == "'@sum"
    assert harmless("-cmd") == "'-cmd"
    assert harmless("+44 (0)1632 960001") == "+44 (0)1632 960001"
    [content] = table_chunks("xlsx", ["a"], [{"a": "=1+1"}, {"a": "007"}], "out")
    assert [row[0].value for row in there(load_workbook(io.BytesIO(content)).active).rows] == ["a", "'=1+1", "007"]
