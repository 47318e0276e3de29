"""Which links hold a cluster together, which of them is the weakest, on which all hangs, and where it would come apart."""

from collections import deque
from collections.abc import Collection, Iterator, Mapping, Sequence

Edge = tuple[int, int]


class _Joined:
    """Records that are joined one after the other; a group is called by its smallest record."""

    def __init__(self) -> None:
        self._leader: dict[int, int] = {}

    def of(self, record: int) -> int:
        while self._leader.setdefault(record, record) != record:
            self._leader[record] = self._leader[self._leader[record]]
            record = self._leader[record]
        return record

    def join(self, one: int, other: int) -> None:
        self._leader[max(one, other)] = min(one, other)


def _by_strength(links: Sequence[tuple[int, int, float]]) -> list[int]:
    return sorted(range(len(links)), key=lambda number: (-links[number][2], *links[number][:2]))


def holding_links(links: Sequence[tuple[int, int, float]]) -> list[int]:
    """Return the numbers of the links (record, record, strength) that hold the records together, strongest first.

    They are the maximum spanning forest (J. B. Kruskal, 1956): no other choice of links that connects the same records has a
    stronger weakest one. The last is therefore the link at which the cluster would come apart first. Equal links count in the
    order of their records.
    """
    joined, chosen = _Joined(), []
    for number in _by_strength(links):
        one, other = joined.of(links[number][0]), joined.of(links[number][1])
        if one != other:
            joined.join(one, other)
            chosen.append(number)
    return chosen


def order_by_closeness(records: Collection[int], links: Sequence[tuple[int, int, float]]) -> list[int]:
    """Return records in an order in which close ones stand together: that of the leaves of the tree of single linkage, the larger branch
    first; what nothing links comes last, by number."""
    joined = _Joined()
    rows = {record: [record] for record in sorted(records)}
    for number in _by_strength(links):
        one, other = joined.of(links[number][0]), joined.of(links[number][1])
        if one != other and one in rows and other in rows:
            joined.join(one, other)
            parts = sorted((rows.pop(one), rows.pop(other)), key=lambda part: (-len(part), part[0]))
            rows[min(one, other)] = [*parts[0], *parts[1]]
    return [record for row in sorted(rows.values(), key=lambda row: (-len(row), min(row))) for record in row]


def _neighbours(edges: Collection[Edge]) -> dict[int, list[int]]:
    near: dict[int, list[int]] = {}
    for one, other in sorted(edges):
        near.setdefault(one, []).append(other)
        near.setdefault(other, []).append(one)
    return near


def bridges(edges: Collection[Edge]) -> set[Edge]:
    """Return the edges (smaller record first) without which what they connect would fall apart (R. E. Tarjan, "A note on finding the
    bridges of a graph", 1974); no edge is there twice."""
    near = _neighbours(edges)
    seen: dict[int, int] = {}
    low: dict[int, int] = {}
    found: set[Edge] = set()
    for root in near:
        if root in seen:
            continue
        seen[root] = low[root] = len(seen)
        path: list[tuple[int, int, Iterator[int]]] = [(root, root, iter(near[root]))]
        while path:
            record, came_from, waiting = path[-1]
            other = next(waiting, None)
            if other is None:
                path.pop()
                if path:
                    low[came_from] = min(low[came_from], low[record])
                    if low[record] > seen[came_from]:
                        found.add((min(record, came_from), max(record, came_from)))
            elif other not in seen:
                seen[other] = low[other] = len(seen)
                path.append((other, record, iter(near[other])))
            elif other != came_from:
                low[record] = min(low[record], seen[other])
    return found


def recut(
    records: Collection[int], links: Sequence[tuple[int, int, float]], apart: Collection[Edge]
) -> Mapping[int, int]:
    """Return record → group (its smallest record) after joining records along links, strongest first, wherever that puts no two together
    that have to be kept ``apart``."""
    members = {record: {record} for record in records}
    owner = {record: record for record in records}
    foes: dict[int, set[int]] = {}
    for one, other in apart:
        foes.setdefault(one, set()).add(other)
        foes.setdefault(other, set()).add(one)
    for number in _by_strength(links):
        one, other, _ = links[number]
        if one not in owner or other not in owner or owner[one] == owner[other]:
            continue
        into, gone = sorted((owner[one], owner[other]))
        if any(foes.get(record, set()) & members[gone] for record in members[into]):
            continue
        for record in members[gone]:
            owner[record] = into
        members[into] |= members.pop(gone)
    return owner


def way_between(links: Sequence[tuple[int, int]], one: int, other: int) -> list[int]:
    """Return the numbers of the links (record, record) that lead from one record to another, in order; empty where none do.

    Of several ways it is one with the fewest links (breadth first: E. F. Moore, 1959); among those, links named earlier come first.
    """
    around: dict[int, list[int]] = {}
    for number, ends in enumerate(links):
        for end in ends:
            around.setdefault(end, []).append(number)
    came_by: dict[int, int] = {one: -1}
    waiting = deque([one])
    while waiting and other not in came_by:
        here = waiting.popleft()
        for number in around.get(here, ()):
            there = sum(links[number]) - here
            if there not in came_by:
                came_by[there] = number
                waiting.append(there)
    way: list[int] = []
    here = other
    while came_by.get(here, -1) >= 0:
        way.append(came_by[here])
        here = sum(links[way[-1]]) - here
    return way[::-1]
