"""Quality on generated data, measured against its truth, beside two generic baselines.

Run: ``.venv/bin/python -m benchmarks.quality``. Per level of difficulty and register it prints
pairwise figures of the clusters, the bands, the share of planted traps joined, and what the baselines reach at their
best threshold. Errors come from the mixture ``reporting``, which was not looked at while developing; ``--mix developing``
shows the other one and ``--mix ""`` the demo itself. ``--errors N`` lists pairs that went wrong.
"""

import argparse
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from benchmarks.baselines import BaselineOutcome, best_clusters, database_pairs, texts_of, tfidf_pairs
from oddpair.core import explain
from oddpair.core.evaluation import (
    Figures,
    PairFigures,
    cluster_figures,
    curve,
    pair_figures,
    recall_at_precision,
)
from oddpair.core.pipeline import MatchResult, PairTable, run
from oddpair.core.plan import default_plan
from oddpair.core.records import RecordSet
from oddpair.demo import LEVELS, SEED, DemoFile, make_demo
from oddpair.launch.postgres import PrivatePostgres
from oddpair.services.offline.match_files import read_columns
from oddpair.services.offline.read_files import read_files

#: Reporting uses another seed than developing, and another mixture of errors.
_SEEDS = {"developing": 7, "reporting": 20_26, "": SEED}


@dataclass(frozen=True, slots=True)
class RegisterQuality:
    """Figures of one register, with the run they come from and the true entity and trap per record."""

    register: str
    pairs: PairFigures
    pairwise: Figures
    b_cubed: Figures
    recall_at_99: float
    traps: float
    delivered: RecordSet
    result: MatchResult
    truth: tuple[str, ...]
    trap: tuple[str, ...]


def traps_joined(labels: tuple[int, ...], truth: tuple[str, ...], trap: tuple[str, ...]) -> float:
    """Return the share of planted traps with a record in one cluster with another entity's."""
    entities: dict[int, set[str]] = {}
    for label, entity in zip(labels, truth, strict=True):
        entities.setdefault(label, set()).add(entity)
    planted: dict[str, bool] = {}
    for label, entity, kind in zip(labels, truth, trap, strict=True):
        if kind:
            planted[entity] = planted.get(entity, False) or len(entities[label]) > 1
    return sum(planted.values()) / max(len(planted), 1)


def measure(files: list[DemoFile]) -> RegisterQuality:
    """Match the files of one register with its default plan and measure the outcome."""
    names = ("source", "source_id", "entity", "trap")
    known = {row[:2]: row[2:] for row in read_columns(files[0].path.parent / "truth.csv", names)}
    records = read_files([file.path for file in files], files[0].kind).records
    result = run(records, default_plan(files[0].kind))
    rows = [known[(records.source_of(place), records.ids[place])] for place in range(len(records))]
    truth, trap = tuple(row[0] for row in rows), tuple(row[1] for row in rows)
    pairs = result.pairs
    left, right = pairs.left.tolist(), pairs.right.tolist()
    figures = pair_figures(truth, left, right, np.where(pairs.same, "same", "unsure").tolist())
    labels = tuple(result.labels.tolist())
    points = curve(truth, left, right, pairs.scored.bits)
    return RegisterQuality(
        files[0].register, figures, *cluster_figures(labels, truth), recall_at_precision(points, 0.99),
        traps_joined(labels, truth, trap), records, result, truth, trap,
    )  # fmt: skip


def measure_demo(
    folder: Path, *, mix: str = "", difficulty: float = 1.0, scale: float = 1.0, seed: int | None = None
) -> Iterator[RegisterQuality]:
    """Make the demo below ``folder`` and measure every register."""
    files = make_demo(folder, seed=_SEEDS[mix] if seed is None else seed, difficulty=difficulty, scale=scale, mix=mix)
    for name in dict.fromkeys(file.register for file in files):
        yield measure([file for file in files if file.register == name])


def wrong_pairs(quality: RegisterQuality) -> Iterator[str]:
    """Yield a description of every pair wrongly called same, and of every true pair that is neither same nor unsure."""
    result, pairs = quality.result, quality.result.pairs
    sentences = explain.sentences(result.scorer, pairs)
    seen = set()
    for place, (a, b) in enumerate(zip(pairs.left.tolist(), pairs.right.tolist(), strict=True)):
        seen.add((a, b))
        if pairs.same[place] and quality.truth[a] != quality.truth[b]:
            bits = pairs.scored.bits[place]
            yield f"WRONG {bits:5.1f} {sentences[place]}\n   {_show(quality, a)}\n   {_show(quality, b)}"
    by_entity: dict[str, list[int]] = {}
    for record, entity in enumerate(quality.truth):
        by_entity.setdefault(entity, []).append(record)
    for members in by_entity.values():
        for place, a in enumerate(members):
            for b in members[place + 1 :]:
                if (a, b) not in seen:
                    one, other = np.array([a], dtype=np.int32), np.array([b], dtype=np.int32)
                    scored = result.scorer.score(one, other)
                    nothing = np.zeros(1, dtype=np.float32)
                    pair = PairTable(
                        one, other, scored, np.zeros(1, dtype=np.bool_), nothing, nothing, np.zeros(1, dtype=np.int8)
                    )
                    sentence = explain.sentences(result.scorer, pair)[0]
                    yield f"LOST {scored.bits[0]:5.1f} {sentence}\n   {_show(quality, a)}\n   {_show(quality, b)}"


def _show(quality: RegisterQuality, record: int) -> str:
    row = quality.result.records.row(record)
    return f"{quality.result.records.source_of(record)}: " + " | ".join(
        f"{name}={value}" for name, value in row.items() if name not in ("phone.end", "email.domain", "updated_on")
    )


def _line(level: str, item: RegisterQuality) -> str:
    pairs = item.pairs
    return (
        f"{level:<8}{item.register:<12}{item.pairwise.precision:8.4f}{item.pairwise.recall:8.4f}{item.pairwise.f1:8.4f}"
        f"{item.b_cubed.f1:8.4f}{item.recall_at_99:9.4f}{pairs.same_precision:8.4f}{pairs.recall_with_unsure:9.4f}"
        f"{(pairs.unsure / max(pairs.true_pairs, 1)):9.3f}{item.traps:8.3f}"
    )


def _baseline(name: str, item: RegisterQuality, outcome: BaselineOutcome) -> str:
    joined = traps_joined(outcome.labels, item.truth, item.trap)
    ratio = (1 - item.pairwise.f1) / max(1 - outcome.pairwise.f1, 1e-9)
    return (
        f"        {name:<12}{outcome.pairwise.precision:8.4f}{outcome.pairwise.recall:8.4f}{outcome.pairwise.f1:8.4f}"
        f"   traps joined {joined:.3f}, our remaining error is {ratio:.2f} of its"
    )


def main() -> None:
    """Measure all levels and print a table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--mix", default="reporting", choices=sorted(_SEEDS))
    parser.add_argument("--seed", type=int, default=None)
    parser.add_argument("--levels", nargs="+", default=list(LEVELS), choices=sorted(LEVELS))
    parser.add_argument("--scale", type=float, default=1.0)
    parser.add_argument("--no-baselines", action="store_true")
    parser.add_argument("--errors", type=int, default=0, help="how many wrong pairs to list per register")
    options = parser.parse_args()
    heads = (
        ("P", 8),
        ("R", 8),
        ("F1", 8),
        ("B3 F1", 8),
        ("R@P.99", 9),
        ("same P", 8),
        ("+unsure", 9),
        ("uns/true", 9),
        ("traps", 8),
    )
    print(f"{'level':<8}{'register':<12}" + "".join(f"{head:>{width}}" for head, width in heads))
    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:
        Path(folder).chmod(0o755)
        server = None if options.no_baselines else PrivatePostgres(Path(folder) / "postgres", for_tests=True)
        try:
            dsn = server.start() if server else ""
            for level in options.levels:
                difficulty = 1.0 if options.mix == "" else LEVELS[level]
                data = Path(folder) / level
                for item in measure_demo(
                    data, mix=options.mix, difficulty=difficulty, scale=options.scale, seed=options.seed
                ):
                    print(_line(level, item), flush=True)
                    if server:
                        texts = texts_of(item.delivered)
                        print(_baseline("TF-IDF", item, best_clusters(tfidf_pairs(texts), item.truth)), flush=True)
                        joined = best_clusters(database_pairs(texts, dsn), item.truth)
                        print(_baseline("trigram join", item, joined), flush=True)
                    for place, text in enumerate(wrong_pairs(item)):
                        if place >= options.errors:
                            break
                        print("  " + text)
        finally:
            if server:
                server.stop()


if __name__ == "__main__":
    main()
