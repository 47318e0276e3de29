"""Looking the rows of a file up in another file, from the command line and without a database."""

import csv
import json
from pathlib import Path

import pytest

from oddpair.cli import app as cli

FIRST = """nr,company,place,note
1,Kestrel Rope Walk Ltd,Whitby,gold
2,Marram Sail Loft,Grimsby,=1+1
3,,Hull,nameless
4,Nobody Knows Me Engines,Leith,
5,Stranger 5 Chandlery5,Elsewhere5,
6,Stranger 6 Chandlery6,Elsewhere6,
7,Stranger 7 Chandlery7,Elsewhere7,
8,Stranger 8 Chandlery8,Elsewhere8,
9,Stranger 9 Chandlery9,Elsewhere9,
10,Stranger 10 Chandlery10,Elsewhere10,
11,Stranger 11 Chandlery11,Elsewhere11,
12,Stranger 12 Chandlery12,Elsewhere12,
13,Stranger 13 Chandlery13,Elsewhere13,
14,Stranger 14 Chandlery14,Elsewhere14,
"""
SECOND = """key;name;town;class
k1;KESTREL ROPE WALK;WHITBY;A
k2;Marram Sail Loft Limited;Grimsby;B
k3;Tern Paints;Oban;C
"""


@pytest.fixture
def two_files(tmp_path: Path) -> tuple[Path, Path]:
    first, second = tmp_path / "first.csv", tmp_path / "second.csv"
    first.write_text(FIRST, encoding="utf-8")
    second.write_text(
        SECOND + "".join(f"x{n};Bystander{n} Number{n * 7};Town{n};D\n" for n in range(60)), encoding="utf-8"
    )
    return first, second


def look_up(monkeypatch: pytest.MonkeyPatch, *words: object) -> int:
    monkeypatch.setattr("sys.argv", ["odd-pair", "look-up", *map(str, words)])
    try:
        cli.main()
    except SystemExit as ended:
        return int(ended.code or 0)
    return 0


def test_all_rows_and_columns_are_passed_through_with_counterparts_beside(
    two_files: tuple[Path, Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    first, second = two_files
    out = tmp_path / "out.csv"
    code = look_up(
        monkeypatch, first, "--in", second, "--kind", "organisation", "--keep", "class, town", "--out", out, "--json"
    )
    assert code == 0
    report = json.loads(capsys.readouterr().out)
    rows = list(csv.DictReader(out.read_text(encoding="utf-8").splitlines()))
    outcomes = {row["nr"]: row["counterpart_outcome"] for row in rows}
    assert [outcomes[number] for number in "1234"] == ["matched", "matched", "rejected", "none"]
    assert report["outcomes"] == {"matched": 2, "several": 0, "unsure": 0, "none": 11, "rejected": 1}
    assert report["rows"] == 14
    by_number = {row["nr"]: row for row in rows}
    assert by_number["1"]["counterpart_class"] == "A"
    assert by_number["1"]["counterpart_town"] == "WHITBY"
    assert by_number["2"]["note"].lstrip("'") == "=1+1"
    assert "the name is missing" in by_number["3"]["counterpart_reason"]
    assert by_number["4"]["counterpart_id"] == ""


@pytest.mark.parametrize(
    ("words", "code", "says"),
    [
        (("--in", "nowhere.csv", "--kind", "organisation", "--out", "o.csv"), 2, "nowhere.csv"),
        (("--in", "SECOND", "--out", "o.csv"), 2, "--kind"),
        (("--in", "SECOND", "--kind", "organisation", "--out", "o.doc"), 1, "ending"),
        (("--in", "SECOND", "--kind", "organisation", "--keep", "clas", "--out", "o.csv"), 1, "class"),
    ],
)
def test_wrong_use_is_told(
    two_files: tuple[Path, Path], words: tuple[str, ...], code: int, says: str, tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str],
) -> None:  # fmt: skip
    first, second = two_files
    chosen = [
        str(second) if word == "SECOND" else str(tmp_path / word) if word.startswith("o.") else word for word in words
    ]
    assert look_up(monkeypatch, first, *chosen) == code
    assert says in capsys.readouterr().err
    assert not list(tmp_path.glob("o.*"))


def test_the_best_pairing_over_all_is_asked_for(
    two_files: tuple[Path, Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, second = two_files
    out = tmp_path / "out.jsonl"
    common = (first, "--in", second, "--kind", "organisation", "--out", out, "--best", 3)
    assert look_up(monkeypatch, *common, "--one-to-one") == 0
    rows = [json.loads(line) for line in out.read_text(encoding="utf-8").splitlines()]
    matched = [row["counterpart_id"] for row in rows if row["counterpart_outcome"] == "matched"]
    assert sorted(matched) == ["k1", "k2"]
