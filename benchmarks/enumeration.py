"""Walking over candidate pairs without repeats against writing out all pairs of all blocks, as a ratio in one run.

Run: ``.venv/bin/python -m benchmarks.enumeration [--scale 10]``. A scale of 10 gives about 30,000 customers.
Both ways use two threads and chunks of bounded size; runs alternate, the best of each counts. Peak memory is that of arrays.
"""

import argparse
import tempfile
import time
import tracemalloc
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import numpy.typing as npt

from oddpair.core.blocking import BlockIndex, build_index, iterate_pairs
from oddpair.core.blocking.pairs import CHUNK_PAIRS
from oddpair.core.fields import default_layout
from oddpair.core.plan import default_plan
from oddpair.core.text.compiled import kernel
from oddpair.core.tidying import tidy_records
from oddpair.demo import make_demo
from oddpair.services.offline.read_files import read_files

_ROUNDS = 5
Ints = npt.NDArray[np.int32]
Longs = npt.NDArray[np.int64]


@kernel
def _write_out(first: int, last: int, members: Ints, starts: Longs, left: Ints, right: Ints) -> int:
    count = 0
    for block in range(first, last):
        for one in range(starts[block], starts[block + 1]):
            for other in range(one + 1, starts[block + 1]):
                left[count] = members[one]
                right[count] = members[other]
                count += 1
    return count


def write_out_all(index: BlockIndex) -> int:
    """Return how many pairs the blocks hold, repeats counted, having written each of them out."""
    sizes = np.diff(index.starts)
    sums = np.concatenate(([0], np.cumsum(sizes * (sizes - 1) // 2)))
    bounds = np.unique(np.searchsorted(sums, np.arange(0, int(sums[-1]) + CHUNK_PAIRS, CHUNK_PAIRS), side="left"))

    def run(span: tuple[int, int]) -> int:
        room = int(sums[span[1]] - sums[span[0]])
        left, right = np.empty(room, dtype=np.int32), np.empty(room, dtype=np.int32)
        return _write_out(span[0], span[1], index.members, index.starts, left, right)

    ends = np.minimum(bounds, len(sizes))
    with ThreadPoolExecutor(2) as pool:
        return sum(pool.map(run, zip(ends[:-1].tolist(), ends[1:].tolist(), strict=True)))


def best(*ways: Callable[[], object]) -> list[float]:
    """Return the best time of each of some ways, run in turns."""
    times: list[list[float]] = [[] for _ in ways]
    for _ in range(_ROUNDS):
        for way, taken in zip(ways, times, strict=True):
            started = time.perf_counter()
            way()
            taken.append(time.perf_counter() - started)
    return [min(taken) for taken in times]


def main() -> None:
    """Print the counts, the ratio and the memory."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scale", type=float, default=10.0)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        made = make_demo(Path(folder), scale=options.scale, coined=0.8, only=["Customers"])
        records = read_files([file.path for file in made], made[0].kind).records
    plan = default_plan(made[0].kind)
    tidy = tidy_records(default_layout(plan.kind), records)
    index = build_index(tidy, plan.blocking_keys(), plan.narrowing_keys(), plan.blocking.most_records)
    meets = np.ones((len(tidy.sources), len(tidy.sources)), dtype=np.bool_)

    def walk() -> int:
        return sum(count for _, count in iterate_pairs(index, tidy.source_codes, meets, len))

    proposed, distinct = write_out_all(index), walk()
    tracemalloc.start()
    walk()
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    raw, ours = best(lambda: write_out_all(index), walk)
    print(f"{len(tidy)} records, {proposed} proposed pairs, {distinct} different ones")
    print(f"walking over the different pairs runs at {raw / ours:.2f} of the speed of writing all out")
    print(f"peak memory of the walk {peak / 2**20:.0f} MiB")


if __name__ == "__main__":
    main()
