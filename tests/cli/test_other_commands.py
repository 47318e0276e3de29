"""The commands beside match: data out of the database, demo files, the API's description, and what wrong use is told."""

import json
import subprocess
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from oddpair.core.fields import RegisterKind
from oddpair.demo import DemoFile, make_demo
from oddpair.launch.postgres import PrivatePostgres
from oddpair.services.golden import merge
from oddpair.services.registers import registers
from oddpair.version import VERSION

from ..states.registers import small_lived_in
from ..states.server import open_folder
from ..states.site import Site
from ..states.state import States, state
from .command import odd_pair, odd_pair_process
from .test_match import table


@state(after=small_lived_in)
def suppliers_merged(site: Site) -> None:
    """One merged register, and an empty one."""
    merge.merge(site.sessions, "suppliers", actor="ann")
    with site.sessions.begin() as session:
        registers.make_register(session, "Empty", RegisterKind.PERSON)


@pytest.fixture(scope="module")
def stopped(states: States) -> Iterator[Path]:
    """A data folder as a stopped Odd Pair leaves it."""
    with open_folder("cli") as outer:
        server = PrivatePostgres(outer / "data" / "postgres", for_tests=True)
        server.start()
        states.put(suppliers_merged, server, outer / "data")
        server.stop()
        yield outer / "data"


@pytest.fixture
def data(stopped: Path) -> Iterator[Path]:
    """A copy of it for each test; whose files are is copied, too."""
    with open_folder("cli") as outer:
        subprocess.run(["cp", "--archive", stopped, outer / "data"], check=True)
        yield outer / "data"


@pytest.mark.parametrize("file_format", ["csv", "xlsx", "jsonl"])
def test_golden_records_and_crosswalk_are_sent_out_without_a_screen(
    data: Path, tmp_path: Path, file_format: str
) -> None:
    done = odd_pair("send-out", "suppliers", "--out", tmp_path / "out", "--format", file_format, "--data", data)
    assert done.returncode == 0, done.stderr
    names = {path.name for path in (tmp_path / "out").iterdir()}
    assert names == {f"suppliers-golden.{file_format}", f"suppliers-crosswalk.{file_format}"}
    if file_format == "csv":
        golden, crosswalk = (
            table(tmp_path / "out" / "suppliers-golden.csv"),
            table(tmp_path / "out" / "suppliers-crosswalk.csv"),
        )
        assert {row["golden_key"] for row in golden} == {row["golden_key"] for row in crosswalk}
        assert sum(int(row["records"]) for row in golden) == len(crosswalk)
        assert all(row["name"] for row in golden)
    if file_format == "jsonl":
        lines = (tmp_path / "out" / "suppliers-crosswalk.jsonl").read_text(encoding="utf-8").splitlines()
        assert {"source", "source_id", "golden_key"} == set(json.loads(lines[0]))


def test_an_empty_register_gives_tables_with_a_header_only(data: Path, tmp_path: Path) -> None:
    assert odd_pair("send-out", "empty", "--out", tmp_path, "--data", data).returncode == 0
    assert table(tmp_path / "empty-golden.csv") == []
    assert (tmp_path / "empty-golden.csv").read_text(encoding="utf-8").startswith("golden_key,records,name,")


@pytest.mark.parametrize(
    ("arguments", "status", "told"),
    [
        (("suppliers", "--format", "pdf"), 2, "'pdf' is not one of csv, xlsx, jsonl"),
        (("nobody",), 1, "There is no register 'nobody'."),
    ],
)
def test_sending_out_tells_what_is_wrong(
    data: Path, tmp_path: Path, arguments: tuple[str, ...], status: int, told: str
) -> None:
    done = odd_pair("send-out", *arguments, "--out", tmp_path / "out", "--data", data)
    assert done.returncode == status
    assert told in " ".join(done.stderr.replace("│", " ").split())


def test_sending_out_of_a_folder_without_data_says_what_to_do(tmp_path: Path) -> None:
    done = odd_pair("send-out", "suppliers", "--out", tmp_path / "out", "--data", tmp_path)
    assert done.returncode == 1
    assert "there is no Odd Pair database in" in done.stderr


def test_demo_data_is_the_generator_itself(tmp_path: Path) -> None:
    done = odd_pair("demo-data", "--out", tmp_path / "made", "--scale", "0.05", "--seed", "9")
    assert done.returncode == 0
    expected: list[DemoFile] = make_demo(tmp_path / "expected", seed=9, scale=0.05)
    for file in expected:
        made = tmp_path / "made" / file.path.relative_to(tmp_path / "expected")
        assert made.exists()
        assert str(made) in done.stdout
        if made.suffix != ".xlsx":
            assert made.read_bytes() == file.path.read_bytes()


def test_the_description_of_the_api_needs_no_database() -> None:
    document = json.loads(odd_pair("openapi").stdout)
    assert document["info"]["title"] == "Odd Pair"
    for path, operations in document["paths"].items():
        assert path.startswith("/api/")
        for operation in operations.values():
            assert operation["summary"]
            assert operation["responses"]["4XX"]


def test_help_lists_every_command_that_is_not_hidden() -> None:
    text = odd_pair_process("--help").stdout
    for command in (
        "demo",
        "start",
        "match",
        "evaluate",
        "send-out",
        "demo-data",
        "openapi",
        "backup",
        "restore",
        "rebuild",
        "journal",
    ):
        assert command in text
    assert "warm-up" not in text
    assert text.strip().startswith("Usage: odd-pair ")
    assert odd_pair("--version").stdout == f"odd-pair {VERSION}\n"
    assert "Usage: odd-pair match" in odd_pair("match", "--help").stdout


def test_evaluating_something_else_than_clusters_is_told(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("x\n1\n")
    (tmp_path / "truth.csv").write_text("source,source_id,entity\nt,1,e\n")
    done = odd_pair("evaluate", tmp_path / "a.csv", "--truth", tmp_path / "truth.csv")
    assert (done.returncode, done.stderr) == (1, "odd-pair: a.csv: there is no column 'source'\n")
    (tmp_path / "a.csv").write_text("source,source_id,cluster_id\nother,1,c\n")
    done = odd_pair("evaluate", tmp_path / "a.csv", "--truth", tmp_path / "truth.csv")
    assert "no record of the truth stands in the clusters" in done.stderr


def test_a_backup_is_restored_and_checked_and_goes_on_where_it_was_taken(data: Path, tmp_path: Path) -> None:
    file = tmp_path / "odd-pair.tar"
    assert odd_pair("backup", file, "--data", data).returncode == 0
    assert file.stat().st_mode & 0o777 == 0o600
    with open_folder("restore") as outer:
        done = odd_pair("restore", file, "--data", outer / "data")
        assert done.returncode == 0, done.stderr
        assert "0 problems" in done.stderr
        assert "Suppliers: computed again, 0 differences" in done.stderr
        kept = {path.name: path.read_bytes() for path in (data / "deliveries").iterdir()}
        assert {path.name: path.read_bytes() for path in (outer / "data" / "deliveries").iterdir()} == kept
        for folder in (data, outer / "data"):
            done = odd_pair("send-out", "suppliers", "--out", outer / folder.parent.name, "--data", folder)
            assert done.returncode == 0, done.stderr
        one, other = (outer / folder.parent.name / "suppliers-golden.csv" for folder in (data, outer / "data"))
        assert one.read_bytes() == other.read_bytes()
        again = odd_pair("restore", file, "--data", outer / "data")
        assert (again.returncode, "is not empty" in again.stderr) == (1, True)
        (tmp_path / "no.tar").write_bytes(b"no tar")
        wrong = odd_pair("restore", tmp_path / "no.tar", "--data", outer / "other")
        assert (wrong.returncode, "cannot be read as a backup" in wrong.stderr) == (1, True)


def test_the_journal_is_verified_and_everything_computed_again(data: Path) -> None:
    done = odd_pair("journal", "verify", "--data", data)
    assert (done.returncode, done.stdout) == (0, "")
    assert "Suppliers" in done.stderr
    done = odd_pair("rebuild", "--check", "--data", data)
    assert (done.returncode, done.stdout) == (0, ""), done.stdout


def test_what_was_tampered_with_is_found_and_made_good(data: Path) -> None:
    server = PrivatePostgres(data / "postgres", for_tests=True)
    server.start()
    with psycopg.connect(server.url("oddpair", admin=True), autocommit=True) as connection:
        with pytest.raises(psycopg.errors.RaiseException, match="append-only"):
            connection.execute("UPDATE journal SET actor = 'bob'")
        connection.execute('UPDATE golden_records SET values = values || \'{"name": "Forged"}\' WHERE number = 1')
        connection.execute("UPDATE counters SET golden = golden + 1")
    server.stop()
    done = odd_pair("rebuild", "--check", "--data", data)
    assert done.returncode == 1
    assert "golden values" in done.stdout
    assert "counters" in done.stdout
    assert odd_pair("rebuild", "--data", data).returncode == 1
    assert odd_pair("rebuild", "--check", "--data", data).returncode == 0
    server.start()
    with psycopg.connect(server.url("oddpair", admin=True), autocommit=True) as connection:
        connection.execute("ALTER TABLE journal DISABLE TRIGGER keep_journal")
        connection.execute("UPDATE journal SET actor = 'bob' WHERE id = (SELECT min(id) FROM journal)")
        connection.execute("ALTER TABLE moves DISABLE TRIGGER keep_moves")
        connection.execute("DELETE FROM moves WHERE id = (SELECT min(id) FROM moves)")
    server.stop()
    done = odd_pair("journal", "verify", "--data", data)
    assert done.returncode == 1
    assert "was changed" in done.stdout
    assert "its moves were changed" in done.stdout


def test_a_nightly_line_loads_matches_merges_looks_up_and_finds(data: Path, tmp_path: Path) -> None:
    delivery = tmp_path / "harbour list.csv"
    rows = [
        "nr,company,town,phone",
        "1,Kittiwake Winch Works,Leith,01632 960901",
        "2,Auk Rigging Lofts,Oban,01632 960902",
    ]
    delivery.write_text("\n".join(rows) + "\n", encoding="utf-8")
    loaded = odd_pair_process("load", "customers", delivery, "--source", "harbour", "--json", "--data", data)
    assert loaded.returncode == 0, loaded.stderr
    counts = json.loads(loaded.stdout)
    assert (counts["new"], counts["rejected"]) == (2, 0)
    ran = odd_pair("run", "customers", "--json", "--data", data)
    assert ran.returncode == 0, ran.stderr
    assert json.loads(ran.stdout)["records"] > 2
    merged = odd_pair("merge", "customers", "--json", "--data", data)
    assert json.loads(merged.stdout)["made"] > 0, merged.stderr
    asked = tmp_path / "asked.csv"
    strangers = "".join(f"s{n},Stranger{n} Glass{n},x{n}\n" for n in range(12))
    asked.write_text(f"id,firm,badge\na,KITTIWAKE WINCH WORKS LTD,blue\n{strangers}", encoding="utf-8")
    out = tmp_path / "asked-out.csv"
    looked = odd_pair("look-up", asked, "--in", "customers", "--keep", "phone", "--out", out, "--json", "--data", data)
    assert looked.returncode == 0, looked.stderr
    assert sum(json.loads(looked.stdout)["outcomes"].values()) == 13
    first = table(out)[0]
    assert (first["counterpart_outcome"], first["badge"]) == ("matched", "blue")
    assert first["counterpart_id"].startswith("CU-")
    assert first["counterpart_phone"] == "01632 960901"
    report = tmp_path / "findings.csv"
    found = odd_pair("findings", "suppliers", "Suppliers and staff", "--out", report, "--json", "--data", data)
    counts = json.loads(found.stdout)
    assert found.returncode == (4 if counts["open"] else 0), found.stderr
    assert len({line["finding"] for line in table(report)}) == counts["findings"] >= 5


@pytest.mark.parametrize(
    ("words", "code", "says"),
    [
        (("load", "customers", "FILE", "--gone", "away"), 2, "--gone"),
        (("load", "nowhere", "FILE"), 1, "nowhere"),
        (("run", "empty"), 1, "no records"),
        (("merge", "nowhere"), 1, "nowhere"),
        (("findings", "suppliers", "nothing"), 1, "nothing"),
        (("look-up", "FILE", "--in", "customers", "--keep", "fone", "--out", "OUT.csv"), 1, "phone"),
        (("look-up", "FILE", "--in", "customers", "--out", "OUT.doc"), 1, "ending"),
    ],
)
def test_wrong_use_of_nightly_commands_is_told(
    data: Path, tmp_path: Path, words: tuple[str, ...], code: int, says: str
) -> None:
    file = tmp_path / "file.csv"
    file.write_text("id,name\n1,Tern Boats\n", encoding="utf-8")
    named = [
        str(file) if word == "FILE" else str(tmp_path / word) if word.startswith("OUT") else word for word in words
    ]
    ended = odd_pair(*named, "--data", data)
    assert ended.returncode == code
    assert says in ended.stderr


def test_a_plan_is_shown_tried_compared_and_put_in_force_without_a_screen(data: Path, tmp_path: Path) -> None:
    shown = odd_pair("plan", "show", "suppliers", "--data", data)
    assert shown.returncode == 0, shown.stderr
    file = tmp_path / "strict.yaml"
    file.write_text(shown.stdout.replace("  same: 1.0", "  same: 25.0"), encoding="utf-8")
    tried = odd_pair("plan", "try", "suppliers", file, "--json", "--data", data)
    assert tried.returncode == 0, tried.stderr
    effect = json.loads(tried.stdout)
    assert effect["against"]["version"] == 1
    assert effect["against"]["lost"] >= effect["against"]["cutting"] >= 1
    assert set(effect["quality"]) == {"precision", "recall", "f1"}
    differ = odd_pair("plan", "compare", "suppliers", "0", file, "--data", data)
    assert (differ.returncode, differ.stdout) == (5, "limits, same: 1 → 25.\n")
    alike = odd_pair("plan", "compare", "suppliers", "0", "1", "--data", data)
    assert (alike.returncode, alike.stdout) == (0, "Both say the same.\n")
    forced = odd_pair("plan", "force", "suppliers", file, "--note", "stricter", "--json", "--data", data)
    assert (forced.returncode, json.loads(forced.stdout)) == (0, {"version": 2})
    assert odd_pair("plan", "show", "suppliers", "--data", data).stdout == file.read_text(encoding="utf-8")


@pytest.mark.parametrize(
    ("arguments", "status", "told"),
    [
        (["compare", "suppliers", "0", "nowhere.yaml"], 2, "neither a version nor a file"),
        (["show", "suppliers", "--version", "99"], 1, "version of the plan '99'"),
        (["show", "suppliers", "--ready-made", "Boldly"], 2, "Cautious"),
    ],
)
def test_wrong_use_of_plan_commands_is_told(data: Path, arguments: list[str], status: int, told: str) -> None:
    done = odd_pair("plan", *arguments, "--data", data)
    assert done.returncode == status
    assert told in done.stderr


def test_a_wrong_plan_is_not_tried_and_not_put_in_force(data: Path, tmp_path: Path) -> None:
    file = tmp_path / "wrong.yaml"
    file.write_text("title: x\nkind: organisation\nlimitz: 1\n", encoding="utf-8")
    for command in ("try", "force"):
        done = odd_pair("plan", command, "suppliers", file, "--data", data)
        assert done.returncode == 2
        assert "limitz" in done.stderr


def test_people_are_added_reset_and_ended_without_a_screen(data: Path) -> None:
    def people(*words: str, status: int = 0) -> str:
        done = odd_pair("people", *words, "--data", data)
        assert done.returncode == status, done.stderr
        return done.stdout + done.stderr

    assert "Piet Averlock (piet): analyst@every, operator@every" in people("list")
    link = people("add", "Jory Penfold", "--role", "steward@suppliers", "--role", "auditor").strip()
    assert link.startswith("http://127.0.0.1:8470/welcome#")
    assert "Jory Penfold (jory): auditor@every, steward@suppliers" in people("list")
    again = people("reset", "jory penfold").strip()
    assert again.startswith("http://127.0.0.1:8470/welcome#")
    assert again != link
    assert "has ended" in people("end", "Jory Penfold")
    assert "Jory Penfold (jory): auditor@every, steward@suppliers, ended 20" in people("list")
    for words, told, status in (
        (("add", "Jory Penfold", "--role", "clerk"), "belongs to somebody already", 1),
        (("add", "Bo", "--role", "king"), "'king' is none of steward", 2),
        (("add", "Bo", "--role", "clerk@nowhere"), "no register 'nowhere'", 1),
        (("end", "Jory Penfold"), "has ended already", 1),
        (("end", "Piet Averlock"), "Nobody would be left", 1),
        (("reset", "Nobody At All"), "no person 'Nobody At All'", 1),
    ):
        assert told in people(*words, status=status)
