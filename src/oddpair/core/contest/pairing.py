"""One to one: the best pairing over all of two lists without duplicates, and what it would cost to leave a pair of it out.

The pairing is the one whose pairs are worth most together (the assignment problem: H. W. Kuhn, "The Hungarian method", 1955; solved
by R. Jonker and A. Volgenant's shortest augmenting paths on sparse graphs, Computing 38, 1987). First come, first served would let
one early pair take what two later ones need.
"""

import numpy as np
import numpy.typing as npt
from scipy.optimize import linear_sum_assignment
from scipy.sparse import coo_array, csr_array, hstack
from scipy.sparse.csgraph import connected_components, min_weight_full_bipartite_matching

from ..records import IntArray

Worth = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
#: What leaving a pair out would cost is computed exactly in groups of so many pairs; in larger ones it is told how much at least.
_MOST_EXACT = 60
_NOTHING = 1e-9


def _numbered(records: IntArray) -> tuple[npt.NDArray[np.int64], int]:
    distinct, numbers = np.unique(records, return_inverse=True)
    return numbers.astype(np.int64), len(distinct)


def best_pairing(left: IntArray, right: IntArray, worth: Worth) -> Flags:
    """Return which of the candidate pairs form the best pairing: every record in one pair at most, the sum of ``worth`` the largest.

    ``left`` are records of one list, ``right`` of the other, no pair twice; pairs worth nothing are never taken.
    """
    chosen = np.zeros(len(left), dtype=np.bool_)
    useful = np.flatnonzero(worth > _NOTHING)
    if not len(useful):
        return chosen
    rows, row_count = _numbered(left[useful])
    columns, column_count = _numbered(right[useful])
    dear = float(worth[useful].max()) + 1.0
    # Whoever is left out takes a place of its own, so that there always is a pairing of everybody.
    costs = csr_array((dear - worth[useful], (rows, columns)), shape=(row_count, column_count))
    alone = csr_array((np.full(row_count, dear), (np.arange(row_count),) * 2), shape=(row_count, row_count))
    taken_rows, taken = min_weight_full_bipartite_matching(hstack([costs, alone], format="csr"))
    partner = np.full(row_count, -1, dtype=np.int64)
    partner[taken_rows] = taken
    chosen[useful[partner[rows] == columns]] = True
    return chosen


def _best_other(records: IntArray, worth: Worth) -> Worth:
    """Return, per pair, the worth of the best other pair of a record; 0 if there is none."""
    order = np.lexsort((-worth, records))
    ordered, sums = records[order], worth[order]
    first = np.concatenate(([True], ordered[1:] != ordered[:-1]))
    starts = np.flatnonzero(first)
    group = np.cumsum(first) - 1
    best = sums[starts]
    is_second = np.concatenate(([False], first[:-1])) & ~first
    second = np.zeros(len(starts))
    second[group[is_second]] = sums[is_second]
    other = np.empty(len(worth))
    other[order] = np.where(first, second[group], best[group])
    return other


def cost_of_leaving_out(left: IntArray, right: IntArray, worth: Worth, chosen: Flags, enough: float) -> Worth:
    """Return, for every chosen pair, by how much the best pairing without it is worth less; infinity for the others.

    In large groups of pairs it is told how much less at least: the pair's worth, less that of the best others of its two records.
    Where that is ``enough``, nothing is computed more exactly.
    """
    cost = np.full(len(left), np.inf)
    if not chosen.any():
        return cost
    positive = np.maximum(worth, 0.0)
    least = positive - _best_other(left, positive) - _best_other(right, positive)
    cost[chosen] = np.maximum(least[chosen], 0.0)
    count = int(max(left.max(), right.max())) + 1
    graph = coo_array((np.ones(len(left), dtype=np.int8), (left, right)), shape=(count, count))
    group = connected_components(graph, directed=False)[1][left]
    sizes = np.bincount(group)
    close = np.flatnonzero(chosen & (cost < enough) & (sizes[group] > 1) & (sizes[group] <= _MOST_EXACT))
    by_group = np.argsort(group, kind="stable")
    starts = np.concatenate(([0], np.cumsum(sizes)))
    for pair in close.tolist():
        own = by_group[starts[group[pair]] : starts[group[pair] + 1]]
        without = own[own != pair]
        whole = positive[own[chosen[own]]].sum()
        cost[pair] = whole - _worth_of_best(left[without], right[without], positive[without])
    return cost


def _worth_of_best(left: IntArray, right: IntArray, worth: Worth) -> float:
    rows, row_count = _numbered(left)
    columns, column_count = _numbered(right)
    table = np.zeros((row_count, column_count))
    table[rows, columns] = worth
    taken = linear_sum_assignment(table, maximize=True)
    return float(table[taken].sum())
