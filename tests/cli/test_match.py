"""The command line as a process of its own."""

import csv
import json
from pathlib import Path

import pytest

from oddpair.core.fields import RegisterKind
from oddpair.core.plan.text import default_plan_text
from oddpair.demo import make_demo

from .command import odd_pair


def table(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("demo")
    make_demo(folder, scale=0.2)
    return folder


@pytest.mark.parametrize(("register", "kind"), [("customers", "organisation"), ("boat-owners", "person")])
def test_a_folder_of_differing_files_needs_no_map(demo: Path, tmp_path: Path, register: str, kind: str) -> None:
    files = sorted(path for path in (demo / register).iterdir() if path.name != "truth.csv")
    done = odd_pair("match", *files, "--kind", kind, "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    assert done.stdout == ""
    assert "odd-pair: compare" in done.stderr
    out = tmp_path / "out"
    truth = {(row["source"], row["source_id"]): row["entity"] for row in table(demo / register / "truth.csv")}
    clusters = {(row["source"], row["source_id"]): row["cluster_id"] for row in table(out / "clusters.csv")}
    assert set(clusters) == set(truth)
    pairs = table(out / "pairs.csv")
    assert list(pairs[0]) == ["source_a", "id_a", "source_b", "id_b", "score", "probability", "verdict", "reason"]
    assert {row["verdict"] for row in pairs} == {"same", "unsure"}
    hits = {
        verdict: [
            truth[r["source_a"], r["id_a"]] == truth[r["source_b"], r["id_b"]] for r in pairs if r["verdict"] == verdict
        ]
        for verdict in ("same", "unsure")
    }
    sizes = [list(truth.values()).count(entity) for entity in set(truth.values())]
    wanted = sum(size * (size - 1) // 2 for size in sizes)
    # The benchmark measures closely; here only a collapse should fail.
    assert sum(hits["same"]) / len(hits["same"]) > 0.96
    assert (sum(hits["same"]) + sum(hits["unsure"])) / wanted > 0.92
    report = json.loads((out / "report.json").read_text())
    assert report["records"] == len(truth) == len(table(out / "crosswalk.csv"))
    assert report["rejected"] == len(table(out / "rejected.csv")) == 7
    assert report["clusters"] == len(table(out / "golden.csv"))
    figures = odd_pair("evaluate", out / "clusters.csv", "--truth", demo / register / "truth.csv")
    assert "pairwise" in figures.stdout
    assert "B-cubed" in figures.stdout
    for part in ("never compared", "phone.end", "a person must see", "limit (bits)"):
        assert part in figures.stdout
    sample = tmp_path / "sample.csv"
    assert odd_pair("sample", out / "pairs.csv", "--out", sample, "--size", "40").returncode == 0
    rows = table(sample)
    for row in rows:
        same = truth[row["source_a"], row["id_a"]] == truth[row["source_b"], row["id_b"]]
        row["decision"] = "same" if same else "different"
    with sample.open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, list(rows[0]))
        writer.writeheader()
        writer.writerows(rows)
    estimated = odd_pair("estimate", out / "pairs.csv", "--sample", sample).stdout
    assert f"decided pairs        {len(rows)}" in estimated
    assert "precision of same" in estimated
    sample.write_text(sample.read_text().replace(",same\n", ",maybe\n").replace(",different\n", ",perhaps\n"))
    assert "is neither 'same' nor 'different'" in odd_pair("estimate", out / "pairs.csv", "--sample", sample).stderr


def test_plan_and_map_are_followed(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("x,y\n1,Skua Ropes\n2,Skua Ropes\n")
    (tmp_path / "map.yaml").write_text("a: {x: id, y: name}\n")
    (tmp_path / "plan.yaml").write_text(
        default_plan_text(RegisterKind.ORGANISATION)
        .replace("unsure: -6.0", "unsure: 0.0")
        .replace("least_mean: 0.0", "least_mean: 1.0")
    )
    out = tmp_path / "out"
    arguments = (
        tmp_path / "a.csv",
        "--kind",
        "organisation",
        "--out",
        out,
        "--map",
        tmp_path / "map.yaml",
        "--plan",
        tmp_path / "plan.yaml",
    )
    assert odd_pair("match", *arguments).returncode == 0
    assert len({row["cluster_id"] for row in table(out / "clusters.csv")}) == 1
    assert odd_pair("match", *arguments, "--no-duplicates", "a").returncode == 0
    assert len({row["cluster_id"] for row in table(out / "clusters.csv")}) == 2


def test_a_run_that_sets_a_large_part_of_a_file_aside_says_so_loudly(tmp_path: Path) -> None:
    rows = "".join(f"{n},{'Skua Ropes' if n % 3 else ''},01632960{n:03d}\n" for n in range(30))
    (tmp_path / "till.csv").write_text(f"id,name,phone\n{rows}")
    done = odd_pair("match", tmp_path / "till.csv", "--kind", "organisation", "--out", tmp_path / "out")
    assert done.returncode == 3
    assert (
        "WARNING: till.csv: 10 of 30 rows are set aside, 10 of them because the name is missing (column 'name')"
        in done.stderr
    )
    assert json.loads((tmp_path / "out" / "report.json").read_text())["warnings"]


def test_incoming_records_meet_those_of_a_reference_only(tmp_path: Path) -> None:
    for name in ("golden", "till"):
        (tmp_path / f"{name}.csv").write_text("id,name,phone\n1,Skua Ropes,01632960001\n2,Skua Ropes,01632960001\n")
    files, out = (tmp_path / "golden.csv", tmp_path / "till.csv"), tmp_path / "out"
    arguments = ("match", *files, "--kind", "organisation", "--out", out)
    assert odd_pair(*arguments, "--reference", "golden").returncode == 0
    assert {(row["source_a"], row["source_b"]) for row in table(out / "pairs.csv")} == {("golden", "till")}
    wrong = odd_pair(*arguments, "--reference", "golde")
    assert (wrong.returncode, "no file is called 'golde'. Did you mean 'golden'" in wrong.stderr) == (1, True)


def test_exit_status_tells_wrong_use_from_a_failed_run(tmp_path: Path) -> None:
    good, empty, plan = tmp_path / "good.csv", tmp_path / "empty.csv", tmp_path / "plan.yaml"
    good.write_text("id,name\n1,Tern\n")
    empty.write_text("")
    plan.write_text("title: x")
    out = tmp_path / "out"
    cases = [
        (("match", good, "--kind", "organisation"), 2, "--out"),
        (("match", good, "--kind", "boat", "--out", out), 2, "boat"),
        (("match", tmp_path / "gone.csv", "--kind", "person", "--out", out), 2, "gone.csv"),
        (("match", good, "--kind", "organisation", "--out", out, "--plan", plan), 2, "match plan is not valid"),
        (("match", empty, "--kind", "organisation", "--out", out), 1, "empty.csv: the file is empty"),
    ]
    for arguments, status, told in cases:
        done = odd_pair(*arguments)
        assert (done.returncode, told in done.stderr) == (status, True), done.stderr
        assert not out.exists()


def test_help_needs_no_manual() -> None:
    text = odd_pair("match", "--help").stdout
    for part in ("pairs.csv", "clusters.csv", "report.json", "--map", "--plan", "Exit status"):
        assert part in text
