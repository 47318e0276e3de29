"""Clusters that a person should look at as wholes: those that hang on one weak link, and those with unusually many records."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.sparse import coo_array
from scipy.sparse.csgraph import minimum_spanning_tree

from ..kinds_of_doubt import LARGE, WEAK
from ..records import IntArray

#: A link is weak if it is not more than so many bits above the limit from which on a pair is the same.
_WEAK_BITS = 2.0
#: A cluster is large with more records than this, and than so many times the number of sources.
_LEAST_LARGE, _TIMES_SOURCES = 10, 3


@dataclass(frozen=True, slots=True)
class Awkward:
    """A cluster, by the number of its label, with the two records at the ends of its weakest holding link and that link's score."""

    label: int
    left: int
    right: int
    score: float
    kind: str


def awkward_clusters(
    left: IntArray, right: IntArray, bits: npt.NDArray[np.float32], labels: IntArray, *, same_from: float, sources: int
) -> list[Awkward]:
    """Return the awkward ones among clusters of three records and more.

    ``left``, ``right`` and ``bits`` are pairs, of which those inside a cluster count; the links that hold a cluster together are its
    maximum spanning tree. A cluster that nothing holds but decisions is none. The order of pairs does not matter.
    """
    inside = np.flatnonzero(labels[left] == labels[right]) if len(left) else np.zeros(0, dtype=np.intp)
    if not len(inside):
        return []
    top = float(bits[inside].max()) + 1.0
    graph = coo_array((top - bits[inside].astype(np.float64), (left[inside], right[inside])), shape=(len(labels),) * 2)
    tree = minimum_spanning_tree(graph.tocsr()).tocoo()
    one, other, strength = tree.row.astype(np.int32), tree.col.astype(np.int32), top - tree.data
    sizes = np.bincount(labels)
    of_cluster = labels[one]
    weakest_first = np.lexsort((other, one, strength, of_cluster))
    _, first = np.unique(of_cluster[weakest_first], return_index=True)
    found = []
    for place in weakest_first[first].tolist():
        label, score = int(of_cluster[place]), float(strength[place])
        weak, large = score < same_from + _WEAK_BITS, sizes[label] > max(_LEAST_LARGE, _TIMES_SOURCES * sources)
        if sizes[label] >= 3 and (weak or large):
            a, b = sorted((int(one[place]), int(other[place])))
            found.append(Awkward(label, a, b, round(score, 4), WEAK if weak else LARGE))
    return found
