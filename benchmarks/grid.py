"""How good results are by kind of data: fields, kinds of lists, sizes and kinds of records, beside a TF-IDF search at its best threshold.

Run: ``.venv/bin/python -m benchmarks.grid [--sizes 10 1000 10000] [--seed 2] [--fields name] [--reliability]``. A line per
cell: F1 of the clusters, precision of *same*, recall with what is left unsure, unsure pairs per true pair, the F1 that letter trigrams
reach at the threshold that suits them best, and our error over theirs. ``--reliability`` adds how many pairs of a predicted
probability are true.
"""

import argparse
import tempfile
from collections.abc import Sequence
from itertools import pairwise
from pathlib import Path

import numpy as np
import numpy.typing as npt

from benchmarks.baselines import best_clusters, texts_of, tfidf_pairs
from benchmarks.made_lists import FIELDS, ListCase, make_lists
from benchmarks.made_register import make_register
from oddpair.core.evaluation import cluster_figures
from oddpair.core.fields import RegisterKind
from oddpair.core.pipeline import MatchResult, run
from oddpair.core.plan import default_plan
from oddpair.core.records import RecordSet
from oddpair.services.offline.read_files import read_files

#: Bounds of predicted probability between which pairs are counted.
_BINS = (0.0, 0.05, 0.2, 0.4, 0.6, 0.8, 0.95, 1.0)
#: The search keeps all its pairs in memory.
_LARGEST_SEARCH = 20_000
Truth = npt.NDArray[np.int64]


def _records(
    folder: Path, kind: RegisterKind, fields: str, several: bool, size: int, seed: int
) -> tuple[RecordSet, Truth]:
    """Return about ``size`` records of two lists without duplicates or of several sources with, and the entity of each."""
    if several:
        columns = (*FIELDS[fields], *(("web_site", "tax_number", "birth_date", "boat") if fields == "all" else ()))
        files, known = make_register(folder, kind, size, seed=seed, keep=lambda column: column in columns)
        paths, entity = [file.path for file in files], {record: key for record, (key, _) in known.items()}
    else:
        entity = make_lists(folder, ListCase(kind, fields, max(size // 2, 5), 0.5, seed=seed))
        paths = [folder / "first.csv", folder / "second.csv"]
    records = read_files(paths, kind).records
    keys = [entity[records.source_of(place), records.ids[place]] for place in range(len(records))]
    return records, np.unique(keys, return_inverse=True)[1].astype(np.int64)


def _reliability(result: MatchResult, truth: Truth) -> str:
    """Return, per bin of predicted probability, the mean prediction, the share that is true, and how many pairs there are."""
    pairs = result.pairs
    predicted = result.calibration.probability(pairs.scored.bits)
    true = truth[pairs.left] == truth[pairs.right]
    lines = []
    for low, high in pairwise(_BINS):
        inside = (predicted >= low) & ((predicted < high) | (high == 1.0))
        if inside.any():
            lines.append(f"{predicted[inside].mean():.3f}→{true[inside].mean():.3f} ({inside.sum()})")
    return "      " + "  ".join(lines)


def _line(result: MatchResult, delivered: RecordSet, truth: Truth) -> str:
    pairs = result.pairs
    sizes = np.bincount(truth)
    true_pairs = max(int((sizes * (sizes - 1) // 2).sum()), 1)
    figures = cluster_figures(result.labels.tolist(), truth.tolist())[0]
    true = truth[pairs.left] == truth[pairs.right]
    found = round(figures.recall * true_pairs) + int((true & ~pairs.same).sum())
    line = f"{figures.f1:8.3f}{figures.precision:8.3f}{found / true_pairs:8.3f}{(~pairs.same).sum() / true_pairs:8.2f}"
    if len(truth) > _LARGEST_SEARCH:
        return line
    search = best_clusters(tfidf_pairs(texts_of(delivered)), [str(key) for key in truth.tolist()]).pairwise.f1
    return f"{line}{search:9.3f}{(1 - figures.f1) / max(1 - search, 1e-9):8.2f}"


def _cells(fields: Sequence[str], sizes: Sequence[int]) -> list[tuple[RegisterKind, str, bool, int]]:
    return [
        (kind, name, several, size)
        for kind in RegisterKind
        for several in (False, True)
        for name in fields
        for size in sizes
    ]


def main() -> None:
    """Print a line per cell."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--sizes", nargs="+", type=int, default=[10, 1000, 10000])
    parser.add_argument("--fields", nargs="+", choices=FIELDS, default=list(FIELDS))
    parser.add_argument("--seed", type=int, default=2)
    parser.add_argument("--reliability", action="store_true")
    options = parser.parse_args()
    print(f"{'':<58}{'F1':>8}{'P':>8}{'R+uns':>8}{'uns/t':>8}{'search':>9}{'error':>8}")
    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:
        for kind, fields, several, size in _cells(options.fields, options.sizes):
            records, truth = _records(Path(folder), kind, fields, several, size, options.seed)
            result = run(records, default_plan(kind))
            lists = "several sources" if several else "two lists"
            print(f"{f'{kind.value}s, {lists}, {fields}, {size}':<58}{_line(result, records, truth)}", flush=True)
            if options.reliability:
                print(_reliability(result, truth), flush=True)


if __name__ == "__main__":
    main()
