"""What a steward's desk asks beside the queue and the pair: orders and filters, leases, what stands around a pair, clusters, the day."""

from collections.abc import Callable
from functools import partial
from itertools import cycle, pairwise
from typing import Any

import httpx

Timed = Callable[..., list[float]]
Line = Callable[[str, list[float]], None]
#: A set of thousands is built in one request at most.
_FEW = 12


def measure_desk(client: httpx.Client, home: str, timed: Timed, line: Line) -> None:
    """Measure what the desk asks, each request on other pairs."""
    for order in ("value", "age", "cluster"):
        line(f"queue by {order}", timed(partial(client.get, f"{home}/review", params={"order": order, "limit": 200})))
    source = client.get(f"{home}/sources").json()[0]["name"]
    for name, asked in (
        ("of a source", {"source": source}),
        ("clusters", {"what": "cluster"}),
        ("asked of somebody", {"asked": "bob"}),
    ):
        line(f"queue, {name}", timed(partial(client.get, f"{home}/review", params={"limit": 200, **asked})))
    every = client.get(f"{home}/review", params={"limit": 500}).json()["doubts"]
    # Doubts that were made up to have enough of them are all alike.
    pairs = [one for one in every if one["what"] == "pair" and "=" in one["kind"]] or every
    ends = cycle([(one["left_id"], one["right_id"]) for one in pairs])

    def take() -> httpx.Response:
        body = {"doubts": [next(ends) for _ in range(4)], "desk": "a desk"}
        return client.post(f"{home}/review/leases", json=body)

    line("keep four doubts for a desk", timed(take))
    for about in ("neighbours", "context"):
        line(
            f"{about} of a pair",
            timed(lambda about=about: client.get("{}/pairs/{}/{}/{}".format(home, *next(ends), about))),
        )
    apart = cycle([(one["left_id"], other["right_id"]) for one, other in pairwise(pairs)])
    line(
        "two records that no run brought together",
        timed(lambda: client.get("{}/pairs/{}/{}".format(home, *next(apart))), _FEW),
    )
    line("all like this one", timed(lambda: client.get("{}/pairs/{}/{}/likes".format(home, *next(ends))), _FEW))
    clusters: Any = cycle([client.get(f"{home}/clusters/of/{one['left_id']}").json() for one in pairs[:30]])
    line("cluster table", timed(lambda: client.get(f"{home}/clusters", params={"record": next(clusters)})))
    line("what waits for you", timed(lambda: client.get("/api/today")))
    line("decisions that contradict each other", timed(lambda: client.get(f"{home}/contradictions"), _FEW))
