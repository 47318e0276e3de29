"""Rows taken one by one and rows taken by columns become the same records."""

import json
from pathlib import Path

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from oddpair.core.mapping import Mapping, mapping_from_columns
from oddpair.files import (
    AcceptedColumns,
    AcceptedRow,
    RejectedRow,
    intake,
    intake_columns,
    open_table,
)
from oddpair.files.encodings import detect, wide_encoding
from oddpair.files.table import is_sound

MAPPING = mapping_from_columns({"no": "id", "firm": "name", "tel": "phone"})
cells = st.sampled_from(
    ["", " ", "1", "2", "3", "Tern", "Skua, Ltd", 'the "old" quay', "two\nlines", "Grønnevik", "=1+1"]
)


def both_ways(path: Path, mapping: Mapping) -> tuple[list, list]:
    """Return (accepted as (id, filled fields), rejected) by either way; fail if they differ."""
    table = open_table(path)
    one_by_one = list(intake(table, mapping))
    rows = [(row.record_id, row.fields) for row in one_by_one if isinstance(row, AcceptedRow)]
    rejected = [row for row in one_by_one if isinstance(row, RejectedRow)]
    by_columns = list(intake_columns(table, mapping))
    gathered = []
    for part in by_columns:
        if isinstance(part, AcceptedColumns):
            for place, record_id in enumerate(part.ids):
                values = {name: column[place] for name, column in part.columns.items()}
                gathered.append((record_id, {name: value for name, value in values.items() if value}))
    assert gathered == rows
    assert [row for row in by_columns if isinstance(row, RejectedRow)] == rejected
    return rows, rejected


def quoted(row: tuple[str, ...]) -> str:
    return ",".join('"' + cell.replace('"', '""') + '"' for cell in row)


@given(rows=st.lists(st.tuples(cells, cells, cells), min_size=1, max_size=12))
def test_both_ways_of_taking_rows_agree(
    tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[str, str, str]]
) -> None:
    assume(any(cell.strip() for row in rows for cell in row))
    path = tmp_path_factory.mktemp("csv") / "till.csv"
    path.write_text("no,firm,tel\n" + "\n".join(map(quoted, rows)) + "\n", encoding="utf-8", newline="")
    accepted, rejected = both_ways(path, MAPPING)
    filled = [row for row in rows if any(cell.strip() for cell in row)]
    assert len(accepted) + len(rejected) == len(filled)
    assert len({record_id for record_id, _ in accepted}) == len(accepted)


def test_rows_without_an_id_column_are_known_by_their_number_and_bad_ones_are_named(tmp_path: Path) -> None:
    path = tmp_path / "till.csv"
    path.write_bytes(b"firm,tel\nTern,1\n,2\nSkua\nEider,\xff3\n" + "Grønnevik,4\n".encode() * 9)
    accepted, rejected = both_ways(path, mapping_from_columns({"firm": "name", "tel": "phone"}))
    assert accepted[0] == ("2", {"name": "Tern", "phone": "1"})
    assert [(row.number, row.reason) for row in rejected] == [
        (3, "the name is missing"),
        (4, "the row has 1 cells, the header has 2"),
        (5, "the cell holds bytes that are not valid UTF-8"),
    ]


def test_other_formats_give_the_same_either_way(tmp_path: Path) -> None:
    path = tmp_path / "callsheet.jsonl"
    lines = [{"no": 1, "firm": "Tern", "tel": True}, {"no": 2, "firm": None}, ["no object"], {"no": 1, "firm": "Skua"}]
    path.write_text("\n".join(map(json.dumps, lines)), encoding="utf-8")
    accepted, rejected = both_ways(path, MAPPING)
    assert accepted == [("1", {"name": "Tern", "phone": "yes"})]
    assert [row.reason for row in rejected] == [
        "the name is missing", "the line is JSON but not an object", "the id '1' stands in row 1 already",
    ]  # fmt: skip


@given(st.text(max_size=30))
def test_text_is_sound_unless_it_holds_a_zero_byte_or_half_a_letter(text: str) -> None:
    assert is_sound(text) == ("\0" not in text)
    assert not is_sound(text + "\udcff")
    assert not is_sound(text + "\0")


def test_an_encoding_is_told_by_its_bytes() -> None:
    word = "Grønnevik"
    assert detect([b"plain"]).name == "utf-8"
    assert detect([word.encode()]).name == "utf-8"
    assert detect([word.encode("latin-1")]).name == "cp1252"
    assert detect([word.encode("utf-8-sig")]).name == "utf-8-sig"
    assert wide_encoding(word.encode("utf-16")) == "utf-16"
    assert detect([word.encode() * 20 + b"\xff"]).name == "utf-8"
