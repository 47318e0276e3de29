"""Records of a register kept as a file: the same when taken, gone when the state is another, never in anybody's way."""

import os
from pathlib import Path

import numpy as np
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from oddpair.core.records import RecordSet, RecordSetBuilder
from oddpair.files.kept_records import KeptRecords

values = st.text(st.characters(exclude_categories=["Cs"]), max_size=6)
rows = st.lists(
    st.tuples(st.sampled_from(["till", "webshop", "ærø"]), st.dictionaries(st.sampled_from(["name", "name#2", "phone.end"]), values)),
    max_size=9,
)  # fmt: skip


def built(content: list[tuple[str, dict[str, str]]]) -> RecordSet:
    builder = RecordSetBuilder()
    for number, (source, fields) in enumerate(content):
        builder.add(source, f"{number:03d}", fields)
    return builder.build()


@given(rows)
@hypothesis_settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_what_is_taken_is_what_was_kept(tmp_path: Path, content: list[tuple[str, dict[str, str]]]) -> None:
    records, numbers = built(content), np.arange(len(content), dtype=np.int64) * 7 + 2**40
    keeper = KeptRecords(tmp_path / "kept")
    keeper.keep(3, "5-abc", records, numbers)
    found = keeper.take(3, "5-abc")
    assert found is not None
    taken, ids = found
    assert ids.tolist() == numbers.tolist()
    assert (taken.sources, taken.ids) == (records.sources, records.ids)
    assert [taken.source_of(place) for place in range(len(taken))] == [
        records.source_of(place) for place in range(len(records))
    ]
    assert [taken.row(place) for place in range(len(taken))] == [records.row(place) for place in range(len(records))]
    assert all(taken.column(name).values == column.values for name, column in records.columns.items())


def test_only_the_latest_state_of_each_register_is_kept_and_only_for_its_owner(tmp_path: Path) -> None:
    keeper, records = KeptRecords(tmp_path / "kept"), built([("till", {"name": "tern"})])
    for register, state in ((1, "1-a"), (1, "2-a"), (12, "1-a")):
        keeper.keep(register, state, records, np.zeros(1, dtype=np.int64))
    assert keeper.take(1, "1-a") is None
    assert keeper.take(1, "2-a") is not None
    assert keeper.take(12, "1-a") is not None
    files = sorted((tmp_path / "kept").iterdir())
    assert [file.name for file in files] == ["register-1-2-a.arrow", "register-12-1-a.arrow"]
    assert all(file.stat().st_mode & 0o077 == 0 for file in [tmp_path / "kept", *files])


def test_a_damaged_file_or_a_folder_that_cannot_be_written_is_nobodys_trouble(tmp_path: Path) -> None:
    keeper, records = KeptRecords(tmp_path / "kept"), built([("till", {"name": "tern"})])
    keeper.keep(1, "1-a", records, np.zeros(1, dtype=np.int64))
    [file] = (tmp_path / "kept").iterdir()
    os.truncate(file, file.stat().st_size // 2)
    assert keeper.take(1, "1-a") is None
    (tmp_path / "file").write_text("")
    blocked = KeptRecords(tmp_path / "file" / "kept")
    blocked.keep(1, "1-a", records, np.zeros(1, dtype=np.int64))
    assert blocked.take(1, "1-a") is None
