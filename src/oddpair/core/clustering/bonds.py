"""Which links hold a cluster together, and which of them is the weakest."""

from collections.abc import Sequence


def holding_links(links: Sequence[tuple[int, int, float]]) -> list[int]:
    """Return the numbers of the links (record, record, strength) that hold the records together, strongest first.

    They are the maximum spanning forest (J. B. Kruskal, 1956): no other choice of links that connects the same records has a
    stronger weakest one. The last is therefore the link at which the cluster would come apart first. Equal links count in the
    order of their records.
    """
    leader: dict[int, int] = {}

    def find(record: int) -> int:
        while leader.setdefault(record, record) != record:
            leader[record] = leader[leader[record]]
            record = leader[record]
        return record

    chosen = []
    for number in sorted(range(len(links)), key=lambda number: (-links[number][2], *links[number][:2])):
        one, other = find(links[number][0]), find(links[number][1])
        if one != other:
            leader[max(one, other)] = min(one, other)
            chosen.append(number)
    return chosen
