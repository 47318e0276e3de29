"""Lists with few fields, and registers with planted relations: what is sure, what is right of it, and what is left to a person.

Run: ``.venv/bin/python -m benchmarks.few_fields lists --sizes 10 300 5000`` for two lists that overlap, or
``... relations --sizes 10000 100000`` for a register from several sources. ``--seed`` makes other data than those of developing.
"""

import argparse
import tempfile
from collections.abc import Iterator, Mapping
from pathlib import Path

import numpy as np

from benchmarks.made_lists import FIELDS, ListCase, make_lists
from benchmarks.made_register import make_register
from benchmarks.quality import traps_joined
from oddpair.core.evaluation import cluster_figures
from oddpair.core.fields import RegisterKind
from oddpair.core.pipeline import MatchResult, run
from oddpair.core.plan import default_plan
from oddpair.services.offline.read_files import read_files

_OVERLAPS = (0.0, 0.1, 0.3, 0.5, 0.9)
Record = tuple[str, str]


def _match(paths: list[Path], kind: RegisterKind) -> MatchResult:
    return run(read_files(paths, kind).records, default_plan(kind))


def _figures(result: MatchResult, entity: Mapping[Record, str]) -> str:
    """Return precision, recall and F1 of the clusters, false pairs per 1,000 records, and per true pair what is unsure and how many
    the probabilities expect."""
    records = result.records
    truth = [entity[records.source_of(place), records.ids[place]] for place in range(len(records))]
    pairwise, _ = cluster_figures(result.labels.tolist(), truth)
    left, right, same = result.pairs.left.tolist(), result.pairs.right.tolist(), result.pairs.same.tolist()
    false = sum(1 for a, b, is_same in zip(left, right, same, strict=True) if is_same and truth[a] != truth[b])
    sizes = np.unique(np.array(truth), return_counts=True)[1]
    true_pairs = int((sizes * (sizes - 1) // 2).sum())
    unsure = same.count(False) / max(true_pairs, 1)
    expected = float(result.calibration.probability(result.pairs.scored.bits).sum()) / max(true_pairs, 1)
    figures = f"{pairwise.precision:9.4f}{pairwise.recall:9.4f}{pairwise.f1:9.4f}"
    return f"{figures}{1000 * false / len(records):10.2f}{unsure:10.3f}{expected:10.2f}"


def _cases(size: int, seed: int) -> Iterator[ListCase]:
    for kind, fields in [(RegisterKind.ORGANISATION, fields) for fields in FIELDS] + [
        (RegisterKind.PERSON, "name + address")
    ]:
        for overlap in _OVERLAPS:
            yield ListCase(kind, fields, size, overlap, seed=seed)
        yield ListCase(kind, fields, size, 0.5, relatives=True, seed=seed)
        for share in (0.01, 0.05):
            yield ListCase(kind, fields, size, 0.5, own_duplicates=share, seed=seed)
        if kind is RegisterKind.ORGANISATION:
            yield ListCase(kind, fields, size, 0.5, abbreviating=True, seed=seed)


def main() -> None:
    """Print a line per case."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("what", choices=["lists", "relations"])
    parser.add_argument("--sizes", nargs="+", type=int, default=[300])
    parser.add_argument("--seed", type=int, default=2)
    options = parser.parse_args()
    print(f"{'':<64}{'P':>9}{'R':>9}{'F1':>9}{'false/1k':>10}{'unsure':>10}{'expected':>10}")
    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:
        for size in options.sizes:
            if options.what == "lists":
                for case in _cases(size, options.seed):
                    entity = make_lists(Path(folder), case)
                    result = _match([Path(folder) / "first.csv", Path(folder) / "second.csv"], case.kind)
                    print(f"{case.describe():<64}{_figures(result, entity)}", flush=True)
                continue
            for kind in RegisterKind:
                files, truth = make_register(Path(folder), kind, size, seed=options.seed)
                result = _match([file.path for file in files], kind)
                known = {record: entity for record, (entity, _) in truth.items()}
                ids = [
                    (result.records.source_of(place), result.records.ids[place]) for place in range(len(result.records))
                ]
                planted = tuple(truth[record][1] for record in ids)
                traps = traps_joined(tuple(result.labels.tolist()), tuple(known[record] for record in ids), planted)
                print(f"{f'{kind.value}s, {size}':<64}{_figures(result, known)}   traps joined {traps:.4f}", flush=True)


if __name__ == "__main__":
    main()
