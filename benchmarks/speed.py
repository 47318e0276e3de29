"""How time grows with records: the same match over files of two sizes, as ratios in one run.

Run: ``PYTHONPATH=src:. .venv/bin/python -m benchmarks.speed [--scale 3.3] [--factor 10]``. A scale of 3.3 gives about
10,000 customers. Times of one machine mean little; the ratio of time to records should stay near one.
"""

import argparse
import resource
import tempfile
import time
from pathlib import Path

from oddpair.core.plan import default_plan
from oddpair.demo import make_demo
from oddpair.services.match_files import match_files
from oddpair.services.warm_up import warm_up


def measure(folder: Path, scale: float) -> dict[str, tuple[int, float, dict[str, float]]]:
    """Return per register (records, seconds, seconds per stage) of matching the demo at a scale."""
    files = make_demo(folder, scale=scale)
    figures = {}
    for register in ("Customers", "Boat owners"):
        chosen = [file for file in files if file.register == register]
        started = time.perf_counter()
        outcome = match_files([file.path for file in chosen], default_plan(chosen[0].kind), folder / "out" / register)
        figures[register] = (len(outcome.match.records), time.perf_counter() - started, outcome.match.seconds)
    return figures


def main() -> None:
    """Measure two sizes and print times and their growth."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scale", type=float, default=3.3)
    parser.add_argument("--factor", type=float, default=10.0)
    options = parser.parse_args()
    warm_up()
    with tempfile.TemporaryDirectory() as folder:
        small = measure(Path(folder) / "small", options.scale)
        large = measure(Path(folder) / "large", options.scale * options.factor)
    for register, (records, seconds, _) in small.items():
        more, longer, stages = large[register]
        print(f"{register}: {records} records in {seconds:.1f} s, {more} in {longer:.1f} s")
        print(
            f"  times {more / records:.1f} in records is times {longer / seconds:.1f} in time; stages of the larger: {stages}"
        )
    print(f"peak memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024} MiB")


if __name__ == "__main__":
    main()
