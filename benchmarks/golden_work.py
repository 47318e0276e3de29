"""What golden records of a whole register take: filtered lists, rules tried and set, and everything that is sent out."""

import time
from collections.abc import Callable
from functools import partial
from typing import Any

import httpx

Measure = Callable[[Callable[[], httpx.Response]], list[float]]
Line = Callable[[str, list[float]], None]
#: Filters and orders of the list that no index serves as such.
_ASKED: dict[str, dict[str, Any]] = {
    "by e-mail": {"order_field": "email"}, "by filled fields": {"order": "filled"}, "of a country": {"country": "DK"},
    "without a source": {"source": "webshop", "without": "till"}, "of five records or more": {"least_members": 5},
    "without phone, by name": {"empty": "phone", "order": "name"}, "contradictory": {"contradictory": True},
    "of nothing": {"country": "XX"},
}  # fmt: skip
_RULES = {"name": ("valid", "longest"), "phone": ("newest",), "email": ("source rank",)}


def measure_lists(client: httpx.Client, home: str, measure: Measure, line: Line) -> None:
    """Measure the list of golden records under every kind of filter and order."""
    for name, asked in _ASKED.items():
        line(f"golden list {name}", measure(partial(client.get, f"{home}/golden", params=asked)))


def measure_jobs(
    client: httpx.Client, home: str, wait_for: Callable[[httpx.Client, Any], float], job: Callable[[str, float], None]
) -> None:
    """Measure rules that are tried and set, and what is sent out, in every format."""
    rules = {unit: [{"by": by} for by in chain] for unit, chain in _RULES.items()}
    since = client.get("/api/jobs").json()["jobs"][0]["created_at"]
    tried = client.post(f"{home}/rules/try", json={"rules": rules}).json()
    job("rules tried", wait_for(client, tried))
    version = client.get(home).json()["version"]
    client.put(f"{home}/rules", json={"rules": rules, "seen_version": version})
    setting = next(item for item in client.get("/api/jobs").json()["jobs"] if item["kind"] == "golden")
    job("golden values by changed rules", wait_for(client, setting))
    for table, ending in (
        ("golden", "csv"), ("golden", "parquet"), ("golden", "vcf"), ("golden", "xlsx"), ("crosswalk", "csv"), ("members", "csv"),
        ("keys", "csv"), ("changes", "jsonl"),
    ):  # fmt: skip
        asked = {"since": since} if table == "changes" else {}
        started = time.perf_counter()
        with client.stream("GET", f"{home}/send-out/{table}.{ending}", params=asked) as answer:
            answer.raise_for_status()
            size = sum(len(chunk) for chunk in answer.iter_bytes())
        job(f"{table} as {ending}, {size / 1e6:.0f} MB", time.perf_counter() - started)
