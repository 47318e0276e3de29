"""How long a match takes, how time grows with records, and how it compares with a generic baseline, as ratios in one run.

Run: ``.venv/bin/python -m benchmarks.speed [--scale 3.3] [--factor 10] [--baseline]``. A scale of 3.3 gives
about 10,000 customers. Times of one machine mean little; the ratios carry over. ``--baseline`` also times a TF-IDF trigram
search over the larger file.
"""

import argparse
import resource
import tempfile
import time
from pathlib import Path

from oddpair.core.fields import RegisterKind
from oddpair.core.pipeline import run
from oddpair.core.plan import default_plan
from oddpair.core.processes import processes
from oddpair.demo import make_demo
from oddpair.services.offline.read_files import read_files, worth_processes
from oddpair.services.offline.warm_up import warm_up

_REGISTERS = {"Customers": RegisterKind.ORGANISATION, "Boat owners": RegisterKind.PERSON}


def measure(paths: list[Path], kind: RegisterKind) -> tuple[int, dict[str, float]]:
    """Return (records, seconds per stage from file to clusters)."""
    started = time.perf_counter()
    with processes(worth_processes(paths)):
        records = read_files(paths, kind).records
        read = time.perf_counter() - started
        seconds = {"read": round(read, 2), **run(records, default_plan(kind)).seconds}
    return len(records), {**seconds, "all": round(time.perf_counter() - started, 2)}


def main() -> None:
    """Measure two sizes and print times and their growth."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scale", type=float, default=3.3)
    parser.add_argument("--factor", type=float, default=10.0)
    parser.add_argument("--baseline", action="store_true")
    options = parser.parse_args()
    warm_up()
    with tempfile.TemporaryDirectory() as folder:
        for register, kind in _REGISTERS.items():
            figures = []
            for scale in (options.scale, options.scale * options.factor):
                # The same share of coined words in both, so that only the size differs.
                made = make_demo(Path(folder) / f"{scale:g}", scale=scale, coined=0.8, only=[register])
                figures.append(measure([file.path for file in made], kind))
            (few, short), (many, long) = figures
            print(f"{register}: {few} records in {short['all']:.1f} s, {many} in {long['all']:.1f} s; stages {long}")
            print(f"  times {many / few:.1f} in records is times {long['all'] / short['all']:.1f} in time")
            if options.baseline:
                # Only here: the processes that read and tidy import this module anew and have no need of it.
                from benchmarks.baselines import texts_of, tfidf_pairs

                records = read_files([file.path for file in made], kind).records
                started = time.perf_counter()
                tfidf_pairs(texts_of(records))
                print(f"  the TF-IDF baseline takes {(time.perf_counter() - started) / long['all']:.1f} times as long")
    print(f"peak memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024} MiB")


if __name__ == "__main__":
    main()
