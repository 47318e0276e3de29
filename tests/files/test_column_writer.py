"""Files written by columns hold what files written row by row hold."""

from pathlib import Path

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from oddpair.files.column_writer import EncodedTexts, write_csv_columns
from oddpair.files.writers import write_csv

cells = st.one_of(
    st.text(max_size=12), st.sampled_from(["", '"', "a,b", "=1+1", "line\nbreak", "+44 1632", " x ", "-"])
)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(cells, cells, cells), max_size=12))
def test_a_file_written_by_columns_equals_one_written_by_rows(tmp_path: Path, rows: list[tuple[str, str, str]]) -> None:
    names = ("one", "two words", 'thr"ee')
    columns = {}
    for place, name in enumerate(names):
        texts = [row[place] for row in rows]
        distinct = sorted(set(texts))
        columns[name] = EncodedTexts(
            distinct, np.array([distinct.index(text) if text else -1 for text in texts], dtype=np.int32)
        )
    write_csv_columns(tmp_path / "columns.csv", columns)
    write_csv(tmp_path / "rows.csv", names, (dict(zip(names, row, strict=True)) for row in rows))
    assert (tmp_path / "columns.csv").read_bytes() == (tmp_path / "rows.csv").read_bytes()


def test_many_rows_are_written_in_parts(tmp_path: Path) -> None:
    codes = np.arange(40) % 3 - 1
    write_csv_columns(
        tmp_path / "part.csv",
        {"a": EncodedTexts(["x", "y"], codes), "b": EncodedTexts(["ü"], np.zeros(40, np.int64))},
        rows_at_once=7,
    )
    lines = (tmp_path / "part.csv").read_text(encoding="utf-8").splitlines()
    assert lines[:5] == ["a,b", ",ü", "x,ü", "y,ü", ",ü"]
    assert len(lines) == 41
