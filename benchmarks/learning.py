"""What a plan learns from sixty decisions, on data that nobody decided about.

Run: ``.venv/bin/python -m benchmarks.learning [--seeds 21,22,23] [--difficulty 1.5] [--mix developing]``. For every seed
it makes a register, asks for sixty pairs in two rounds of thirty as the plan bench does, answers them from the truth, learns a plan, and
matches the register of the *next* seed with it, of which no pair was decided. Error is 1 - F1 of pairs within clusters. Beside the learned
plan stands what moving the limit alone would bring (the learned limit with the weights as they were).
"""

import argparse
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from oddpair.core.bench import Bench, BenchInput
from oddpair.core.clustering import Decisions
from oddpair.core.evaluation import cluster_figures
from oddpair.core.fields import default_layout
from oddpair.core.learning import EvidenceView, JudgedPairs, groups_of, held_out, learn_from, learned_plan, next_pairs
from oddpair.core.pipeline import run
from oddpair.core.plan import MatchPlan, default_plan
from oddpair.core.records import RecordSet
from oddpair.core.tidying import tidy_records
from oddpair.demo import make_demo
from oddpair.services.offline.match_files import read_columns
from oddpair.services.offline.read_files import read_files

_ROUNDS, _A_ROUND, _WEIGHS = 2, 30, 1.0


@dataclass(frozen=True, slots=True)
class Register:
    """A made register: tidy records, and the true entity of each."""

    records: RecordSet
    truth: tuple[str, ...]
    plan: MatchPlan


def _register(name: str, seed: int, difficulty: float, mix: str) -> Register:
    with tempfile.TemporaryDirectory() as folder:
        files = [
            file for file in make_demo(Path(folder), seed=seed, difficulty=difficulty, mix=mix) if file.register == name
        ]
        rows = read_columns(files[0].path.parent / "truth.csv", ("source", "source_id", "entity"))
        kind = files[0].kind
        tidy = tidy_records(default_layout(kind), read_files([file.path for file in files], kind).records)
    entity = {row[:2]: row[2] for row in rows}
    truth = tuple(entity[tidy.source_of(place), tidy.ids[place]] for place in range(len(tidy)))
    return Register(tidy, truth, default_plan(kind))


def _error(register: Register, plan: MatchPlan) -> float:
    labels = run(register.records, plan, are_tidy=True).labels
    return 1.0 - cluster_figures(tuple(labels.tolist()), register.truth)[0].f1


def _learned(register: Register) -> tuple[MatchPlan, str]:
    bench = Bench(BenchInput(register.records, Decisions.none(), (), None))
    bench.settle(register.plan)
    drawn = bench.redraw(register.plan)
    held, rescored = drawn.held, drawn.rescored
    view = EvidenceView(register.plan, rescored.scored.levels, rescored.free_bits)
    pairs = JudgedPairs(view, rescored.scored.condition, rescored.scored.vetoed)
    still = np.ones(len(held), dtype=np.bool_)
    truth = np.unique(np.array(register.truth), return_inverse=True)[1]
    asked = np.zeros(0, dtype=np.intp)
    same = np.zeros(0, dtype=np.bool_)
    for _ in range(_ROUNDS):
        known = learn_from(pairs.at(asked), same, _WEIGHS)
        asked = np.concatenate((asked, next_pairs(pairs, held.weight, still, known, _A_ROUND, _WEIGHS)))
        still[asked] = False
        same = truth[held.left[asked]] == truth[held.right[asked]]
    course = learn_from(pairs.at(asked), same, _WEIGHS)
    rows = asked[course.learned_from]
    told = held_out(
        view.at(rows), same[course.learned_from], groups_of(held.left[rows], held.right[rows]), register.plan.limits.same, _WEIGHS
    )  # fmt: skip
    foreseen = f"{told.right.after - told.right.before:+.2f} ({told.right.verdict})" if told else "-"
    return learned_plan(register.plan, 0, course.taught, len(rows), _WEIGHS, course.without), foreseen


def _limit_alone(plan: MatchPlan, learned: MatchPlan) -> MatchPlan:
    return plan.model_copy(update={"limits": learned.limits})


def main(seeds: Sequence[int], difficulty: float, mix: str) -> None:
    """Measure and print."""
    print("| register | seed | untaught | limit alone | learned | learned / untaught | right of those set aside |")
    print("| --- | --- | --- | --- | --- | --- | --- |")
    for name in ("Customers", "Boat owners"):
        totals = np.zeros(3)
        for seed in seeds:
            plan, foreseen = _learned(_register(name, seed, difficulty, mix))
            other = _register(name, seed + 1, difficulty, mix)
            errors = [_error(other, one) for one in (other.plan, _limit_alone(other.plan, plan), plan)]
            totals += errors
            told = " | ".join(f"{error:.4f}" for error in errors)
            print(f"| {name} | {seed} | {told} | {errors[2] / errors[0]:.2f} | {foreseen} |", flush=True)
        means = totals / len(seeds)
        print(f"| {name} | mean | {' | '.join(f'{mean:.4f}' for mean in means)} | **{means[2] / means[0]:.2f}** | |")


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", default="21,22,23,24,25")
    parser.add_argument("--difficulty", type=float, default=1.5)
    parser.add_argument("--mix", default="developing")
    given = parser.parse_args()
    main([int(seed) for seed in given.seeds.split(",")], given.difficulty, given.mix)
