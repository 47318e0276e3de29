"""Constrained agglomerative clustering of the components that *same* pairs form.

Records linked by *same* pairs form components. Inside a component every pair is scored, also pairs that no blocking key
brought together, and clusters grow by average linkage (R. R. Sokal and C. D. Michener, 1958): the two clusters with the
highest mean evidence between them are joined first, until the mean falls below a limit. So a chain of weak links does
not swallow a neighbourhood. Never joined: clusters with a vetoed pair between them, with a decision "different", or with
two records of a source that promises to have no duplicates. A decision "same" joins whatever the score.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from ..records import IntArray
from ..scoring import ScoredPairs

#: Components beyond this size are clustered on their known pairs only: scoring all pairs would be quadratic.
_LARGEST_COMPLETE = 400


@dataclass(frozen=True, slots=True)
class Decisions:
    """Decided pairs as two arrays of record numbers each, rows (left, right)."""

    same: IntArray
    different: IntArray

    @staticmethod
    def none() -> "Decisions":
        """Return the absence of decisions."""
        return Decisions(np.zeros((0, 2), dtype=np.int32), np.zeros((0, 2), dtype=np.int32))


@dataclass(frozen=True, slots=True)
class ClusterOutcome:
    """``labels`` gives each record the number of its cluster, counted in the order of first records.

    ``ignored`` lists decided *same* pairs that could not be followed because a chain of decisions contradicts itself.
    """

    labels: IntArray
    ignored: tuple[tuple[int, int], ...]


Score = Callable[[IntArray, IntArray], ScoredPairs]


def _components(count: int, left: IntArray, right: IntArray) -> list[IntArray]:
    """Return the members, ascending, of every component with two or more records."""
    graph = coo_array((np.ones(len(left), dtype=np.int8), (left, right)), shape=(count, count))
    _, labels = connected_components(graph, directed=False)
    order = np.argsort(labels, kind="stable")
    sizes = np.bincount(labels)
    starts = np.concatenate(([0], np.cumsum(sizes)))
    return [np.sort(order[starts[k] : starts[k + 1]]).astype(np.int32) for k in np.flatnonzero(sizes > 1)]


def _all_pairs(components: list[IntArray]) -> tuple[IntArray, IntArray]:
    lefts, rights = [np.zeros(0, dtype=np.int32)], [np.zeros(0, dtype=np.int32)]
    for members in components:
        if len(members) <= _LARGEST_COMPLETE:
            one, other = np.triu_indices(len(members), 1)
            lefts.append(members[one])
            rights.append(members[other])
    return np.concatenate(lefts), np.concatenate(rights)


class _Component:
    """One component while its clusters grow: sums and counts of evidence between clusters, and what is forbidden."""

    def __init__(self, members: IntArray) -> None:
        size = len(members)
        self.members = members
        self.sums = np.zeros((size, size))
        self.counts = np.zeros((size, size))
        self.strongest = np.full((size, size), -np.inf)
        self.forbidden = np.eye(size, dtype=np.bool_)
        self.decided_apart = np.zeros((size, size), dtype=np.bool_)
        self.owner = np.arange(size)

    def fill(
        self, left: IntArray, right: IntArray, bits: npt.NDArray[np.float32], vetoed: npt.NDArray[np.bool_]
    ) -> None:
        """Enter known scores of pairs of members."""
        one, other = np.searchsorted(self.members, left), np.searchsorted(self.members, right)
        for a, b in ((one, other), (other, one)):
            self.sums[a, b] = bits
            self.counts[a, b] = 1
            self.strongest[a, b] = bits
            self.forbidden[a, b] |= vetoed

    def forbid(self, pairs: IntArray) -> None:
        """Forbid decided pairs."""
        one, other = np.searchsorted(self.members, pairs[:, 0]), np.searchsorted(self.members, pairs[:, 1])
        self.decided_apart[one, other] = self.decided_apart[other, one] = True
        self.forbidden |= self.decided_apart

    def forbid_same_source(self, sources: IntArray, own_duplicates: npt.NDArray[np.bool_]) -> None:
        """Forbid pairs of records of one source that promises to have no duplicates of its own."""
        mine = sources[self.members]
        self.forbidden |= (mine[:, None] == mine[None, :]) & ~own_duplicates[mine][:, None]

    def join(self, a: int, b: int) -> None:
        """Put cluster ``b`` into cluster ``a`` (numbers of their first members)."""
        for matrix in (self.sums, self.counts):
            matrix[a] += matrix[b]
            matrix[:, a] = matrix[a]
        self.strongest[a] = np.maximum(self.strongest[a], self.strongest[b])
        self.strongest[:, a] = self.strongest[a]
        for constraint in (self.forbidden, self.decided_apart):
            constraint[a] |= constraint[b]
            constraint[:, a] = constraint[a]
        self.forbidden[b] = self.forbidden[:, b] = True
        self.forbidden[a, a] = True
        self.owner[self.owner == b] = a

    def grow(self, least_mean: float, least_link: float) -> None:
        """Join the best pair of clusters until none is good enough; ties go to the pair with the first records."""
        while True:
            with np.errstate(invalid="ignore", divide="ignore"):
                means = np.where(self.forbidden | (self.strongest < least_link), -np.inf, self.sums / self.counts)
            best = int(np.argmax(means))
            a, b = divmod(best, len(self.members))
            if not means[a, b] >= least_mean:
                return
            self.join(min(a, b), max(a, b))


def _follow_decisions(component: _Component, pairs: IntArray) -> list[tuple[int, int]]:
    ignored: list[tuple[int, int]] = []
    for left, right in pairs.tolist():
        a = int(component.owner[np.searchsorted(component.members, left)])
        b = int(component.owner[np.searchsorted(component.members, right)])
        if a == b:
            continue
        if component.decided_apart[a, b]:
            ignored.append((left, right))
        else:
            component.join(min(a, b), max(a, b))
    return ignored


def _inside(pairs: IntArray, component_of: IntArray) -> dict[int, IntArray]:
    """Return the pairs that lie inside one component, by component."""
    inside = (component_of[pairs[:, 0]] == component_of[pairs[:, 1]]) & (component_of[pairs[:, 0]] >= 0)
    kept = pairs[inside]
    numbers = component_of[kept[:, 0]]
    return {int(number): kept[numbers == number] for number in np.unique(numbers)}


def cluster_records(
    left: IntArray, right: IntArray, *, sources: IntArray, own_duplicates: npt.NDArray[np.bool_], decisions: Decisions,
    score: Score, least_mean: float, least_link: float,
) -> ClusterOutcome:  # fmt: skip
    """Return the clusters that the *same* pairs ``(left, right)`` and the decisions form.

    ``score`` scores further pairs inside components; ``least_mean`` and ``least_link`` are bits: the mean evidence that
    two clusters need between them to be joined, and what the strongest single link needs.
    """
    count = len(sources)
    linked = np.concatenate((left, decisions.same[:, 0])), np.concatenate((right, decisions.same[:, 1]))
    components = _components(count, *linked) if count else []
    component_of = np.full(count, -1, dtype=np.int32)
    for number, members in enumerate(components):
        component_of[members] = number
    more_left, more_right = _all_pairs(components)
    large = np.array([len(members) > _LARGEST_COMPLETE for members in components] + [False])
    known = large[component_of[left]]
    more_left, more_right = np.concatenate((more_left, left[known])), np.concatenate((more_right, right[known]))
    scored = score(more_left, more_right)
    order = np.argsort(component_of[more_left], kind="stable")
    bounds = np.searchsorted(component_of[more_left][order], np.arange(len(components) + 1))
    apart, together = _inside(decisions.different, component_of), _inside(decisions.same, component_of)
    labels = np.arange(count, dtype=np.int32)
    ignored: list[tuple[int, int]] = []
    for number, members in enumerate(components):
        component = _Component(members)
        rows = order[bounds[number] : bounds[number + 1]]
        component.fill(more_left[rows], more_right[rows], scored.bits[rows], scored.vetoed[rows])
        if number in apart:
            component.forbid(apart[number])
        component.forbid_same_source(sources, own_duplicates)
        if number in together:
            ignored += _follow_decisions(component, together[number])
        component.grow(least_mean, least_link)
        labels[members] = members[component.owner]
    _, numbered = np.unique(labels, return_inverse=True)
    return ClusterOutcome(numbered.astype(np.int32), tuple(sorted(ignored)))
