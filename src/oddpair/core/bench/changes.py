"""What an edited plan changes: pairs gained and lost, and clusters that join or come apart."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..records import IntArray
from ..sorting import stable_order

Flags = npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class ClusterChange:
    """Clusters that became others: the ``records`` concerned, and their clusters ``before`` and ``after`` (a number per record)."""

    records: tuple[int, ...]
    before: tuple[int, ...]
    after: tuple[int, ...]

    @property
    def joins(self) -> bool:
        """Whether records of several clusters are in one now."""
        return len(set(zip(self.before, self.after, strict=True))) > len(set(self.after))

    @property
    def cuts(self) -> bool:
        """Whether records of one cluster are in several now."""
        return len(set(zip(self.before, self.after, strict=True))) > len(set(self.before))


def changed_records(before: IntArray, after: IntArray) -> IntArray:
    """Return the records whose cluster has other members now; ``before`` and ``after`` name a cluster per record."""
    pairs = np.stack([before.astype(np.int64), after.astype(np.int64)], axis=1)
    _, which, overlaps = np.unique(pairs, axis=0, return_inverse=True, return_counts=True)
    alike = overlaps[which.reshape(-1)]
    unchanged = (np.bincount(before)[before] == alike) & (np.bincount(after)[after] == alike)
    return np.flatnonzero(~unchanged).astype(np.int32)


def cluster_changes(before: IntArray, after: IntArray, most: int) -> tuple[tuple[ClusterChange, ...], int, int]:
    """Return (the first changes, how many join clusters, how many cut one): records that were or are together belong to one change."""
    records = changed_records(before, after)
    if not len(records):
        return (), 0, 0
    group = _linked(before[records], after[records])
    order = stable_order(group.astype(np.int64), records)
    bounds = np.flatnonzero(np.concatenate(([True], np.diff(group[order]) != 0, [True])))
    changes: list[ClusterChange] = []
    joining = cutting = 0
    for start, end in zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True):
        own = records[order[start:end]]
        change = ClusterChange(tuple(own.tolist()), tuple(before[own].tolist()), tuple(after[own].tolist()))
        joining += change.joins
        cutting += change.cuts
        if len(changes) < most:
            changes.append(change)
    return tuple(changes), joining, cutting


def _linked(before: IntArray, after: IntArray) -> IntArray:
    """Return a number per record, the same for records linked by clusters before or after."""
    group = np.arange(len(before))
    while True:
        spread = group
        for labels in (before, after):
            smallest = np.full(int(labels.max()) + 1, len(group))
            np.minimum.at(smallest, labels, spread)
            spread = np.minimum(spread, smallest[labels])
        if (spread == group).all():
            return group.astype(np.int32)
        group = spread
