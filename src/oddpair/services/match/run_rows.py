"""What came of a match as rows: pairs with their evidence, clusters by their first record, clusters to be looked at as wholes."""

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

from ...core import explain, pipeline
from ...core.clustering import awkward_clusters
from ...core.kinds_of_doubt import kinds_of_doubt
from .numbers import Numbers


def awkward_rows(
    run_id: int, result: pipeline.MatchResult, ids: Numbers, names: Numbers, sources: int
) -> Iterable[tuple[int, int, int, int, float, str]]:
    """Yield the clusters, of records of so many ``sources``, that a person should look at as wholes."""
    pairs = result.pairs
    found = awkward_clusters(
        pairs.left, pairs.right, pairs.scored.bits, result.labels, same_from=result.scorer.plan.limits.same,
        sources=sources,
    )  # fmt: skip
    for one in found:
        left, right = sorted((int(ids[one.left]), int(ids[one.right])))
        yield run_id, int(names[one.left]), left, right, one.score, one.kind


def cluster_names(labels: npt.NDArray[np.int32], ids: Numbers) -> Numbers:
    """Return, per record, the smallest record id of its cluster."""
    smallest = np.full(int(labels.max(initial=-1)) + 1, np.iinfo(np.int64).max)
    np.minimum.at(smallest, labels, ids)
    return smallest[labels]


def pair_lines(run_id: int, result: pipeline.MatchResult, ids: Numbers, pairs: pipeline.PairTable) -> bytes:
    """Return some pairs of a result as lines with ``matching.PAIR_COLUMNS``: levels as bytes, evidence and what stands beside it in
    hundredths of a bit as 16-bit numbers."""
    return b"".join(_lines_of_pass(run_id, one, pairs, ids) for one, _, pairs in result.by_pass(pairs) if len(pairs))


def _lines_of_pass(run_id: int, one: pipeline.PassResult, pairs: pipeline.PairTable, ids: Numbers) -> bytes:
    evidence = explain.evidence_table(one.scorer, pairs)
    kinds = kinds_of_doubt(one.plan, pairs.scored.levels, evidence.compared)
    passed = int(pairs.passed[0])
    bits = np.clip(np.round(evidence.rows.T * 100), -32768, 32767).astype("<i2")
    levels = np.ascontiguousarray(pairs.scored.levels.T)
    left, right = ids[pairs.left], ids[pairs.right]
    columns = zip(
        np.minimum(left, right).tolist(), np.maximum(left, right).tolist(), pairs.scored.bits.tolist(), pairs.same.tolist(),
        kinds, pairs.scored.condition.tolist(), levels, bits, strict=True,
    )  # fmt: skip
    return "".join(
        f"{run_id}\t{a}\t{b}\t{score}\t{'t' if same else 'f'}\t{'' if same else kind}\t{condition}"
        f"\t\\\\x{level.tobytes().hex()}\t\\\\x{amount.tobytes().hex()}\t{passed}\n"
        for a, b, score, same, kind, condition, level, amount in columns
    ).encode()
