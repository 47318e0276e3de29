"""Where true pairs are lost: never compared, scored low, left in doubt, or cut by clustering; and which key brings which."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..records import IntArray
from .measures import numbered

Flags = npt.NDArray[np.bool_]


def true_pairs(truth: Sequence[Hashable]) -> tuple[IntArray, IntArray]:
    """Return (left, right): every pair of records of one true entity, left before right."""
    labels = numbered(truth)
    order = np.argsort(labels, kind="stable")
    sizes = np.bincount(labels)
    starts = np.concatenate(([0], np.cumsum(sizes)[:-1])) if len(sizes) else np.zeros(0, dtype=np.int64)
    lefts, rights = [np.zeros(0, dtype=np.int64)], [np.zeros(0, dtype=np.int64)]
    for size in np.unique(sizes[sizes > 1]).tolist():
        one, other = np.triu_indices(size, 1)
        first = starts[sizes == size][:, None]
        lefts.append(order[(first + one).ravel()])
        rights.append(order[(first + other).ravel()])
    left, right = np.concatenate(lefts).astype(np.int32), np.concatenate(rights).astype(np.int32)
    by_record = np.lexsort((right, left))
    return left[by_record], right[by_record]


@dataclass(frozen=True, slots=True)
class StageLosses:
    """What became of the pairs that belong together; all counts but the first add up to it."""

    true_pairs: int
    together: int
    in_doubt: int
    cut_by_clustering: int
    scored_low: int
    never_compared: int


@dataclass(frozen=True, slots=True)
class KeyRecall:
    """How many true pairs a blocking key brings up, and how many no other key does."""

    key: str
    pairs: int
    alone: int


def stage_losses(together: Flags, kept: Flags, linked: Flags, compared: Flags) -> StageLosses:
    """Return where pairs were lost, from what holds of each true pair.

    ``together``: in one cluster; ``kept``: scored at the lower limit or above; ``linked``: scored at the upper limit or
    above; ``compared``: sharing a blocking key.
    """
    apart = ~together
    cut, doubt = apart & kept & linked, apart & kept & ~linked
    low, never = apart & ~kept & compared, apart & ~kept & ~compared
    return StageLosses(len(together), *(int(part.sum()) for part in (together, doubt, cut, low, never)))


def recall_by_key(keys: Sequence[str], brought: Flags) -> tuple[KeyRecall, ...]:
    """Return the recall of every key; ``brought`` has a row per key and a column per true pair."""
    by_how_many = brought.sum(axis=0)
    return tuple(
        KeyRecall(key, int(row.sum()), int((row & (by_how_many == 1)).sum()))
        for key, row in zip(keys, brought, strict=True)
    )
