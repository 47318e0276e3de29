"""Reading files without a database: in processes and here, with everything accounted for."""

from pathlib import Path

import pytest

from oddpair.core.errors import InputError, MappingInvalid
from oddpair.core.fields import RegisterKind
from oddpair.demo import DemoFile
from oddpair.services.offline.read_files import read_files

ORGANISATION = RegisterKind.ORGANISATION


def test_reading_in_processes_gives_what_reading_here_gives(demo_files: list[DemoFile]) -> None:
    paths = [file.path for file in demo_files]
    here = read_files(paths, ORGANISATION)
    seen: list[str] = []
    there = read_files(
        paths, ORGANISATION, progress=lambda stage, done, total: seen.append(stage), worth_bytes=0, count=2
    )
    assert [there.records.row(place) for place in range(len(there.records))] == [
        here.records.row(place) for place in range(len(here.records))
    ]
    assert (there.rejected, there.files) == (here.rejected, here.files)
    assert seen == [f"read {path.name}" for path in paths]
    assert sum(report["records"] for report in there.files) == len(there.records)  # type: ignore[misc]


def test_what_is_wrong_with_one_file_is_said_of_it(tmp_path: Path) -> None:
    good, bad = tmp_path / "good.csv", tmp_path / "bad.csv"
    good.write_text("no,name\n1,Skua Rope Works\n", encoding="utf-8")
    bad.write_text("a,b\n1,2\n3,4\n", encoding="utf-8")
    with pytest.raises(InputError, match=r"bad\.csv.*no column looks like a name"):
        read_files([good, bad], ORGANISATION)
    with pytest.raises(MappingInvalid, match="there is no column 'nme'"):
        read_files([good], ORGANISATION, {"good": {"nme": "name"}})
    (tmp_path / "more").mkdir()
    twin = tmp_path / "more" / "good.csv"
    twin.write_bytes(good.read_bytes())
    with pytest.raises(InputError, match="two files are called 'good'"):
        read_files([good, twin], ORGANISATION)


def test_two_columns_of_one_field_are_two_values(tmp_path: Path) -> None:
    path = tmp_path / "a.csv"
    path.write_text("no,name,t1,t2\n1,Skua,01632 960001,01632 960002\n2,Tern,,01632 960003\n3,,1,2\n", encoding="utf-8")
    read = read_files([path], ORGANISATION, {"*": {"no": "id", "name": "name", "t1": "phone", "t2": "phone"}})
    assert [read.records.row(place) for place in range(2)] == [
        {"name": "Skua", "phone": "01632 960001", "phone#2": "01632 960002"},
        {"name": "Tern", "phone#2": "01632 960003"},
    ]
    assert [(file, row.number, row.reason) for file, row in read.rejected] == [("a.csv", 4, "the name is missing")]
