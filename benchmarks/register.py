"""A whole register over the real database, the real web process and the real worker: how long each job takes, how long a person waits.

Run: ``.venv/bin/python -m benchmarks.register [--records 100000] [--doubts 10000]``. It prints a table: the jobs
with their seconds and the memory of our processes (without the database's), then every request that a screen waits for, with
its median and 95th percentile in milliseconds, while nothing else goes on and while a run or merge does. Where the data hold
fewer doubts than asked for, others are made of pairs of random records. Times of one machine mean little by themselves; a first
line says how long a plain Python loop takes on it.
"""

import argparse
import json
import os
import random
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import Any

import httpx
import psycopg

from benchmarks.desk_work import measure_desk
from benchmarks.golden_work import measure_jobs, measure_lists
from oddpair.demo import make_demo
from oddpair.launch.postgres import PrivatePostgres, free_port
from oddpair.store.database import migrate

_CUSTOMERS_AT_SCALE_ONE = 3_000
_REQUESTS = 60
#: Between decisions while a job goes on: as a handful of stewards together.
_PAUSE_S = 0.5
_HOME = "/api/registers/customers"


def loop_seconds() -> float:
    """Return how long a plain loop takes: what tells a slow or busy machine."""
    started = time.perf_counter()
    total = 0
    for number in range(10_000_000):
        total += number
    return time.perf_counter() - started


class Memory:
    """The most that our processes held at one time, in GiB: shared memory counted once, the database left out."""

    def __init__(self, processes: list[subprocess.Popen[bytes]]) -> None:
        self._roots = {process.pid for process in processes}
        self.most = 0.0

    def watch(self, stop: threading.Event) -> None:
        """Look again and again until told to stop."""
        while not stop.wait(0.5):
            self.most = max(self.most, self._now())

    def _now(self) -> float:
        parents = {}
        for entry in Path("/proc").iterdir():
            if entry.name.isdigit():
                try:
                    parents[int(entry.name)] = int((entry / "stat").read_text().rsplit(")", 1)[1].split()[1])
                except (OSError, IndexError):
                    continue
        ours, total = set(self._roots), 0
        for _ in range(3):
            ours |= {process for process, parent in parents.items() if parent in ours}
        for process in ours:
            try:
                lines = Path(f"/proc/{process}/smaps_rollup").read_text().splitlines()
                total += next(int(line.split()[1]) for line in lines if line.startswith("Pss:"))
            except (OSError, StopIteration):
                continue
        return total / 1024**2


@contextmanager
def application(folder: Path, *more: str) -> Iterator[tuple[httpx.Client, str, Memory]]:
    """Give a client of a running application on a database of its own, the address of that, and the watch over memory; ``more`` modules
    are started beside the web process and the worker."""
    server = PrivatePostgres(folder / "postgres")
    url = server.start()
    migrate(url.replace("postgresql://", "postgresql+psycopg://", 1))
    port = free_port()
    environment = {
        **os.environ,
        "ODD_PAIR_SIGN_IN": "off",
        "ODD_PAIR_DATA": str(folder),
        "ODD_PAIR_PORT": str(port),
        "ODD_PAIR_DATABASE_URL": url,
    }
    modules = ("oddpair.launch.web", "oddpair.jobs.worker", *more)
    (folder / "run").mkdir(mode=0o700, exist_ok=True)
    processes = [subprocess.Popen([sys.executable, "-m", module], env=environment) for module in modules]
    stop, memory = threading.Event(), Memory(processes)
    threading.Thread(target=memory.watch, args=(stop,), daemon=True).start()
    client = httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=600)
    try:
        while True:
            try:
                if client.get("/api/health").json()["worker"]:
                    break
            except httpx.TransportError:
                pass
            time.sleep(0.2)
        yield client, server.url("oddpair", admin=True), memory
    finally:
        stop.set()
        client.close()
        for process in processes:
            process.terminate()
            process.wait(30)
        server.stop()


def wait_for(client: httpx.Client, job: dict[str, Any]) -> float:
    """Wait for a job to end well; return how many seconds it took from when it was asked for."""
    started = time.perf_counter()
    while True:
        state = client.get(f"/api/jobs/{job['id']}").json()
        if state["status"] not in ("queued", "running"):
            assert state["status"] == "done", state
            return time.perf_counter() - started
        time.sleep(0.1)


def load(client: httpx.Client, files: list[Path]) -> float:
    """Bring files in, with the proposed mapping; return the seconds."""
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    seconds = 0.0
    for file in files:
        with file.open("rb") as content:
            draft = client.post(f"{_HOME}/deliveries", params={"file_name": file.name}, content=content).json()
        body = {"mapping": draft["delivery"]["mapping"]}
        seconds += wait_for(client, client.post(f"{_HOME}/deliveries/{draft['delivery']['id']}/load", json=body).json())
    return seconds


def timed(ask: Callable[[], httpx.Response], times: int = _REQUESTS) -> list[float]:
    """Return the milliseconds of each of several requests."""
    took = []
    for _ in range(times):
        started = time.perf_counter()
        answer = ask()
        took.append((time.perf_counter() - started) * 1000)
        assert answer.status_code < 300, answer.text
    return took


def line(name: str, took: list[float]) -> None:
    """Print median and 95th percentile."""
    ordered = sorted(took)
    print(
        f"| {name} | {statistics.median(ordered):.0f} | {ordered[int(len(ordered) * 0.95)]:.0f} | {len(took)} |",
        flush=True,
    )


class Desk:
    """A steward at the desk: opens a page of the queue, decides a pair, opens the next."""

    def __init__(self, client: httpx.Client) -> None:
        self.client = client
        self.pairs: list[dict[str, Any]] = []
        self.after = ""
        self.random = random.Random(5)

    def next_pair(self) -> dict[str, Any]:
        """Return the next pair of the queue, whose next page is fetched when it is needed."""
        while not self.pairs:
            page = self.client.get(f"{_HOME}/review", params={"limit": 200, "after": self.after}).json()
            self.pairs, self.after = [one for one in page["doubts"] if one["what"] == "pair"], page["behind"]
        return self.pairs.pop(0)

    def decide(self) -> httpx.Response:
        """Decide the next pair, one way or the other."""
        pair = self.next_pair()
        ids = {name: pair[name] for name in ("left_id", "right_id")}
        verdict = self.random.choice(["same", "different"])
        return self.client.post(f"{_HOME}/decisions", json={**ids, "verdict": verdict})


def words_of(client: httpx.Client) -> list[str]:
    """Return words and beginnings of words that the records hold, frequent ones and rare ones."""
    records = client.get(f"{_HOME}/records", params={"limit": 200}).json()["records"]
    words = sorted({word for record in records for value in record["fields"].values() for word in value.split()})
    rng = random.Random(3)
    chosen = rng.sample(words, min(_REQUESTS, len(words)))
    return [word if place % 2 else word[:3] for place, word in enumerate(chosen)]


def measure_pages(client: httpx.Client, title: str) -> None:
    """Measure every request that a screen waits for."""
    print(f"\n| {title} | median ms | p95 ms | requests |\n| --- | --- | --- | --- |", flush=True)
    line("registers", timed(lambda: client.get("/api/registers")))
    desk = Desk(client)
    line("page of the queue", timed(lambda: client.get(f"{_HOME}/review", params={"limit": 200})))
    further = client.get(f"{_HOME}/review", params={"limit": 500}).json()["behind"]
    line(
        "further page of the queue",
        timed(lambda: client.get(f"{_HOME}/review", params={"limit": 200, "after": further})),
    )
    line("kinds of doubt", timed(lambda: client.get(f"{_HOME}/review/kinds")))
    looked_for = iter(words_of(client) * 2)
    line("search of the queue", timed(lambda: client.get(f"{_HOME}/review", params={"search": next(looked_for)})))
    line("decide", timed(desk.decide))
    line(
        "a pair face to face",
        timed(lambda: client.get("{}/pairs/{left_id}/{right_id}".format(_HOME, **desk.next_pair()))),
    )
    measure_desk(client, _HOME, timed, line)
    line("list of records", timed(lambda: client.get(f"{_HOME}/records")))
    searched = iter(words_of(client) * 2)
    line("search of records", timed(lambda: client.get(f"{_HOME}/records", params={"search": next(searched)})))
    first = client.get(f"{_HOME}/golden").json()["golden"]
    if not first:
        return
    for order in ("members", "name", "key", "changed"):
        line(f"golden list by {order}", timed(partial(client.get, f"{_HOME}/golden", params={"order": order})))
    measure_lists(client, _HOME, timed, line)
    searched = iter(words_of(client) * 2)
    line("search of golden records", timed(lambda: client.get(f"{_HOME}/golden", params={"search": next(searched)})))
    keys = iter([item["key"] for item in first] * 2)
    line("golden page with history and links", timed(lambda: client.get(f"{_HOME}/golden/{next(keys)}")))
    line("journal", timed(lambda: client.get(f"{_HOME}/journal")))


def more_doubts(url: str, wanted: int) -> int:
    """Make doubts of random pairs until there are so many; return how many there are."""
    with psycopg.connect(url, autocommit=True) as connection:
        [run] = connection.execute("SELECT id FROM runs WHERE state = 'standing'").fetchone() or [0]
        have = int((connection.execute("SELECT count(*) FROM doubts WHERE state = 'open'").fetchone() or [0])[0])
        connection.execute(
            """
            WITH placed AS (
                SELECT record_id, cluster, row_number() OVER (ORDER BY record_id) AS place,
                       row_number() OVER (ORDER BY md5(record_id::text)) AS other
                FROM run_clusters WHERE run_id = %(run)s
            ),
            numbers AS (SELECT n, (n * 7919::bigint %% 2000 - 1000) / 100.0 AS score FROM generate_series(1, %(more)s) n)
            INSERT INTO doubts (register_id, run_id, left_id, right_id, one, other, kind, score, distance, records, state)
            SELECT r.register_id, r.id, least(a.record_id, b.record_id), greatest(a.record_id, b.record_id),
                   least(a.cluster, b.cluster), greatest(a.cluster, b.cluster), 'name|address', g.score, abs(g.score), 2, 'open'
            FROM numbers g JOIN runs r ON r.id = %(run)s
            JOIN placed a ON a.place = 1 + g.n %% (SELECT count(*) FROM placed) JOIN placed b ON b.other = a.place
            WHERE a.cluster <> b.cluster ON CONFLICT DO NOTHING
            """,
            {"run": run, "more": max(wanted - have, 0)},
        )
        connection.execute(
            """
            INSERT INTO run_pairs (run_id, left_id, right_id, score, same, kind, condition, levels, bits)
            SELECT d.run_id, d.left_id, d.right_id, d.score, false, d.kind, -1, p.levels, p.bits
            FROM doubts d, (SELECT levels, bits FROM run_pairs LIMIT 1) p ON CONFLICT DO NOTHING
            """
        )
        connection.execute("UPDATE counters SET waiting = (SELECT count(*) FROM doubts WHERE state = 'open')")
        for table in ("doubts", "run_pairs"):
            connection.execute(f"VACUUM ANALYZE {table}")
        return int((connection.execute("SELECT count(*) FROM doubts WHERE state = 'open'").fetchone() or [0])[0])


def while_going_on(client: httpx.Client, name: str, job: dict[str, Any], *, decide: bool = True) -> float:
    """Decide and look at pages while a job goes on; print what a person waited meanwhile, return the job's seconds."""
    took: list[float] = []
    pages: list[float] = []
    seconds: list[float] = []
    waiter = threading.Thread(target=lambda: seconds.append(wait_for(client, job)))
    waiter.start()
    desk = Desk(client)
    while waiter.is_alive():
        if decide:
            took += timed(desk.decide, 1)
        pages += timed(lambda: client.get(f"{_HOME}/review", params={"limit": 200}), 1)
        time.sleep(_PAUSE_S)
    waiter.join()
    print(f"\n| while {name} goes on | median ms | p95 ms | requests |\n| --- | --- | --- | --- |")
    if took:
        line("decide", took)
    line("page of the queue", pages)
    return seconds[0]


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--records", type=int, default=100_000)
    parser.add_argument("--doubts", type=int, default=10_000)
    asked = parser.parse_args()
    print(f"a plain loop of ten million steps: {loop_seconds():.2f} s")
    with tempfile.TemporaryDirectory(dir="/var/tmp", prefix="odd-pair-bench-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        made = make_demo(folder / "demo", scale=asked.records / _CUSTOMERS_AT_SCALE_ONE, coined=0.8, only=["Customers"])
        with application(folder) as (client, url, memory):

            def job(name: str, seconds: float) -> None:
                print(f"| {name} | {seconds:.1f} | {memory.most:.2f} |", flush=True)
                memory.most = 0.0

            print("\n| job | seconds | GiB in our processes |\n| --- | --- | --- |")
            job("load", load(client, [file.path for file in made]))
            counts = client.get(_HOME).json()["counts"]
            job("run", wait_for(client, client.post(f"{_HOME}/runs").json()))
            print(
                f"\n{counts['records']} records; {json.dumps(client.get(f'{_HOME}/run').json()['report']['seconds'])}"
            )
            print(f"{more_doubts(url, asked.doubts)} doubts")
            measure_pages(client, "before the first merge")
            started = time.perf_counter()
            preview = client.get(f"{_HOME}/merge").json()
            print(
                f"\npreview of the first merge: {time.perf_counter() - started:.1f} s, {preview['made']} golden records"
            )
            memory.most = 0.0
            merging = client.post(f"{_HOME}/merge", json={"seen": preview["seen"]}).json()
            merged = while_going_on(client, "the first merge", merging)
            print("\n| job | seconds | GiB in our processes |\n| --- | --- | --- |")
            job("first merge, with a steward at the desk", merged)
            preview = client.get(f"{_HOME}/merge").json()
            merging = client.post(f"{_HOME}/merge", json={"seen": preview["seen"]}).json()
            job("merge again", wait_for(client, merging))
            measure_pages(client, "after the merge")
            print("\n| job | seconds | GiB in our processes |\n| --- | --- | --- |")
            measure_jobs(client, _HOME, wait_for, job)
            running = while_going_on(client, "a run", client.post(f"{_HOME}/runs").json())
            print(f"\nthat run took {running:.1f} s")


if __name__ == "__main__":
    main()
