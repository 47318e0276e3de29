"""What stands between a hostile file and the memory of the server, and what finds the header of a table."""

import io
import json
import random
import zipfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.errors import InputError
from oddpair.files import BadRow, Row, open_table
from oddpair.files.shallow import ShallowFile
from oddpair.files.spreadsheet_checks import check_ods, check_xlsx_sheet, spreadsheet_kind
from oddpair.files.table import header_place, unique_headers

from .broken import MAKERS, ods, zipped


def sheet(xml: str) -> bytes:
    """Return a workbook whose only sheet holds the given XML."""
    with zipfile.ZipFile(io.BytesIO(MAKERS["xlsx"](random.Random(1)))) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    return zipped({**parts, "xl/worksheets/sheet1.xml": xml.encode()})


values = st.recursive(
    st.none() | st.booleans() | st.integers() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=4), inner, max_size=3),
    max_leaves=12,
)


@given(values, st.integers(1, 7))
def test_the_guard_hands_on_every_byte_whatever_the_size_of_its_chunks(value: object, size: int) -> None:
    content = json.dumps(value).encode()
    guard = ShallowFile(io.BytesIO(content), "x")
    read = b"".join(iter(lambda: guard.read(size), b""))
    assert read == content


@given(st.integers(190, 215), st.sampled_from(["[", '{"a":', '{"\\\\\\"[{":']), st.integers(1, 50))
def test_the_guard_refuses_just_what_is_nested_too_deeply(depth: int, opening: str, size: int) -> None:
    guard = ShallowFile(io.BytesIO((opening * depth).encode()), "deep.json")

    def read_all() -> None:
        while guard.read(size):
            pass

    if depth > 200:
        with pytest.raises(InputError, match=r"deep\.json: values are nested more than 200 deep"):
            read_all()
    else:
        read_all()


def test_brackets_within_texts_do_not_count_as_nesting() -> None:
    content = json.dumps([{"name": "[" * 5000 + '"\\' + "{" * 5000}]).encode()
    guard = ShallowFile(io.BytesIO(content), "x")
    while guard.read(17):
        pass


rows = st.lists(
    st.lists(st.sampled_from(["", "name", "Tern", "12", "x y"]), min_size=1, max_size=5), min_size=1, max_size=8
)


@given(rows)
def test_the_header_is_always_a_row_that_holds_something_if_any_does(rows: list[list[str]]) -> None:
    place = header_place(rows)
    assert 0 <= place < len(rows)
    if any(cell for row in rows for cell in row):
        assert any(rows[place]) or place == 0


@given(st.lists(st.text(max_size=6), max_size=12))
def test_column_names_are_distinct_and_never_empty(cells: list[str]) -> None:
    names = unique_headers(cells, "x.csv")
    assert len(set(names)) == len(names) == len(cells)
    assert all(names)


def test_too_many_columns_are_refused_with_file_and_row() -> None:
    with pytest.raises(InputError, match=r"wide\.csv, row 3: 2001 columns") as caught:
        unique_headers(["x"] * 2001, "wide.csv", 3)
    assert (caught.value.file, caught.value.row) == ("wide.csv", 3)


@given(st.text(max_size=200))
def test_no_text_in_a_card_raises(tmp_path_factory: pytest.TempPathFactory, text: str) -> None:
    path = tmp_path_factory.mktemp("cards") / "list.vcf"
    path.write_text(
        f"BEGIN:VCARD\nVERSION:4.0\nFN:Tern\n{text}\nEND:VCARD\nBEGIN:VCARD\nVERSION:4.0\nFN:Skua\nEND:VCARD\n",
        encoding="utf-8",
    )
    found = list(open_table(path).rows())
    assert any(isinstance(row, Row) and row.values.get("fn") == "Skua" for row in found)
    assert all(row.reason for row in found if isinstance(row, BadRow))


def test_an_archive_that_is_no_spreadsheet_and_one_that_lies_about_its_parts_are_told(tmp_path: Path) -> None:
    path = tmp_path / "x.zip"
    path.write_bytes(zipped({"readme.txt": b"x"}))
    with pytest.raises(InputError, match="not a spreadsheet"):
        spreadsheet_kind(path, "x.xlsx")
    whole = zipped({"xl/workbook.xml": b"y" * 5000})
    path.write_bytes(whole.replace(whole[40:44], b"\0\0\0\0", 1))
    with pytest.raises(InputError, match=r"damaged|not a"):
        spreadsheet_kind(path, "x.xlsx")


@pytest.mark.parametrize(("repeat", "refused"), [(1000, False), (50_000_000, True)])
def test_repeated_rows_count_only_as_far_as_a_value_comes_after_them(
    tmp_path: Path, repeat: int, refused: bool
) -> None:
    blank = f'<table:table-row table:number-rows-repeated="{repeat}"><table:table-cell/></table:table-row>'
    last = '<table:table-row><table:table-cell office:value-type="string"><text:p>x</text:p></table:table-cell></table:table-row>'
    path = tmp_path / "x.ods"
    path.write_bytes(ods([{"a": "1"}], more=blank))
    check_ods(path, "x.ods")
    path.write_bytes(ods([{"a": "1"}], more=blank + last))
    if refused:
        with pytest.raises(InputError, match="more than the"):
            check_ods(path, "x.ods")
    else:
        check_ods(path, "x.ods")


@pytest.mark.parametrize("prefix", ["", "x:"])
def test_a_sheet_that_spans_too_much_is_refused_whatever_its_prefix_and_its_quotes(tmp_path: Path, prefix: str) -> None:
    space = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
    name = "xmlns:x" if prefix else "xmlns"
    cells = "".join(f"<{prefix}c r='{place}'><{prefix}v>1</{prefix}v></{prefix}c>" for place in ("A1", "XFD1048576"))
    path = tmp_path / "wide.xlsx"
    path.write_bytes(
        sheet(f"<{prefix}worksheet {name}='{space}'><{prefix}sheetData>{cells}</{prefix}sheetData></{prefix}worksheet>")
    )
    with pytest.raises(InputError, match="cells, more than the"):
        open_table(path, "wide.xlsx")


def test_cells_that_cannot_be_read_are_found_also_where_stretches_of_the_sheet_meet(tmp_path: Path) -> None:
    cells = "".join(f'<row r="{n}"><c r="A{n}"><f>1+{n}</f><v></v></c></row>' for n in range(2, 40))
    path = tmp_path / "x.xlsx"
    path.write_bytes(sheet(f"<worksheet><sheetData>{cells}</sheetData></worksheet>"))
    for size in (7, 50, 333):
        assert sorted(check_xlsx_sheet(path, "Sheet", "x.xlsx", chunk_bytes=size).rows) == list(range(2, 40))
