"""Which golden key each cluster gets: keys stay with the records they stood for and are never reused."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Change:
    """One connected change of golden records.

    ``before`` maps golden numbers to their records; ``after`` does so for what comes of them, where negative numbers
    stand for keys yet to be given; ``retired`` maps golden numbers that end to the number they lead to.
    """

    before: dict[int, tuple[int, ...]]
    after: dict[int, tuple[int, ...]]
    retired: dict[int, int]


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
