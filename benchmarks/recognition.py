"""How long it takes to recognise a delivery in a large register, beside what matching everything takes; and that both end the same.

Run: ``.venv/bin/python -m benchmarks.recognition [--records 100000] [--kind person] [--no-check]``. A made register
is loaded but for some of its rows, matched and merged; the rows left over come in as deliveries of 100 and of 10,000, the way a night
brings them. At the end everything is matched once more by what was learned, and clusters are held against those that recognition
left. Times are of one machine; what carries over is their ratio to matching everything.
"""

import argparse
import csv
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import text

from oddpair.core import pipeline
from oddpair.core.fields import RegisterKind
from oddpair.core.learned_match import from_bytes
from oddpair.launch.postgres import PrivatePostgres
from oddpair.services.bring_in import drafts as bring_in
from oddpair.services.bring_in import load_delivery
from oddpair.services.match import plans
from oddpair.services.match.read_records import read_records
from oddpair.services.match.run_plan import decisions_for
from oddpair.services.match.run_rows import cluster_names
from oddpair.services.registers import registers
from oddpair.services.standing.directories import Directories
from oddpair.services.standing.recognise import recognise_register
from oddpair.services.standing.switch import switch_recognition
from oddpair.store.database import SessionFactory, make_engine, make_sessions, migrate
from oddpair.store.registers import register_by_slug, standing_run

from .made_register import MadeFile, make_register

#: The deliveries of the nights, in rows: small ones, a large one, and a small one after a restart.
_NIGHTS = (100, 10_000, 100)


class Watch:
    """Tells how long each stage took."""

    def __init__(self) -> None:
        self._stage, self._since = "", time.perf_counter()
        self.seconds: dict[str, float] = {}

    def __call__(self, stage: str, done: int, total: int) -> None:
        """Note that a stage goes on, or begins."""
        now = time.perf_counter()
        if self._stage:
            self.seconds[self._stage] = self.seconds.get(self._stage, 0.0) + now - self._since
        self._stage, self._since = stage, now


def split_off(files: list[MadeFile], folder: Path) -> Iterator[tuple[str, str, Path]]:
    """Yield (night, source, file): what is there at first under "", then a file for every night, from all sources in turn."""
    for made in files:
        with made.path.open(encoding="utf-8", newline="") as lines:
            head, *rows = list(csv.reader(lines))
        shares = [size // len(files) for size in _NIGHTS]
        parts = {"": rows[: len(rows) - sum(shares)]}
        at = len(parts[""])
        for number, share in enumerate(shares):
            parts[f"night {number + 1}, {_NIGHTS[number]} rows"] = rows[at : at + share]
            at += share
        for night, own in parts.items():
            path = folder / f"{made.source}-{len(night)}-{night[:7].strip()}.csv"
            with path.open("w", encoding="utf-8", newline="") as out:
                csv.writer(out).writerows([head, *own])
            yield night, made.source, path


def load(sessions: SessionFactory, slug: str, source: str, path: Path, watch: Watch) -> None:
    """Bring a file in as a delivery of what changed."""
    with sessions.begin() as session:
        draft = bring_in.receive(session, slug, path, path.name, source).delivery
        draft.delivers = "changes"
        draft_id = draft.id
    with sessions.begin() as session:
        counts = load_delivery.load(session, draft_id, path.parent, watch)
    load_delivery.gather_figures(sessions, counts)


def check(sessions: SessionFactory, slug: str) -> tuple[int, float]:
    """Return in how many records clusters differ from those of one match of everything, and how long that match took."""
    with sessions() as session:
        register = register_by_slug(session, slug)
        run = standing_run(session, register.id)
        assert run is not None
        assert run.learned is not None
        records, ids = read_records(session, register.id, tidy=True)
        decided, learned = decisions_for(session, register.id, ids), from_bytes(run.learned)
        plan = plans.plan_in_force(session, slug).plan
        rows = session.execute(text("SELECT record_id, cluster FROM run_clusters WHERE run_id = :id"), {"id": run.id})
        kept = {row[0]: row[1] for row in rows}
    started = time.perf_counter()
    result = pipeline.run(records, plan, are_tidy=True, learned=learned, decisions=decided)
    seconds = time.perf_counter() - started
    names = cluster_names(result.labels, ids)
    return sum(kept[record] != name for record, name in zip(ids.tolist(), names.tolist(), strict=True)), seconds


@contextmanager
def timed(line: Callable[[str], None], what: str) -> Iterator[Watch]:
    """Measure what is done inside, by stage."""
    watch, started = Watch(), time.perf_counter()
    yield watch
    watch("", 0, 0)
    stages = ", ".join(f"{stage} {seconds:.1f}" for stage, seconds in watch.seconds.items() if seconds >= 0.1)
    line(f"| {what} | {time.perf_counter() - started:.1f} s | {stages} |")


def measure(
    sessions: SessionFactory, files: list[MadeFile], kind: RegisterKind, folder: Path, *, checked: bool
) -> None:
    """Measure and print a table."""

    def line(told: str) -> None:
        print(told, flush=True)

    with sessions.begin() as session:
        slug = registers.make_register(session, "Register", kind).slug
        switch_recognition(session, slug, True, actor="benchmark")
    parts: dict[str, list[tuple[str, Path]]] = {}
    for night, source, path in split_off(files, folder):
        parts.setdefault(night, []).append((source, path))
    line("| what | seconds | of which |\n| --- | --- | --- |")
    directories = Directories(folder / "kept")
    for number, (night, of_night) in enumerate(parts.items()):
        if number == len(_NIGHTS):
            # As after a restart: only what lies on the disk is there.
            directories = Directories(folder / "kept")
        with timed(line, f"load {night or 'what is there at first'}") as watch:
            for source, path in of_night:
                load(sessions, slug, source, path, watch)
        with timed(line, f"recognise and merge {night or 'it: everything is matched'}") as watch:
            told = recognise_register(sessions, slug, watch, directories, kept=folder / "kept")
        line(f"| | | {told} |")
    if checked:
        differ, seconds = check(sessions, slug)
        line(f"| one match of everything by what was learned | {seconds:.1f} s | records in other clusters: {differ} |")


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--records", type=int, default=100_000)
    parser.add_argument("--kind", choices=["organisation", "person"], default="organisation")
    parser.add_argument("--check", action=argparse.BooleanOptionalAction, default=True)
    asked = parser.parse_args()
    kind = RegisterKind(asked.kind)
    with tempfile.TemporaryDirectory(dir="/var/tmp") as name:
        folder = Path(name)
        folder.chmod(0o755)
        files, _ = make_register(folder / "made", kind, asked.records + sum(_NIGHTS))
        server = PrivatePostgres(folder / "postgres")
        url = server.start().replace("postgresql://", "postgresql+psycopg://", 1)
        try:
            migrate(url)
            engine = make_engine(url)
            measure(make_sessions(engine), files, kind, folder, checked=asked.check)
            engine.dispose()
        finally:
            server.stop()


if __name__ == "__main__":
    main()
