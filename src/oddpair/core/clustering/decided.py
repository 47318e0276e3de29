"""Decisions made after a run, put on top of its clusters without running again."""

from collections.abc import Iterable, Mapping


def apply_decisions(
    clusters: Mapping[int, int], same: Iterable[tuple[int, int]], different: Iterable[tuple[int, int]]
) -> tuple[dict[int, int], list[tuple[int, int]]]:
    """Return (record → cluster, ignored pairs) after joining clusters by decided *same* pairs.

    A join that would put a decided *different* pair into one cluster is not made and is reported. Clusters are named by
    their smallest record, so the outcome does not depend on the order of the decisions' two sides; decisions that
    contradict each other are followed in the order given.
    """
    members: dict[int, set[int]] = {}
    owner = dict(clusters)
    for record, cluster in clusters.items():
        members.setdefault(cluster, set()).add(record)
    apart: dict[int, set[int]] = {}
    for a, b in different:
        apart.setdefault(a, set()).add(b)
        apart.setdefault(b, set()).add(a)
    ignored: list[tuple[int, int]] = []
    for a, b in same:
        if a not in owner or b not in owner or owner[a] == owner[b]:
            continue
        one, other = members[owner[a]], members[owner[b]]
        if any(apart.get(record, set()) & other for record in one):
            ignored.append((a, b))
            continue
        gone = owner[b]
        members[owner[a]] = one | other
        for record in other:
            owner[record] = owner[a]
        del members[gone]
    return {record: min(members[cluster]) for record, cluster in owner.items()}, ignored
