"""What is written is read back: by our own readers where there are, by the libraries of the format elsewhere."""

import csv
import io
import json
from collections.abc import Callable
from pathlib import Path

import pyarrow.parquet as parquet
import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import load_workbook

from oddpair.files import open_table, writers
from oddpair.files.table import BadRow
from oddpair.files.writers import harmless, table_chunks, xlsx_chunks

_texts = st.text(
    st.characters(exclude_categories=["Cs", "Cc", "Cf", "Zl", "Zp"]) | st.sampled_from(",;\\ æß日"), max_size=90
).map(lambda text: " ".join(text.split()))
_rows = st.lists(
    st.fixed_dictionaries(
        {"golden_key": st.integers(1, 99).map(lambda number: f"CU-{number:05d}")},
        optional={
            "name": _texts, "name.given": _texts, "name.family": _texts, "address.line": _texts, "address.city": _texts,
            "address.country": st.sampled_from(["DK", "GB"]), "phone": st.sampled_from(["+4575001874", "75 00 18 74"]),
            "email": st.just("a@b.example"), "birth_date": st.just("1980-02-03"),
        },
    ),
    min_size=1, max_size=4,
)  # fmt: skip
COLUMNS = ("golden_key", "name", "phone")


@given(_rows)
def test_cards_hold_what_they_have_a_place_for_and_no_line_is_too_long(
    tmp_path_factory: pytest.TempPathFactory, rows: list[dict[str, str]]
) -> None:
    written = b"".join(table_chunks("vcf", COLUMNS, rows, "golden"))
    assert all(len(line) <= 75 for line in written.split(b"\r\n"))
    written.decode("utf-8")
    path = tmp_path_factory.mktemp("cards") / "golden.vcf"
    path.write_bytes(written)
    table = open_table(path, "golden.vcf")
    found = [row for row in table.rows() if not isinstance(row, BadRow)]
    assert len(found) == len(rows)
    for row, card in zip(rows, found, strict=True):
        is_person = bool(row.get("name.given") or row.get("name.family"))
        kept = {"uid": "golden_key", "adr.street": "address.line", "adr.city": "address.city", "email": "email"}
        if is_person:
            kept |= {"n.family": "name.family", "n.given": "name.given"}
        assert {column: card.values.get(column, "") for column in kept} == {
            column: row.get(field, "") for column, field in kept.items()
        }


def read_workbook(written: bytes) -> list[dict[str, str]]:
    head, *lines = load_workbook(io.BytesIO(written))["golden"].iter_rows(values_only=True)
    return [{str(name): str(cell or "") for name, cell in zip(head, line, strict=True)} for line in lines]


#: For every format of a table: how its own library reads it. Cards hold what they have a place for, and have a test of their own.
READERS: dict[str, Callable[[bytes], list[dict[str, str]]]] = {
    "csv": lambda written: list(csv.DictReader(io.StringIO(written.decode("utf-8"), newline=""))),
    "jsonl": lambda written: [json.loads(line) for line in written.decode("utf-8").split("\n") if line],
    "parquet": lambda written: parquet.read_table(io.BytesIO(written)).to_pylist(),
    "xlsx": read_workbook,
}


def test_every_format_is_in_the_table() -> None:
    assert {*READERS, "vcf"} == set(writers.CONTENT_TYPES)


@pytest.mark.parametrize("file_format", READERS)
@given(rows=_rows)
def test_every_format_holds_every_value(file_format: str, rows: list[dict[str, str]]) -> None:
    written = b"".join(table_chunks(file_format, COLUMNS, rows, "golden"))
    spelled = (lambda text: text) if file_format in ("parquet", "jsonl") else harmless
    found = [{column: line.get(column) or "" for column in COLUMNS} for line in READERS[file_format](written)]
    assert found == [{column: spelled(row.get(column, "")) for column in COLUMNS} for row in rows]


@given(_rows)
def test_parquet_has_null_for_what_is_missing(rows: list[dict[str, str]]) -> None:
    found = READERS["parquet"](b"".join(table_chunks("parquet", COLUMNS, rows, "golden")))
    assert found == [{column: row.get(column) or None for column in COLUMNS} for row in rows]


def test_rows_beyond_a_sheet_go_on_the_next() -> None:
    rows = [{"golden_key": f"CU-{number}", "name": "=1+1"} for number in range(7)]
    book = load_workbook(io.BytesIO(b"".join(xlsx_chunks(COLUMNS, rows, "customers-golden", most_rows=4))))
    assert [sheet.title for sheet in book] == ["customers-golden", "customers-golden 2", "customers-golden 3"]
    cells = [row for sheet in book for row in sheet.iter_rows(min_row=2, values_only=True)]
    assert [row[0] for row in cells] == [row["golden_key"] for row in rows]
    assert {row[1] for row in cells} == {harmless("=1+1")}
    empty = load_workbook(io.BytesIO(b"".join(table_chunks("xlsx", COLUMNS, [], "golden"))))
    assert [list(sheet.values) for sheet in empty] == [[COLUMNS]]


@pytest.mark.parametrize("file_format", sorted(writers.CONTENT_TYPES))
def test_nothing_to_write_is_a_file_all_the_same(file_format: str, tmp_path: Path) -> None:
    written = b"".join(table_chunks(file_format, COLUMNS, [], "golden"))
    assert (written == b"") == (file_format in ("jsonl", "vcf"))
