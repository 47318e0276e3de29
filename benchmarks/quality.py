"""Quality on the demo data, measured against its truth.

Run: ``.venv/bin/python -m benchmarks.quality`` (with ``PYTHONPATH=src:.``). Prints, per register, precision of the same
band, recall in same and in same + unsure, and pairwise and B-cubed figures of the clusters. ``--errors N`` lists pairs
that went wrong.
"""

import argparse
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from oddpair.core import explain
from oddpair.core.evaluation import Figures, PairFigures, cluster_figures, pair_figures
from oddpair.core.pipeline import MatchResult
from oddpair.core.plan import default_plan
from oddpair.demo import SEED, DemoFile, make_demo
from oddpair.services.match_files import match_files, read_columns


@dataclass(frozen=True, slots=True)
class RegisterQuality:
    """Figures of one register, with the run they come from and the true entity per record."""

    register: str
    pairs: PairFigures
    pairwise: Figures
    b_cubed: Figures
    result: MatchResult
    truth: tuple[str, ...]


def measure(files: list[DemoFile], out: Path) -> RegisterQuality:
    """Match the files of one register with its default plan and measure the outcome."""
    folder = files[0].path.parent
    outcome = match_files([file.path for file in files], default_plan(files[0].kind), out)
    entity = {
        (source, record): key
        for source, record, key in read_columns(folder / "truth.csv", ("source", "source_id", "entity"))
    }
    records = outcome.match.records
    truth = tuple(entity[(records.source_of(place), records.ids[place])] for place in range(len(records)))
    pairs = outcome.match.pairs
    verdicts = np.where(pairs.same, "same", "unsure").tolist()
    figures = pair_figures(truth, pairs.left.tolist(), pairs.right.tolist(), verdicts)
    pairwise, b_cubed = cluster_figures(outcome.match.labels.tolist(), truth)
    return RegisterQuality(files[0].register, figures, pairwise, b_cubed, outcome.match, truth)


def measure_demo(
    folder: Path, *, seed: int = SEED, difficulty: float = 1.0, scale: float = 1.0
) -> list[RegisterQuality]:
    """Make the demo below ``folder`` and measure every register."""
    files = make_demo(folder, seed=seed, difficulty=difficulty, scale=scale)
    registers = list(dict.fromkeys(file.register for file in files))
    return [measure([file for file in files if file.register == name], folder / "out" / name) for name in registers]


def wrong_pairs(quality: RegisterQuality) -> Iterator[str]:
    """Yield a description of every pair wrongly called same, and of every true pair that is neither same nor unsure."""
    result, pairs = quality.result, quality.result.pairs
    sentences = explain.sentences(result.scorer, pairs.left, pairs.right, pairs.scored)
    seen = set()
    for place, (a, b) in enumerate(zip(pairs.left.tolist(), pairs.right.tolist(), strict=True)):
        seen.add((a, b))
        if pairs.same[place] and quality.truth[a] != quality.truth[b]:
            yield f"WRONG {pairs.scored.bits[place]:5.1f} {sentences[place]}\n   {_show(result, a)}\n   {_show(result, b)}"
    by_entity: dict[str, list[int]] = {}
    for record, entity in enumerate(quality.truth):
        by_entity.setdefault(entity, []).append(record)
    for members in by_entity.values():
        for place, a in enumerate(members):
            for b in members[place + 1 :]:
                if (a, b) not in seen:
                    one, other = np.array([a], dtype=np.int32), np.array([b], dtype=np.int32)
                    scored = result.scorer.score(one, other)
                    sentence = explain.sentences(result.scorer, one, other, scored)[0]
                    yield f"LOST {scored.bits[0]:5.1f} {sentence}\n   {_show(result, a)}\n   {_show(result, b)}"


def _show(result: MatchResult, record: int) -> str:
    row = result.records.row(record)
    return f"{result.records.source_of(record)}: " + " | ".join(
        f"{name}={value}" for name, value in row.items() if name != "phone.end"
    )


def main() -> None:
    """Measure the demo and print a table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seed", type=int, default=SEED)
    parser.add_argument("--difficulty", type=float, default=1.0)
    parser.add_argument("--errors", type=int, default=0, help="how many wrong pairs to list per register")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        print(
            f"{'register':<12} {'same P':>7} {'same R':>7} {'+unsure':>8} {'unsure/true':>12} {'pair F1':>8} {'B3 F1':>7}"
        )
        for item in measure_demo(Path(folder), seed=options.seed, difficulty=options.difficulty):
            pairs = item.pairs
            print(
                f"{item.register:<12} {pairs.same_precision:7.4f} {pairs.recall_same:7.4f} {pairs.recall_with_unsure:8.4f} "
                f"{pairs.unsure / pairs.true_pairs:12.3f} {item.pairwise.f1:8.4f} {item.b_cubed.f1:7.4f}"
            )
            for place, text in enumerate(wrong_pairs(item)):
                if place >= options.errors:
                    break
                print("  " + text)


if __name__ == "__main__":
    main()
