"""The commands beside match: data out of the database, demo files, the API's description, and what wrong use is told."""

import json
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from oddpair.core.fields import RegisterKind
from oddpair.demo import DemoFile, make_demo
from oddpair.launch.postgres import PrivatePostgres
from oddpair.services import demo as demo_service
from oddpair.services.golden import merge
from oddpair.services.registers import registers
from oddpair.store.database import make_engine, make_sessions, migrate

from .test_match import odd_pair, table


@pytest.fixture(scope="module")
def data() -> Iterator[Path]:
    """A data folder as a stopped Odd Pair leaves it, with one merged register and one empty one."""
    outer = Path(tempfile.mkdtemp(prefix="odd-pair-cli-", dir="/var/tmp"))
    outer.chmod(0o755)
    folder = outer / "data"
    folder.mkdir()
    server = PrivatePostgres(folder / "postgres", for_tests=True)
    url = server.start().replace("postgresql://", "postgresql+psycopg://", 1)
    migrate(url)
    engine = make_engine(url)
    sessions = make_sessions(engine)
    said: list[str] = []
    demo_service.load_demo(sessions, folder / "demo", folder / "deliveries", said.append, scale=0.05)
    assert [line.split(":")[0] for line in said] == ["loading Customers", "loading Boat owners", "loading Suppliers"]
    assert demo_service.demo_is_loaded(sessions)
    with sessions.begin() as session:
        merge.merge(session, "suppliers", actor="ann")
        registers.make_register(session, "Empty", RegisterKind.PERSON)
    engine.dispose()
    server.stop()
    yield folder
    shutil.rmtree(outer, ignore_errors=True)


@pytest.mark.parametrize("file_format", ["csv", "xlsx", "jsonl"])
def test_golden_records_and_crosswalk_are_sent_out_without_a_screen(data: Path, tmp_path: Path, file_format: str):
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


def test_an_empty_register_gives_tables_with_a_header_only(data: Path, tmp_path: Path):
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
):
    done = odd_pair("send-out", *arguments, "--out", tmp_path / "out", "--data", data)
    assert done.returncode == status
    assert told in " ".join(done.stderr.replace("│", " ").split())


def test_sending_out_of_a_folder_without_data_says_what_to_do(tmp_path: Path):
    done = odd_pair("send-out", "suppliers", "--out", tmp_path / "out", "--data", tmp_path)
    assert done.returncode == 1
    assert "there is no Odd Pair database in" in done.stderr


def test_demo_data_is_the_generator_itself(tmp_path: Path):
    done = odd_pair("demo-data", "--out", tmp_path / "made", "--scale", "0.05", "--seed", "9")
    assert done.returncode == 0
    expected: list[DemoFile] = make_demo(tmp_path / "expected", seed=9, scale=0.05)
    for file in expected:
        made = tmp_path / "made" / file.path.relative_to(tmp_path / "expected")
        assert made.exists()
        assert str(made) in done.stdout
        if made.suffix != ".xlsx":
            assert made.read_bytes() == file.path.read_bytes()


def test_the_description_of_the_api_needs_no_database():
    document = json.loads(odd_pair("openapi").stdout)
    assert document["info"]["title"] == "Odd Pair"
    for path, operations in document["paths"].items():
        assert path.startswith("/api/")
        for operation in operations.values():
            assert operation["summary"]
            assert operation["responses"]["4XX"]


def test_help_lists_every_command_that_is_not_hidden():
    text = odd_pair("--help").stdout
    for command in ("demo", "start", "match", "evaluate", "send-out", "demo-data", "openapi"):
        assert command in text
    assert "warm-up" not in text


def test_evaluating_something_else_than_clusters_is_told(tmp_path: Path):
    (tmp_path / "a.csv").write_text("x\n1\n")
    (tmp_path / "truth.csv").write_text("source,source_id,entity\nt,1,e\n")
    done = odd_pair("evaluate", tmp_path / "a.csv", "--truth", tmp_path / "truth.csv")
    assert (done.returncode, done.stderr) == (1, "odd-pair: a.csv: there is no column 'source'\n")
    (tmp_path / "a.csv").write_text("source,source_id,cluster_id\nother,1,c\n")
    done = odd_pair("evaluate", tmp_path / "a.csv", "--truth", tmp_path / "truth.csv")
    assert "no record of the truth stands in the clusters" in done.stderr
