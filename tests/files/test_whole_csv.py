"""A CSV file read as a whole gives what reading it row by row gives, or is left to that."""

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from oddpair.core.mapping import Assignment
from oddpair.files import AcceptedColumns, RejectedRow, intake_columns, intake_whole, open_table

MAPPING = (
    Assignment("id", "id"),
    Assignment("name", "name"),
    Assignment("phone", "tel"),
    Assignment("address.country", constant="GB"),
)
Outcome = tuple[list[str], dict[str, list[str]], list[RejectedRow]]


def by_rows(path: Path, mapping: tuple[Assignment, ...] = MAPPING) -> Outcome:
    ids: list[str] = []
    columns: dict[str, list[str]] = {}
    rejected = []
    for part in intake_columns(open_table(path), mapping):
        if isinstance(part, AcceptedColumns):
            ids += part.ids
            for name, values in part.columns.items():
                columns.setdefault(name, []).extend(values)
        else:
            rejected.append(part)
    return ids, columns, sorted(rejected, key=lambda row: row.number)


def as_whole(path: Path, mapping: tuple[Assignment, ...] = MAPPING) -> Outcome | None:
    found = intake_whole(open_table(path), mapping, worth_bytes=0)
    if found is None:
        return None
    columns = {
        name: [(*column.values, "")[code] for code in column.codes.tolist()] for name, column in found.columns.items()
    }
    return found.ids, columns if found.ids else {}, found.rejected


cell = st.sampled_from(
    ["", "1", "2", "3", " Tern ", "Skua, Ropes", 'The "Gull"', "Ærø", "n/a", "=1", "'x", "5 ", '"', "a;b"]
)
line = st.lists(cell, min_size=1, max_size=5)


def written(cells: list[str], delimiter: str) -> str:
    quoted = ['"' + text.replace('"', '""') + '"' if delimiter in text or '"' in text else text for text in cells]
    return delimiter.join(quoted)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(line, max_size=12),
    st.sampled_from([",", ";", "\t"]),
    st.sampled_from(["\n", "\r\n"]),
    st.sampled_from(["utf-8", "utf-8-sig", "cp1252"]),
)
def test_rows_read_as_a_whole_are_those_read_one_by_one(
    tmp_path: Path, lines: list[list[str]], delimiter: str, end: str, encoding: str
) -> None:
    known = [
        ["7", "Tern Boatyard", "01632 960001"],
        ["8", "Skua Ropes", "01632 960002"],
        ["9", "Eider Sails", "01632 960003"],
    ]
    text = end.join(written(cells, delimiter) for cells in [["id", "name", "tel"], *known, *lines])
    path = tmp_path / "rows.csv"
    path.write_bytes(text.encode(encoding))
    whole = as_whole(path)
    if whole is not None:
        assert whole == by_rows(path)


def test_a_plain_file_is_read_as_a_whole_and_its_odd_rows_by_themselves(tmp_path: Path) -> None:
    path = tmp_path / "till.csv"
    path.write_text(
        'id,name,tel\n1,Tern,5\n\n2,"Skua, Ropes",6\n3,only two\n1,again,7\n4,,8\n5,Ærø,9,10\n6, "Gull",\n7,Eider,\n'
    )
    assert as_whole(path) is None, "a quote after a space at the beginning of a cell is read differently"
    path.write_text(path.read_text().replace(' "Gull"', " Gull"))
    whole = as_whole(path)
    assert whole == by_rows(path)
    assert whole is not None
    assert whole[0] == ["1", "2", "6", "7"]
    assert [(row.number, row.reason) for row in whole[2]] == [
        (5, "the row has 2 cells, the header has 3"), (6, "the id '1' stands in row 2 already"), (7, "the name is missing"),
        (8, "the row has 4 cells, the header has 3"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    "row", ['2,"Skua\nRopes",6', '2,5" Rope,6', "2,Skua,6,", '2,a"b"c,6'],
    ids=["a cell over two lines", "an inch sign", "empty cells beyond the header", "quotes inside"],
)  # fmt: skip
def test_what_readers_would_understand_differently_is_left_to_the_reader_of_rows(tmp_path: Path, row: str) -> None:
    path = tmp_path / "till.csv"
    path.write_text(f"id,name,tel\n1,Tern,5\n{row}\n3,Gull,7\n")
    assert as_whole(path) is None


def test_without_an_id_column_the_rows_number_is_the_id(tmp_path: Path) -> None:
    path = tmp_path / "till.csv"
    path.write_text("name,tel\nTern,5\n\nGull,6\n")
    mapping = (Assignment("name", "name"),)
    whole = as_whole(path, mapping)
    assert whole == by_rows(path, mapping)
    assert whole is not None
    assert whole[0] == ["2", "4"]


def test_names_that_go_on_in_the_next_column_are_joined_either_way(tmp_path: Path) -> None:
    path = tmp_path / "cut.csv"
    path.write_text("no;a;b\n1;Skua Harbour;Charts\n2;Tern;Rope House\n3;Skua Harbour;Charts\n4;Gannet Chandle;rs\n")
    mapping = (Assignment("id", "no"), Assignment("name", "a"), Assignment("name", "b", continues=14))
    assert as_whole(path, mapping) == by_rows(path, mapping)
    assert by_rows(path, mapping)[1] == {
        "name": ["Skua Harbour Charts", "Tern", "Skua Harbour Charts", "Gannet Chandlers"],
        "name#2": ["", "Rope House", "", ""],
    }
