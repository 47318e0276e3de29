"""Which golden key each cluster gets: keys stay with the records they stood for and are never reused."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import overload

import numpy as np
import numpy.typing as npt

Numbers = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Change:
    """One connected change of golden records.

    ``before`` maps golden numbers to their records; ``after`` does so for what comes of them, where negative numbers
    stand for keys yet to be given; ``retired`` maps golden numbers that end to the number they lead to.
    """

    before: dict[int, tuple[int, ...]]
    after: dict[int, tuple[int, ...]]
    retired: dict[int, int]


class Changes(Sequence[Change]):
    """The changes of a merge, in the order of their first records.

    Clusters of which no record has a golden record yet are nearly all of a first merge, hundreds of thousands of them. They
    are kept as arrays and become changes only when somebody looks at them.
    """

    def __init__(self, records: Numbers, clusters: Numbers, others: Sequence[Change]) -> None:
        """Take new records, ascending, with the cluster of each, and the changes of golden records that are there."""
        _, place, number = np.unique(clusters, return_index=True, return_inverse=True)
        # Records are ascending, so that the first place of a cluster is that of its first record.
        by_cluster = np.lexsort((records, place[number]))
        self._records = records[by_cluster]
        self._starts = np.append(np.flatnonzero(np.diff(place[number][by_cluster], prepend=-1)), len(records))
        self.others = list(others)
        firsts = [min(records[0] for records in change.after.values()) for change in self.others]
        self._order = np.argsort(np.concatenate([self._records[self._starts[:-1]], np.array(firsts, dtype=np.int64)]))

    @property
    def new_sizes(self) -> Numbers:
        """How many records each new golden record will hold."""
        return np.diff(self._starts)

    def largest_new(self, count: int) -> list[Change]:
        """Return the largest of the changes that make a new golden record."""
        return [self._new(place) for place in np.argsort(-self.new_sizes, kind="stable")[:count].tolist()]

    def _new(self, place: int) -> Change:
        return Change({}, {-1: tuple(self._records[self._starts[place] : self._starts[place + 1]].tolist())}, {})

    def __len__(self) -> int:
        return len(self._order)

    @overload
    def __getitem__(self, place: int) -> Change: ...

    @overload
    def __getitem__(self, place: slice) -> list[Change]: ...

    def __getitem__(self, place: int | slice) -> Change | list[Change]:
        if isinstance(place, slice):
            return [self[one] for one in range(*place.indices(len(self)))]
        number, new = int(self._order[place]), len(self._starts) - 1
        return self._new(number) if number < new else self.others[number - new]


def _grouped(owner_of: Mapping[int, int]) -> dict[int, tuple[int, ...]]:
    """Return owner → its records, ascending, in the order of their first records."""
    groups: dict[int, list[int]] = {}
    for record in sorted(owner_of):
        groups.setdefault(owner_of[record], []).append(record)
    return {owner: tuple(records) for owner, records in groups.items()}


def _heirs(clusters: Mapping[int, tuple[int, ...]], golden_of: Mapping[int, int]) -> dict[int, list[int]]:
    """Return cluster → golden numbers that go on in it: each number follows most of its records, then its first one."""
    votes: dict[int, Counter[int]] = {}
    for cluster, records in clusters.items():
        for record in records:
            if record in golden_of:
                votes.setdefault(golden_of[record], Counter())[cluster] += 1
    heirs: dict[int, list[int]] = {}
    for number, counts in votes.items():
        best = min(counts, key=lambda cluster: (-counts[cluster], clusters[cluster][0]))
        heirs.setdefault(best, []).append(number)
    return heirs


def plan_changes(cluster_of: Mapping[int, int], golden_of: Mapping[int, int]) -> list[Change]:
    """Return the changes that make golden records equal to clusters, ordered by their first record.

    ``cluster_of`` maps every record to its cluster, ``golden_of`` maps records to the golden number they belong to now
    (new records have none). Where several golden records become one, the lowest number stays and the others lead to it;
    where one is split, the number stays with most of its records.
    """
    clusters, members = _grouped(cluster_of), _grouped(golden_of)
    heirs = _heirs(clusters, golden_of)
    stays = {cluster: min(numbers) for cluster, numbers in heirs.items()}
    changes: list[Change] = []
    given = 0
    for group in _connected(clusters, golden_of):
        before = {
            golden_of[record]: members[golden_of[record]]
            for c in group
            for record in clusters[c]
            if record in golden_of
        }
        after: dict[int, tuple[int, ...]] = {}
        for cluster in group:
            if cluster in stays:
                after[stays[cluster]] = clusters[cluster]
            else:
                given -= 1
                after[given] = clusters[cluster]
        if before != after:
            retired = {
                number: stays[cluster]
                for cluster in group
                for number in heirs.get(cluster, [])
                if number != stays[cluster]
            }
            changes.append(Change(before, after, retired))
        else:
            given += sum(1 for number in after if number < 0)
    return changes


def _connected(clusters: Mapping[int, tuple[int, ...]], golden_of: Mapping[int, int]) -> list[list[int]]:
    """Return groups of clusters that share golden records, ordered by their first record."""
    parent = {cluster: cluster for cluster in clusters}

    def root(cluster: int) -> int:
        while parent[cluster] != cluster:
            parent[cluster] = parent[parent[cluster]]
            cluster = parent[cluster]
        return cluster

    first_cluster: dict[int, int] = {}
    for cluster, records in clusters.items():
        for record in records:
            if record in golden_of:
                other = root(first_cluster.setdefault(golden_of[record], cluster))
                parent[root(cluster)] = other
    groups: dict[int, list[int]] = {}
    for cluster in sorted(clusters, key=lambda cluster: clusters[cluster][0]):
        groups.setdefault(root(cluster), []).append(cluster)
    return list(groups.values())
