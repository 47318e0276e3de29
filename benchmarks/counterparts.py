"""Counterparts of one list in another: how often *matched* and *none* are right, by how much the lists hold.

Run: ``.venv/bin/python -m benchmarks.counterparts [--sizes 300 5000] [--seed 2]``. Two made lists that overlap by
0, 10, 50 and 90 %, some with relatives in one list only or one that abbreviates; the first is asked of the second. A row is
*matched* rightly if its counterpart is a record of the same entity, *none* is right if the other list knows nothing of it.
"""

import argparse
import tempfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from benchmarks.made_lists import FIELDS, ListCase, make_lists
from oddpair.core.counterparts import Asked, Verdict, find_counterparts
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.plan import default_plan
from oddpair.core.tidying import tidy_records
from oddpair.services.offline.read_files import read_files

_OVERLAPS = (0.0, 0.1, 0.5, 0.9)
_HEAD = ("matched", "right", "none", "right", "several", "unsure", "found")


def _cases(size: int, seed: int) -> Iterator[ListCase]:
    kinds = [(RegisterKind.ORGANISATION, fields) for fields in FIELDS] + [(RegisterKind.PERSON, "name + address")]
    for kind, fields in kinds:
        for overlap in _OVERLAPS:
            yield ListCase(kind, fields, size, overlap, seed=seed)
        yield ListCase(kind, fields, size, 0.5, relatives=True, seed=seed)
        if kind is RegisterKind.ORGANISATION:
            yield ListCase(kind, fields, size, 0.5, abbreviating=True, seed=seed)


def _row(folder: Path, case: ListCase) -> tuple[Counter[str], str]:
    """Return the counts of a case, and what is told of it."""
    entity = make_lists(folder, case)
    read = read_files([folder / "first.csv", folder / "second.csv"], case.kind)
    records = tidy_records(default_layout(case.kind), read.records, None)
    found = find_counterparts(Asked(records, "first"), default_plan(case.kind))
    known = {name for (source, _), name in entity.items() if source == "second"}
    who = [entity[records.source_of(place), records.ids[place]] for place in range(len(records))]
    best = dict(zip(found.counterparts.rows.tolist(), found.counterparts.records.tolist(), strict=True))
    counts: Counter[str] = Counter()
    for row in range(len(found.counterparts.verdicts)):
        verdict, name = found.verdict(row), who[found.first + row]
        counts[verdict] += 1
        counts["known"] += name in known
        counts["matched right"] += verdict is Verdict.MATCHED and who[best[row]] == name
        counts["none right"] += verdict is Verdict.NONE and name not in known
    return counts, case.describe()


def _told(counts: Counter[str]) -> str:
    rows = sum(counts[verdict] for verdict in Verdict)
    shares = (
        counts["matched"] / rows, counts["matched right"] / max(counts["matched"], 1), counts["none"] / rows,
        counts["none right"] / max(counts["none"], 1), counts["several"] / rows, counts["unsure"] / rows,
        counts["matched right"] / max(counts["known"], 1),
    )  # fmt: skip
    return "".join(f"{share:9.3f}" for share in shares)


def main() -> None:
    """Print a line per case, and one per kind of lists for all its cases together."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--sizes", nargs="+", type=int, default=[300])
    parser.add_argument("--seed", type=int, default=2)
    options = parser.parse_args()
    print(f"{'':<64}{''.join(f'{name:>9}' for name in _HEAD)}")
    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:
        for size in options.sizes:
            together: dict[str, Counter[str]] = {}
            for case in _cases(size, options.seed):
                counts, told = _row(Path(folder), case)
                print(f"{told:<64}{_told(counts)}", flush=True)
                together.setdefault(f"{case.kind.value}s, {case.fields}, {size}", Counter()).update(counts)
            for name, counts in together.items():
                print(f"{'all: ' + name:<64}{_told(counts)}", flush=True)


if __name__ == "__main__":
    main()
