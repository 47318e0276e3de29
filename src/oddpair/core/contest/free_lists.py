"""Which lists hold no duplicates of their own, as the candidate pairs tell.

Pairs inside a list that look the same as often as not speak for duplicates, unless each of the two has a better partner of
its own elsewhere: then the list only holds neighbours that are alike. Where both fit one and the same record of another list
about equally well, one of them is a duplicate. A few of those are left to a person; a list with more is not free.
"""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.special import expit

from ..records import IntArray
from .messages import Bits, Flags

#: Two records that fit one partner within so many bits may both be that partner.
_EQUALLY_GOOD_BITS, _EQUALLY_GOOD_SHARE = 2.0, 0.4
#: A list with a larger share of records that may be duplicates of each other is not free of them.
_MOST_DOUBTFUL = 0.006
_NEVER_TOO_MANY = 1.0
#: Up to this share of them a list counts as free but for the duplicates found.
_MOST_TWINS = 0.15
#: From so many records with a partner on, they tell; with fewer, all pairs inside a list count.
_LEAST_PARTNERS = 30.0


@dataclass(frozen=True, slots=True)
class FreeLists:
    """``free`` tells, per source number, whether its records have no duplicates among themselves, ``nearly`` whether that is so but
    for the duplicates that were found; ``twins`` numbers all records, those alike that are such duplicates. ``neighbours`` marks
    the pairs inside lists that are told apart by their partners, or are unlikely anyway."""

    free: Flags
    nearly: Flags
    twins: IntArray
    neighbours: Flags


def _best_partners(left: IntArray, right: IntArray, odds_bits: Bits, count: int) -> tuple[IntArray, Bits]:
    """Return, per record, its best candidate among these pairs (-1 if none) and their odds."""
    one, other = np.concatenate((left, right)), np.concatenate((right, left))
    bits = np.concatenate((odds_bits, odds_bits))
    order = np.lexsort((other, -bits, one))
    one, other, bits = one[order], other[order], bits[order]
    first = np.flatnonzero(np.concatenate(([True], one[1:] != one[:-1]))) if len(one) else np.zeros(0, dtype=np.int64)
    best, best_bits = np.full(count, -1, dtype=np.int32), np.full(count, -np.inf)
    best[one[first]], best_bits[one[first]] = other[first], bits[first]
    return best, best_bits


def rivals_for_one_partner(
    left: IntArray, right: IntArray, odds_bits: Bits, sources: IntArray
) -> tuple[IntArray, IntArray]:
    """Return (left, right): of every record the two best candidates in every other list, where both are as likely as not.

    Those that are the same are duplicates inside that list, whether records inside it were compared or not.
    """
    likely = (sources[left] != sources[right]) & (odds_bits >= 0.0)
    one, other = np.concatenate((left[likely], right[likely])), np.concatenate((right[likely], left[likely]))
    bits = np.concatenate((odds_bits[likely], odds_bits[likely]))
    order = np.lexsort((other, -bits, sources[other], one))
    one, other = one[order], other[order]
    group = one.astype(np.int64) * (int(sources.max(initial=0)) + 1) + sources[other]
    first = np.concatenate(([True], group[1:] != group[:-1])) if len(group) else np.zeros(0, dtype=np.bool_)
    # The second of a group stands behind its first.
    second = np.flatnonzero(~first & np.concatenate(([False], first[:-1])))
    pairs = np.unique(np.sort(np.stack([other[second - 1], other[second]], axis=1), axis=1), axis=0)
    return pairs[:, 0].astype(np.int32), pairs[:, 1].astype(np.int32)


def find_free_lists(left: IntArray, right: IntArray, odds_bits: Bits, sources: IntArray, promised: Flags) -> FreeLists:
    """Return which lists are free, given candidate pairs with their uncontested log2 odds.

    ``promised`` says of which sources it is known already.
    """
    count = len(sources)
    across = sources[left] != sources[right]
    best, best_bits = _best_partners(left[across], right[across], odds_bits[across], count)
    inside = ~across & (odds_bits >= 0.0)
    a, b, bits = left[inside], right[inside], odds_bits[inside]
    own = (best[a] >= 0) & (best[b] >= 0) & (best[a] != best[b]) & (best_bits[a] > bits) & (best_bits[b] > bits)
    sizes = np.bincount(sources, minlength=len(promised))

    def summed(records: IntArray, amounts: Bits) -> Bits:
        return np.bincount(sources[records], weights=amounts, minlength=len(promised)).astype(np.float64)

    # How often both of two like records fit one partner, among the records that have one: a share that does not hang on how
    # many partners there are. Nor may the pairs inside the list say otherwise.
    both = (best[a] >= 0) & (best[a] == best[b]) & (best_bits[a] >= 0.0) & (best_bits[b] >= 0.0)
    better, worse = (
        np.maximum(best_bits[a][both], best_bits[b][both]),
        np.minimum(best_bits[a][both], best_bits[b][both]),
    )
    both[both] = better - worse <= np.maximum(_EQUALLY_GOOD_BITS, _EQUALLY_GOOD_SHARE * better)
    with_partner = summed(np.arange(count, dtype=np.int32), expit(best_bits * np.log(2.0)))
    by_pairs = summed(a, np.where(own, 0.0, expit(bits * np.log(2.0)))) / np.maximum(sizes, 1)
    duplicates = np.where(
        with_partner >= _LEAST_PARTNERS,
        np.maximum(summed(a, both.astype(np.float64)) / np.maximum(with_partner, 1.0), by_pairs),
        2.0 * by_pairs,
    )
    known = np.where(with_partner >= _LEAST_PARTNERS, with_partner, sizes)
    free = promised | (duplicates <= np.maximum(_MOST_DOUBTFUL, _NEVER_TOO_MANY / np.maximum(known, 1)))
    nearly = free | (duplicates <= _MOST_TWINS)
    alike = (both | ~own) & ~free[sources[a]]
    neighbours = ~across
    neighbours[np.flatnonzero(inside)[~own]] = False
    return FreeLists(free, nearly, _numbered_alike(a[alike], b[alike], count), neighbours)


def _numbered_alike(left: IntArray, right: IntArray, count: int) -> IntArray:
    """Return a number per record; the records that pairs connect have the same one."""
    graph = coo_array((np.ones(len(left), dtype=np.int8), (left, right)), shape=(count, count))
    return np.asarray(connected_components(graph, directed=False)[1], dtype=np.int32)
