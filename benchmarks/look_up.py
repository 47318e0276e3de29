"""Counterparts of a file's rows in a large register, and the bridge between its sources: the real database, web process and worker.

Run: ``.venv/bin/python -m benchmarks.look_up [--records 1000000] [--rows 100000 10000] [--files FOLDER]``. It loads
organisations from five files (made, or those of a demo FOLDER), runs, and looks up rows, half of which the register does not know. It
prints seconds and memory of each job, then what the requests of the pages take. A first line says how long a plain Python loop takes.
"""

import argparse
import csv
import statistics
import tempfile
import time
from collections.abc import Callable
from functools import partial
from itertools import islice
from pathlib import Path
from typing import Any

import httpx

from benchmarks.register import application, load, loop_seconds, wait_for
from oddpair.demo import make_demo

_HOME = "/api/registers/customers"
_CUSTOMERS_AT_SCALE_ONE = 3_000
_TILL_AT_SCALE_ONE = 630
_STRANGE_SEED = 77
_TIMES = 15


def asking_file(path: Path, known: Path, strange: Path, rows: int) -> None:
    """Write rows to be looked up: every so many of a till that the register knows, and as many of one that it does not."""
    with path.open("w", encoding="utf-8", newline="") as out:
        writer = csv.writer(out)
        writer.writerow(["nr", "customer", "address", "tel", "seat"])
        for letter, source in (("k", known), ("s", strange)):
            with source.open(encoding="utf-8", newline="") as file:
                taken = islice(csv.DictReader(file), rows // 2)
                for number, row in enumerate(taken):
                    writer.writerow([f"{letter}{number}", row["CUSTOMER"], row["ADDRESS"], row["TEL"], number % 90])


def measured(name: str, ask: Callable[[int], httpx.Response]) -> None:
    """Print median and longest time of a request, asked several times."""
    took = []
    for number in range(_TIMES):
        started = time.perf_counter()
        answer = ask(number)
        took.append(1000 * (time.perf_counter() - started))
        assert answer.status_code < 300, answer.text
    print(f"| {name} | {statistics.median(took):.0f} | {max(took):.0f} |", flush=True)


def look_up(client: httpx.Client, memory: Any, file: Path, name: str) -> None:
    """Look a file up as a list and print what it took."""
    client.post(f"{_HOME}/counterparts", params={"name": name, "file_name": file.name}, content=file.read_bytes())
    memory.most = 0.0
    for time_of in ("first", "again"):
        seconds = wait_for(client, client.post(f"{_HOME}/counterparts/{name}/run").json())
        found = client.get(f"{_HOME}/counterparts/{name}").json()
        print(
            f"| {name}, {time_of} | {seconds:.1f} | {memory.most:.2f} | {found['counts']} | {found['report']['seconds']} |",
            flush=True,
        )


def pages(client: httpx.Client, name: str) -> None:
    """Print what the pages of lists and of the bridge take."""
    print("\n| request | median ms | longest ms |\n| --- | --- | --- |")
    base, bridge = f"{_HOME}/counterparts/{name}", f"{_HOME}/bridge"
    between = {"one": "till", "other": "webshop"}
    asked: list[tuple[str, str, dict[str, str]]] = [
        ("rows of a list", f"{base}/rows", {}),
        *((f"rows '{outcome}'", f"{base}/rows", {"outcome": outcome}) for outcome in ("matched", "several", "none")),
        ("rows that hold some letters", f"{base}/rows", {"search": "kestrel"}),
        ("rows that hold letters no row holds", f"{base}/rows", {"search": "qqzzx"}),
        ("the list itself", base, {}),
        ("a page of the bridge", bridge, between),
        *((f"bridge, '{state}'", bridge, {**between, "state": state}) for state in ("proposed", "several", "in doubt", "none")),
    ]  # fmt: skip
    for told, path, query in asked:
        measured(told, partial(_get, client, path, query))
    rows = client.get(f"{base}/rows", params={"outcome": "matched"}).json()["rows"]
    said = [
        {"key": row["key"], "verdict": "confirmed", "record_id": row["counterpart"]["record_id"]}
        for row in rows[:_TIMES]
    ]
    measured("confirm a row", lambda number: client.post(f"{base}/rows", json=said[number]))
    started = time.perf_counter()
    counts = client.get(f"{bridge}/counts", params=between).json()
    print(f"| counts of the bridge, {counts} | {1000 * (time.perf_counter() - started):.0f} | |")


def _get(client: httpx.Client, path: str, query: dict[str, str], number: int) -> httpx.Response:
    return client.get(path, params=query)


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--records", type=int, default=1_000_000)
    parser.add_argument("--rows", type=int, nargs="+", default=[100_000, 10_000])
    parser.add_argument("--files", type=Path, help="folder of the demo's customers that were made before")
    options = parser.parse_args()
    print(f"a plain loop of ten million steps: {loop_seconds():.2f} s")
    with tempfile.TemporaryDirectory(dir="/var/tmp", prefix="odd-pair-look-up-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        if options.files:
            paths = sorted(path for path in options.files.iterdir() if path.name != "truth.csv")
        else:
            scale = options.records / _CUSTOMERS_AT_SCALE_ONE
            paths = [file.path for file in make_demo(folder / "demo", scale=scale, coined=0.8, only=["Customers"])]
        strange_scale = max(options.rows) / 2 / _TILL_AT_SCALE_ONE * 1.1
        strange = make_demo(folder / "strange", scale=strange_scale, seed=_STRANGE_SEED, coined=0.8, only=["Customers"])
        known = next(path for path in paths if path.name == "till.csv")
        with application(folder) as (client, _, memory):
            load(client, paths)
            wait_for(client, client.post(f"{_HOME}/runs").json())
            print(f"{client.get(_HOME).json()['counts']['records']} records in the register")
            print("\n| rows looked up | seconds | GiB | outcomes | stages |\n| --- | --- | --- | --- | --- |")
            for rows in options.rows:
                asking = folder / f"asking{rows}.csv"
                asking_file(asking, known, next(f.path for f in strange if f.source == "till"), rows)
                look_up(client, memory, asking, f"{rows} rows")
            pages(client, f"{options.rows[0]} rows")


if __name__ == "__main__":
    main()
