"""What many clients that look records up wait for: they ask one after the other, with pauses, from a process of their own.

``python -m benchmarks.asking ADDRESS FILE`` reads records as JSON lines and prints the milliseconds of every answer as JSON.
"""

import argparse
import asyncio
import json
import random
import time
from pathlib import Path

import httpx


async def _asks(
    client: httpx.AsyncClient, address: str, records: list[dict[str, str]], pause_s: float, until: float, seed: int
) -> tuple[list[float], int]:
    chosen = random.Random(seed)
    took: list[float] = []
    errors = 0
    await asyncio.sleep(chosen.uniform(0, pause_s))
    while time.monotonic() < until:
        started = time.perf_counter()
        try:
            answer = await client.post(address, json={"records": [chosen.choice(records)]})
            errors += answer.status_code != 200
        except httpx.TransportError:
            errors += 1
        took.append((time.perf_counter() - started) * 1000)
        # As people do, who do not all press at once: pauses that know nothing of each other.
        await asyncio.sleep(chosen.expovariate(1 / pause_s))
    return took, errors


async def _ask(
    address: str, records: list[dict[str, str]], count: int, pause_s: float, seconds: float
) -> dict[str, object]:
    # Made before the clock runs: making one takes as long as asking does.
    clients = [httpx.AsyncClient(timeout=60, verify=False) for _ in range(count)]
    until = time.monotonic() + seconds
    found = await asyncio.gather(
        *(_asks(client, address, records, pause_s, until, number) for number, client in enumerate(clients))
    )
    for client in clients:
        await client.aclose()
    return {"took_ms": [one for took, _ in found for one in took], "errors": sum(errors for _, errors in found)}


def main() -> None:
    """Ask, and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("address")
    parser.add_argument("file", type=Path)
    parser.add_argument("--clients", type=int, default=50)
    parser.add_argument("--pause", type=float, default=2.0)
    parser.add_argument("--seconds", type=float, default=60.0)
    asked = parser.parse_args()
    records = [json.loads(line) for line in asked.file.read_text(encoding="utf-8").splitlines()]
    print(json.dumps(asyncio.run(_ask(asked.address, records, asked.clients, asked.pause, asked.seconds))))


if __name__ == "__main__":
    main()
