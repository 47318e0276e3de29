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

from ..records import IntArray
from ..scoring import ScoredPairs
from .components import Longs, linked_components
from .linkage import Links, grow_components

#: Components beyond this size are clustered on their linked pairs and on what is vetoed: keeping all pairs would be quadratic.
_LARGEST_COMPLETE = 400
#: Pairs of large components are scored so many at a time, which bounds memory.
_PAIRS_AT_ONCE = 500_000
#: No component grows beyond this many records, unless decisions say so.
_LARGEST_COMPONENT = 2000


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


def _all_pairs(members: IntArray, starts: Longs) -> tuple[IntArray, IntArray]:
    """Return every pair of records inside the components that are not too large."""
    sizes = np.diff(starts)
    lefts, rights = [np.zeros(0, dtype=np.int32)], [np.zeros(0, dtype=np.int32)]
    for size in np.unique(sizes[sizes <= _LARGEST_COMPLETE]).tolist():
        # Components of one size at a time, so that the work is done on whole arrays.
        one, other = np.triu_indices(size, 1)
        first = starts[:-1][sizes == size][:, None]
        lefts.append(members[(first + one).ravel()])
        rights.append(members[(first + other).ravel()])
    return np.concatenate(lefts), np.concatenate(rights)


def pairs_within_clusters(labels: IntArray) -> tuple[IntArray, IntArray]:
    """Return (left, right): every pair of records of one cluster, ordered; of clusters that are not too large for that."""
    members = np.argsort(labels, kind="stable").astype(np.int32)
    starts = np.concatenate(([0], np.cumsum(np.bincount(labels)))).astype(np.int64)
    left, right = _all_pairs(members, starts)
    order = np.lexsort((right, left))
    return left[order], right[order]


def _telling_pairs(
    members: IntArray, starts: Longs, score: "Score", may_be_vetoed: npt.NDArray[np.bool_], least: float
) -> tuple[IntArray, IntArray]:
    """Return the pairs inside large components that are vetoed, or linked though no blocking key brought them together.

    Only records that hold what a veto asks for are looked at, so that long lists of bare names cost nothing.
    """
    lefts, rights = [np.zeros(0, dtype=np.int32)], [np.zeros(0, dtype=np.int32)]
    for component in np.flatnonzero(np.diff(starts) > _LARGEST_COMPLETE).tolist():
        own = members[starts[component] : starts[component + 1]]
        own = own[may_be_vetoed[own]]
        rows = max(_PAIRS_AT_ONCE // max(len(own), 1), 1)
        for first in range(0, len(own), rows):
            one, other = np.nonzero(np.arange(first, min(first + rows, len(own)))[:, None] < np.arange(len(own)))
            left, right = own[one + first], own[other]
            scored = score(left, right)
            telling = scored.vetoed | (scored.bits >= least)
            lefts.append(left[telling])
            rights.append(right[telling])
    return np.concatenate(lefts), np.concatenate(rights)


class _Places:
    """Where every record stands: the number of its component (-1 if alone) and its place in it."""

    def __init__(self, count: int, members: IntArray, starts: Longs) -> None:
        sizes = np.diff(starts)
        self.component = np.full(count, -1, dtype=np.int32)
        self.component[members] = np.repeat(np.arange(len(sizes)), sizes)
        self.place = np.zeros(count, dtype=np.int32)
        self.place[members] = np.arange(len(members)) - np.repeat(starts[:-1], sizes)
        self.components = len(sizes)

    def links(self, left: IntArray, right: IntArray) -> tuple[Links, npt.NDArray[np.intp]]:
        """Return the pairs that lie inside one component, by component, and which of the given pairs they are."""
        inside = np.flatnonzero((self.component[left] == self.component[right]) & (self.component[left] >= 0))
        rows = inside[np.argsort(self.component[left[inside]], kind="stable")]
        starts = np.searchsorted(self.component[left[rows]], np.arange(self.components + 1)).astype(np.int64)
        return Links(starts, self.place[left[rows]], self.place[right[rows]]), rows


def cluster_records(
    left: IntArray, right: IntArray, bits: npt.NDArray[np.float32], *, sources: IntArray,
    own_duplicates: npt.NDArray[np.bool_], decisions: Decisions, score: Score, least_mean: float, least_link: float,
    may_be_vetoed: npt.NDArray[np.bool_] | None = None,
) -> ClusterOutcome:  # fmt: skip
    """Return the clusters that the *same* pairs ``(left, right)`` with their scores and the decisions form.

    ``score`` scores further pairs inside components; ``least_mean`` and ``least_link`` are bits: the mean evidence that
    two clusters need between them to be joined, and what the strongest single link needs. ``may_be_vetoed`` tells which
    records a veto can concern (all, where it is not given).
    """
    count = len(sources)
    # Scores are single-precision numbers, so the limits they are held against are rounded alike.
    least_mean, least_link = float(np.float32(least_mean)), float(np.float32(least_link))
    members, starts = linked_components(count, left, right, bits, decisions.same, _LARGEST_COMPONENT)
    places = _Places(count, members, starts)
    more_left, more_right = _all_pairs(members, starts)
    large = np.append(np.diff(starts) > _LARGEST_COMPLETE, False)[places.component[left]]
    concerned = np.ones(count, dtype=np.bool_) if may_be_vetoed is None else may_be_vetoed
    telling_left, telling_right = _telling_pairs(members, starts, score, concerned, least_link)
    known_left, known_right = np.concatenate((left[large], telling_left)), np.concatenate((right[large], telling_right))
    _, first = np.unique(known_left.astype(np.int64) * count + known_right, return_index=True)
    more_left = np.concatenate((more_left, known_left[first]))
    more_right = np.concatenate((more_right, known_right[first]))
    scored = score(more_left, more_right)
    known, rows = places.links(more_left, more_right)
    together, followed = places.links(decisions.same[:, 0], decisions.same[:, 1])
    apart, _ = places.links(decisions.different[:, 0], decisions.different[:, 1])
    owners, ignored = np.zeros(len(members), dtype=np.int32), np.zeros(len(followed), dtype=np.bool_)
    grow_components(
        starts, sources[members], own_duplicates, known, scored.bits[rows], scored.vetoed[rows], apart, together,
        least_mean, least_link, owners, ignored,
    )  # fmt: skip
    labels = np.arange(count, dtype=np.int32)
    labels[members] = members[owners + np.repeat(starts[:-1], np.diff(starts))]
    _, numbered = np.unique(labels, return_inverse=True)
    contradicted = sorted((int(a), int(b)) for a, b in decisions.same[followed[ignored]])
    return ClusterOutcome(numbered.astype(np.int32), tuple(contradicted))
