"""The plan bench: how long an edit takes to show, on a million held pairs, and what the bench keeps in memory.

Run: ``.venv/bin/python -m benchmarks.bench [--records 150000]``. It makes a register of organisations, settles the
default plan, and redraws it after edits of every kind; the median of nine. The last line compares what was told at once with what the
match then settles. Times of one machine mean little by themselves; a first line says how long a plain Python loop takes on it.
"""

import argparse
import statistics
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from benchmarks.register import loop_seconds
from oddpair.core.bench import Bench, BenchInput, counted_same, curve_of, told_at_once
from oddpair.core.clustering import Decisions
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.plan import MatchPlan, default_plan
from oddpair.core.tidying import tidy_records
from oddpair.demo import make_demo
from oddpair.services.offline.read_files import read_files

_CUSTOMERS_AT_SCALE_ONE = 3_000
_REPEATS = 9
_PLAN = default_plan(RegisterKind.ORGANISATION)


def _with_comparison(name: str, **parts: object) -> MatchPlan:
    rules = tuple(rule.model_copy(update=parts) if rule.name == name else rule for rule in _PLAN.comparisons)
    return _PLAN.model_copy(update={"comparisons": rules})


def _edits(step: int) -> dict[str, MatchPlan]:
    limits = _PLAN.limits.model_copy(update={"same": 4.0 + step / 10})
    return {
        "limits": _PLAN.model_copy(update={"limits": limits}),
        "weights by hand": _with_comparison("phone", bits={"equal": 6.0 + step / 10}),
        "conditions": _PLAN.model_copy(update={"conditions": _PLAN.conditions[step % 2 :][:1]}),
        "correlated": _PLAN.model_copy(update={"correlated": _PLAN.correlated[step % 2 :][:1]}),
    }


def _seconds(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def _bench(records: int) -> Bench:
    with tempfile.TemporaryDirectory() as folder:
        files = make_demo(Path(folder), scale=records / _CUSTOMERS_AT_SCALE_ONE, difficulty=1.0)
        own = [file.path for file in files if file.register == "Customers"]
        delivered = read_files(own, RegisterKind.ORGANISATION).records
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), delivered)
    return Bench(BenchInput(tidy, Decisions.none(), (), None))


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--records", type=int, default=150_000)
    records = parser.parse_args().records
    print(f"a plain loop of ten million steps: {loop_seconds():.2f} s")
    bench = _bench(records)
    settled = _seconds(lambda: bench.settle(_PLAN))
    held = bench.redraw(_PLAN).held
    print(
        f"{len(bench.given.records)} records, {held.standing_for:.0f} candidate pairs, {len(held)} held; settled in {settled:.1f} s; "
        f"{bench.kept_bytes / 2**20:.0f} MiB of levels kept\n"
    )
    print("| edited | to redraw, ms | with curve and counts, ms |\n| --- | --- | --- |")
    total = len(bench.given.records)

    def whole(plan: MatchPlan) -> None:
        drawn = bench.redraw(plan)
        told_at_once(drawn.held, drawn.rescored, total)

    for name in _edits(0):
        edited = [_edits(step)[name] for step in range(_REPEATS)]
        alone = statistics.median(_seconds(partial(bench.redraw, plan)) for plan in edited)
        every = statistics.median(_seconds(partial(whole, plan)) for plan in edited)
        print(f"| {name} | {1000 * alone:.0f} | {1000 * every:.0f} |")
    changed = _with_comparison("name", using="similar", among_related={})
    changed = changed.model_copy(update={"conditions": (), "vetoes": ()})
    print(f"| one comparison, measured anew | {1000 * _seconds(lambda: bench.redraw(changed)):.0f} | |")
    loose = _PLAN.model_copy(update={"limits": _PLAN.limits.model_copy(update={"same": 0.0})})
    drawn = bench.redraw(loose)
    told = counted_same(curve_of(drawn.held, drawn.rescored, total), loose.limits.same)
    again = _seconds(lambda: bench.settle(loose))
    found = bench.settle(loose).first.bands["same"]
    print(f"\npairs from 0 bits on: {told.value:.0f} ± {told.margin:.0f} at once, {found} settled in {again:.1f} s")


if __name__ == "__main__":
    main()
