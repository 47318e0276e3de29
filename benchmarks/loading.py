"""How long it takes to bring a large CSV file in, and to profile it, beside what the database alone needs for the same file.

Run: ``.venv/bin/python -m benchmarks.loading [--rows 100000]``. Times of one machine mean little; the ratio to a
plain COPY of the file into a table of text columns carries over. Memory is that of this process and the ones it starts.
"""

import argparse
import csv
import os
import tempfile
import threading
import time
from pathlib import Path

from psycopg import sql

from oddpair.core.fields import RegisterKind
from oddpair.demo import make_demo
from oddpair.launch.postgres import PrivatePostgres
from oddpair.services.bring_in import drafts as bring_in
from oddpair.services.bring_in import load_delivery
from oddpair.services.registers import registers
from oddpair.services.tidy.profile import Scope, make_profile
from oddpair.store.bulk import raw_connection
from oddpair.store.database import SessionFactory, make_engine, make_sessions, migrate

_MORE_COLUMNS = ("segment", "rep", "terms", "currency", "credit")


def make_file(path: Path, rows: int, folder: Path) -> list[str]:
    """Write a file of fifteen columns and so many rows of the demo's web shop; return its columns."""
    made = make_demo(folder, scale=rows / 1500, coined=0.8, only=["Customers"])
    source = next(file.path for file in made if file.source == "webshop")
    with source.open(encoding="utf-8") as given, path.open("w", encoding="utf-8", newline="") as out:
        reader = csv.reader(given)
        columns = [*next(reader), *_MORE_COLUMNS]
        records = list(reader)
        writer = csv.writer(out)
        writer.writerow(columns)
        for number in range(rows):
            cells = records[number % len(records)]
            more = ("gold", f"rep {number % 97}", "30 days", "GBP", str(number % 5000))
            writer.writerow([f"w{number:07d}", *cells[1:], *more])
    return columns


def _memory_gb() -> float:
    """Return what this process and its children hold, shared memory counted once."""
    own, total = os.getpid(), 0
    for entry in Path("/proc").iterdir():
        try:
            if entry.name == str(own) or f"\nPPid:\t{own}\n" in (entry / "status").read_text():
                pss = next(
                    line for line in (entry / "smaps_rollup").read_text().splitlines() if line.startswith("Pss:")
                )
                total += int(pss.split()[1])
        except (OSError, StopIteration):
            continue
    return total / 1e6


def _nothing(stage: str, done: int, total: int) -> None:
    """Progress that nobody watches."""


def measure(sessions: SessionFactory, path: Path, columns: list[str]) -> dict[str, float]:
    """Return seconds of a plain COPY, of loading, of loading the same again, and of the profile."""
    seconds = {}
    with sessions.begin() as session:
        slug = registers.make_register(session, "Customers", RegisterKind.ORGANISATION).slug
        started = time.perf_counter()
        with raw_connection(session).cursor() as cursor:
            cursor.execute(
                sql.SQL("CREATE TABLE plain ({})").format(
                    sql.SQL(", ").join(sql.SQL("{} text").format(sql.Identifier(c)) for c in columns)
                )
            )
            with cursor.copy("COPY plain FROM STDIN (FORMAT csv, HEADER)") as copy, path.open("rb") as file:
                while chunk := file.read(1_000_000):
                    copy.write(chunk)
        seconds["copy"] = time.perf_counter() - started
    for name in ("load", "load again"):
        started = time.perf_counter()
        with sessions.begin() as session:
            draft = bring_in.receive(session, slug, path, path.name).delivery.id
        with sessions.begin() as session:
            load_delivery.load(session, draft, path.parent, _nothing)
        seconds[name] = time.perf_counter() - started
    started = time.perf_counter()
    with sessions.begin() as session:
        make_profile(session, slug, Scope(), _nothing)
    seconds["profile"] = time.perf_counter() - started
    return seconds


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=100_000)
    rows = parser.parse_args().rows
    most, stop = [0.0], threading.Event()

    def watch() -> None:
        while not stop.wait(0.3):
            most[0] = max(most[0], _memory_gb())

    with tempfile.TemporaryDirectory(dir="/var/tmp") as name:
        folder = Path(name)
        folder.chmod(0o755)
        path = folder / "large.csv"
        columns = make_file(path, rows, folder / "demo")
        server = PrivatePostgres(folder / "postgres")
        url = server.start().replace("postgresql://", "postgresql+psycopg://", 1)
        try:
            migrate(url)
            engine = make_engine(url)
            threading.Thread(target=watch, daemon=True).start()
            seconds = measure(make_sessions(engine), path, columns)
            engine.dispose()
        finally:
            stop.set()
            server.stop()
    print(
        f"{rows} rows of {len(columns)} columns, {path.name}: "
        + ", ".join(f"{k} {v:.1f} s" for k, v in seconds.items())
    )
    print(
        f"  loading takes {seconds['load'] / seconds['copy']:.1f} times as long as a plain COPY; at most {most[0]:.2f} GB"
    )


if __name__ == "__main__":
    main()
