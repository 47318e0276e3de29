"""How long a look-up takes with a large register behind it, while many ask and while deliveries come in; and whether it finds everybody.

Run: ``.venv/bin/python -m benchmarks.look_up_load [--records 100000] [--seconds 60]``. A register is made, matched and
merged but for some rows. These are looked up first, then delivered: who is found to be somebody then should have been told before.
Fifty clients ask from a process of their own, with pauses of two seconds in the mean; once alone, once while deliveries are loaded and
recognised. Times are of one machine, which does all of it.
"""

import argparse
import csv
import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import httpx

from oddpair.core.fields import RegisterKind

from .made_register import make_register
from .register import Memory, application, loop_seconds, wait_for

_HOME = "/api/registers/customers"
_HELD_OUT, _BATCH = 1_000, 50
_FIELDS = {
    "name": "name", "street": "address.line", "postcode": "address.postcode", "town": "address.city", "country": "address.country",
    "phone": "phone", "email": "email", "web site": "web_site", "tax number": "tax_number",
}  # fmt: skip


def bring(client: httpx.Client, path: Path, source: str) -> int:
    """Bring a file in as what changed in a source, wait until it is loaded, and return the delivery's number."""
    asked = {"file_name": path.name, "source": source}
    with path.open("rb") as content:
        draft = client.post(f"{_HOME}/deliveries", params=asked, content=content).json()["delivery"]
    body = {"mapping": draft["mapping"], "delivers": "changes"}
    wait_for(client, client.post(f"{_HOME}/deliveries/{draft['id']}/load", json=body).json())
    return int(draft["id"])


def wait_until_recognised(client: httpx.Client) -> None:
    """Wait until no work waits or goes on."""
    while any(job["status"] in ("queued", "running") for job in client.get("/api/jobs").json()["jobs"]):
        time.sleep(0.5)


def hold_out(path: Path, rows: int, folder: Path) -> tuple[Path, Path, list[str], list[dict[str, str]]]:
    """Return (a file without the last rows, one with these alone, their ids, and their values by field of the register)."""
    with path.open(encoding="utf-8", newline="") as lines:
        head, *every = list(csv.reader(lines))
    parts = []
    for name, own in (("first", every[:-rows]), ("later", every[-rows:])):
        part = folder / f"{path.stem}-{name}.csv"
        with part.open("w", encoding="utf-8", newline="") as out:
            csv.writer(out).writerows([head, *own])
        parts.append(part)
    places = [(head.index(column), field) for column, field in _FIELDS.items() if column in head]
    values = [{field: row[place] for place, field in places if row[place]} for row in every[-rows:]]
    return parts[0], parts[1], [row[0] for row in every[-rows:]], values


def asking(
    client: httpx.Client, records: list[dict[str, str]], folder: Path, seconds: float
) -> subprocess.Popen[bytes]:
    """Begin to ask from another process."""
    file = folder / "asked.jsonl"
    file.write_text("\n".join(map(json.dumps, records)), encoding="utf-8")
    address = f"{client.base_url}{_HOME}/look-up"
    command = [sys.executable, "-m", "benchmarks.asking", address, str(file), "--seconds", str(seconds)]
    return subprocess.Popen(command, stdout=subprocess.PIPE)


def tell(name: str, process: subprocess.Popen[bytes], memory: Memory) -> None:
    """Print what the clients waited for."""
    out, _ = process.communicate()
    found = json.loads(out)
    took = sorted(found["took_ms"])
    figures = " | ".join(f"{took[min(int(len(took) * share), len(took) - 1)]:.0f}" for share in (0.5, 0.95, 0.99, 1.0))
    print(f"| {name} | {len(took)} | {found['errors']} | {figures} | {memory.most:.2f} |", flush=True)


def keys_told(client: httpx.Client, records: list[dict[str, str]]) -> list[list[str]]:
    """Return, per record, the golden keys that a look-up tells."""
    told: list[list[str]] = []
    for start in range(0, len(records), _BATCH):
        answer: list[dict[str, Any]] = client.post(
            f"{_HOME}/look-up", json={"records": records[start : start + _BATCH]}
        ).json()
        told += [[one["golden_key"] for one in found["candidates"]] for found in answer]
    return told


def found_before(client: httpx.Client, number: int, told: list[list[str]], keys: list[str]) -> tuple[int, int]:
    """Return (of how many rows that a delivery recognised a look-up had told the golden record before, of how many)."""
    told_of = dict(zip(keys, told, strict=True))
    found = of = after = 0
    while page := client.get(
        f"{_HOME}/deliveries/{number}/outcomes/recognised", params={"after": after, "limit": 500}
    ).json():
        of += len(page)
        found += sum(row["golden_key"] in told_of[row["source_key"]] for row in page)
        after = page[-1]["id"]
    return found, of


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--records", type=int, default=100_000)
    parser.add_argument("--seconds", type=float, default=60.0)
    asked = parser.parse_args()
    print(f"a plain loop of ten million steps: {loop_seconds():.2f} s")
    with tempfile.TemporaryDirectory(dir="/var/tmp", prefix="odd-pair-bench-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        files, _ = make_register(folder / "made", RegisterKind.ORGANISATION, asked.records)
        with application(folder, "oddpair.launch.standing_index") as (client, _, memory):
            client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
            first, later, keys, records = hold_out(files[-1].path, _HELD_OUT, folder)
            for made in files[:-1]:
                bring(client, made.path, made.source)
            bring(client, first, files[-1].source)
            client.put(f"{_HOME}/recognition", json={"on": True})
            wait_until_recognised(client)
            counts = client.get(_HOME).json()["counts"]
            print(f"{counts['records']} records in {counts['golden']} golden records")
            told = keys_told(client, records)
            titles = ("fifty clients", "answers", "errors", "median ms", "p95", "p99", "worst", "GiB")
            print(f"| {' | '.join(titles)} |\n|{' --- |' * len(titles)}")
            memory.most = 0.0
            tell("alone", asking(client, records, folder, asked.seconds), memory)
            going_on = asking(client, records, folder, asked.seconds)
            number = bring(client, later, files[-1].source)
            wait_until_recognised(client)
            tell("while a delivery comes in and is recognised", going_on, memory)
            found, of = found_before(client, number, told, keys)
            print(
                f"look-up had told the golden record of {found} of {of} rows that were recognised: {found / max(of, 1):.4f}"
            )


if __name__ == "__main__":
    main()
