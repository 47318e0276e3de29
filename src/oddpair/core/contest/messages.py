"""The contest for partners: what a pair is worth when every record of a list has one partner at most in another list.

Over all one-to-one matchings between two lists P(Z) is proportional to the product of the weights of the matched pairs
(M. Fortini, B. Liseo, A. Nuccitelli and M. Scanu, "On Bayesian record linkage", 2001; M. Sadinle, "Bayesian estimation of
bipartite matchings for record linkage", JASA 112, 2017). The chance of every single pair follows from messages on the graph
of candidates, as for the monomer-dimer model (M. Bayati, D. Gamarnik, D. Katz, C. Nair and P. Tetali, "Simple deterministic
approximation algorithms for counting matchings", STOC 2007):

    h(a→b) = 1 / (1 + sum over c ≠ b of w(a, c) h(c→a))        odds(a, b) = w(a, b) h(a→b) h(b→a)

where c runs over the candidates of ``a`` in the list of ``b``; ours: without those that are duplicates of ``b``, which are no rivals
of it. The messages are exact on trees; on other graphs they are
damped geometrically and settle. ``log2(h(a→b) h(b→a))`` is never above 0: it is what rivals take from a pair.
"""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..records import IntArray
from ..text.compiled import kernel

Bits = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
Longs = npt.NDArray[np.int64]

_ROUNDS, _SETTLED_BITS = 80, 0.01
#: Weights beyond this many bits are certain whatever contests them, and would only cost precision.
_MOST_BITS = 60.0


class Choices(NamedTuple):
    """The candidate pairs as choices: every pair stands twice, once for each side that chooses.

    Place ``e`` below the number of pairs is the choice of the pair's left record for its right one, place ``e`` + pairs
    that of the right record for its left one. ``order[starts[g]:starts[g + 1]]`` are the choices of group ``g``: those of one
    record in one list, of which it can take one at most, or several that are duplicates of each other: ``twins`` numbers the
    chosen one of every choice, duplicates alike; they stand side by side.
    """

    order: Longs
    starts: Longs
    twins: Longs


def choices_of(
    left: IntArray, right: IntArray, sources: IntArray, free: Flags, twins: IntArray | None = None
) -> Choices:
    """Return the choices between candidate pairs; only in lists that are ``free`` (per source number) of duplicates, but for the
    ``twins`` that a record may have there, does a record have to choose. ``twins`` numbers all records, duplicates alike.
    """
    chooser = np.concatenate((left, right)).astype(np.int64)
    chosen = np.concatenate((right, left))
    places = np.flatnonzero(free[sources[chosen]] & (sources[chooser] != sources[chosen]))
    group = chooser[places] * (len(free) + 1) + sources[chosen[places]]
    twin = (chosen if twins is None else twins[chosen])[places].astype(np.int64)
    by_group = np.lexsort((twin, group))
    ordered = group[by_group]
    first = np.flatnonzero(np.concatenate(([True], ordered[1:] != ordered[:-1]))) if len(ordered) else ordered
    return Choices(places[by_group].astype(np.int64), np.append(first, len(ordered)).astype(np.int64), twin[by_group])


@kernel
def _exchange(weights: Bits, choices: Choices, messages: Bits, fresh: Bits) -> float:
    """Compute all messages anew from the last ones; return the largest change in bits."""
    order, starts, twins = choices
    pairs = len(weights)
    for group in range(len(starts) - 1):
        first, last = starts[group], starts[group + 1]
        # Sums before and after a choice rather than the whole less its own: a weight of 60 bits would swallow the others.
        before, alike = 0.0, 0.0
        for place in range(first, last):
            choice = order[place]
            pair, answer = (choice, choice + pairs) if choice < pairs else (choice - pairs, choice - pairs)
            if place > first and twins[place] != twins[place - 1]:
                before, alike = before + alike, 0.0
            fresh[choice] = before
            alike += weights[pair] * messages[answer]
        after, alike = 0.0, 0.0
        for place in range(last - 1, first - 1, -1):
            choice = order[place]
            pair, answer = (choice, choice + pairs) if choice < pairs else (choice - pairs, choice - pairs)
            if place < last - 1 and twins[place] != twins[place + 1]:
                after, alike = after + alike, 0.0
            fresh[choice] = 1.0 / (1.0 + fresh[choice] + after)
            alike += weights[pair] * messages[answer]
    change = 1.0
    for place in range(len(order)):
        choice = order[place]
        last_one = messages[choice]
        if last_one != fresh[choice]:
            ratio = np.sqrt(fresh[choice] / last_one)
            change = max(change, ratio, 1.0 / ratio)
            messages[choice] = last_one * ratio
    return float(np.log2(change))


def rival_bits(odds_bits: Bits, choices: Choices, messages: Bits | None = None) -> Bits:
    """Return what its rivals take from every pair, in bits (0 or less), for uncontested log2 odds ``odds_bits``.

    The outcome does not depend on the order of the pairs. A pair that nobody contests loses nothing. ``messages``, two a pair, are where
    the exchange begins (ones at first) and are left as they settled, so that it need not begin anew for odds that changed little.
    """
    weights = np.exp2(np.minimum(odds_bits, _MOST_BITS))
    messages = np.ones(2 * len(weights)) if messages is None else messages
    fresh = np.ones(2 * len(weights))
    for _ in range(_ROUNDS):
        if _exchange(weights, choices, messages, fresh) < _SETTLED_BITS:
            break
    return np.asarray(np.log2(messages[: len(weights)]) + np.log2(messages[len(weights) :]), dtype=np.float64)
