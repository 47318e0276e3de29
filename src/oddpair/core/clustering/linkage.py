"""The compiled heart of clustering: constrained average linkage inside one component."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..records import IntArray
from ..text.compiled import allocating_kernel, kernel

Floats = npt.NDArray[np.float32]
Flags = npt.NDArray[np.bool_]
Longs = npt.NDArray[np.int64]


class Links(NamedTuple):
    """Pairs inside components, grouped by component: ``starts[c]:starts[c + 1]`` are those of component ``c``.

    ``one`` and ``other`` are places within the component.
    """

    starts: Longs
    one: IntArray
    other: IntArray


#: A cluster that fits two contradicting ones about equally well, within so many bits, joins neither.
AMBIGUOUS_BITS = 4.0


class _State(NamedTuple):
    """One component while its clusters grow, as square matrices over its members. What is ``forbidden`` is never joined;
    ``contradicting`` are those of it that the records themselves or decisions tell apart."""

    sums: Floats
    counts: Floats
    strongest: Floats
    forbidden: Flags
    contradicting: Flags
    decided_apart: Flags
    best: IntArray
    best_mean: Floats


@kernel
def _join(state: _State, owner: IntArray, a: int, b: int) -> None:
    """Put cluster ``b`` into cluster ``a``, both named by a member."""
    for k in range(len(owner)):
        state.sums[a, k] += state.sums[b, k]
        state.counts[a, k] += state.counts[b, k]
        state.strongest[a, k] = max(state.strongest[a, k], state.strongest[b, k])
        state.forbidden[a, k] |= state.forbidden[b, k]
        state.decided_apart[a, k] |= state.decided_apart[b, k]
        state.sums[k, a], state.counts[k, a] = state.sums[a, k], state.counts[a, k]
        state.strongest[k, a] = state.strongest[a, k]
        state.contradicting[a, k] |= state.contradicting[b, k]
        state.forbidden[k, a], state.decided_apart[k, a] = state.forbidden[a, k], state.decided_apart[a, k]
        state.contradicting[k, a] = state.contradicting[a, k]
        if owner[k] == b:
            owner[k] = a
    for k in range(len(owner)):
        state.forbidden[b, k] = state.forbidden[k, b] = True
    state.forbidden[a, a] = True


@kernel
def _find_best(state: _State, row: int, least_link: float) -> None:
    """Find the best later partner of a row; among equals the first one."""
    best, best_mean = -1, np.float32(-np.inf)
    for k in range(row + 1, len(state.best)):
        if not state.forbidden[row, k] and state.strongest[row, k] >= least_link:
            mean = state.sums[row, k] / state.counts[row, k]
            if mean > best_mean:
                best, best_mean = k, mean
    state.best[row], state.best_mean[row] = best, best_mean


@kernel
def _rival(state: _State, owner: IntArray, a: int, b: int, least_link: float) -> int:
    """Return a cluster that contradicts ``b`` and fits ``a`` about as well as ``b`` does, or -1."""
    enough = state.sums[a, b] / state.counts[a, b] - AMBIGUOUS_BITS
    for k in range(len(owner)):
        told_apart = k != b and owner[k] == k and state.contradicting[b, k] and not state.forbidden[a, k]
        if told_apart and state.strongest[a, k] >= least_link and state.sums[a, k] / state.counts[a, k] >= enough:
            return k
    return -1


@kernel
def _kept_apart(state: _State, owner: IntArray, a: int, b: int, least_link: float) -> bool:
    """Forbid to join ``a`` with ``b`` and with a rival of ``b`` that fits it as well; tell whether there is one."""
    rival = _rival(state, owner, a, b, least_link)
    if rival < 0:
        return False
    state.forbidden[a, b] = state.forbidden[b, a] = True
    state.forbidden[a, rival] = state.forbidden[rival, a] = True
    _find_best(state, a, least_link)
    _find_best(state, b, least_link)
    _find_best(state, rival, least_link)
    return True


@kernel
def _grow(state: _State, owner: IntArray, least_mean: float, least_link: float) -> None:
    """Join the best pair of clusters until none is good enough; ties go to the pair with the first records."""
    size = len(owner)
    for row in range(size):
        _find_best(state, row, least_link)
    while True:
        a = -1
        for row in range(size):
            if state.best[row] >= 0 and (a < 0 or state.best_mean[row] > state.best_mean[a]):
                a = row
        if a < 0 or not state.best_mean[a] >= least_mean:
            return
        b = state.best[a]
        # Which of two contradicting clusters a third belongs to, where both fit it, is for a person to say.
        if _kept_apart(state, owner, a, b, least_link) or _kept_apart(state, owner, b, a, least_link):
            continue
        _join(state, owner, a, b)
        state.best[b] = -1
        for row in range(size):
            # Only rows that may look at the joined clusters have to look again.
            if row == a or state.best[row] == a or state.best[row] == b:
                _find_best(state, row, least_link)
            elif row < a and not state.forbidden[row, a] and state.strongest[row, a] >= least_link:
                mean = state.sums[row, a] / state.counts[row, a]
                better = mean > state.best_mean[row] or (mean == state.best_mean[row] and a < state.best[row])
                if state.best[row] < 0 or better:
                    state.best[row], state.best_mean[row] = a, mean


@allocating_kernel
def _state_of(size: int, sources: IntArray, own_duplicates: Flags) -> _State:
    state = _State(
        np.zeros((size, size), dtype=np.float32),
        np.zeros((size, size), dtype=np.float32),
        np.full((size, size), np.float32(-np.inf), dtype=np.float32),
        np.zeros((size, size), dtype=np.bool_),
        np.zeros((size, size), dtype=np.bool_),
        np.zeros((size, size), dtype=np.bool_),
        np.full(size, -1, dtype=np.int32),
        np.full(size, np.float32(-np.inf), dtype=np.float32),
    )
    for i in range(size):
        state.forbidden[i, i] = True
        for j in range(i + 1, size):
            if sources[i] == sources[j] and not own_duplicates[sources[i]]:
                state.forbidden[i, j] = state.forbidden[j, i] = True
    return state


@allocating_kernel
def grow_components(
    starts: Longs, sources: IntArray, own_duplicates: Flags, known: Links, bits: Floats, vetoed: Flags, apart: Links,
    together: Links, least_mean: float, least_link: float, owners: IntArray, ignored: Flags,
) -> None:  # fmt: skip
    """Cluster every component: ``owners`` gets, per member, the place of the first member of its cluster.

    ``sources`` are those of the members. ``ignored`` is set for *together* pairs that other decisions contradict.
    """
    for c in range(len(starts) - 1):
        first, last = starts[c], starts[c + 1]
        state = _state_of(last - first, sources[first:last], own_duplicates)
        owner = owners[first:last]
        for k in range(last - first):
            owner[k] = k
        for p in range(known.starts[c], known.starts[c + 1]):
            i, j = known.one[p], known.other[p]
            state.sums[i, j] = state.sums[j, i] = bits[p]
            state.counts[i, j] = state.counts[j, i] = 1.0
            state.strongest[i, j] = state.strongest[j, i] = bits[p]
            if vetoed[p]:
                state.forbidden[i, j] = state.forbidden[j, i] = True
                state.contradicting[i, j] = state.contradicting[j, i] = True
        for p in range(apart.starts[c], apart.starts[c + 1]):
            i, j = apart.one[p], apart.other[p]
            state.decided_apart[i, j] = state.decided_apart[j, i] = True
            state.forbidden[i, j] = state.forbidden[j, i] = True
            state.contradicting[i, j] = state.contradicting[j, i] = True
        for p in range(together.starts[c], together.starts[c + 1]):
            a, b = owner[together.one[p]], owner[together.other[p]]
            if a != b:
                if state.decided_apart[a, b]:
                    ignored[p] = True
                else:
                    _join(state, owner, min(a, b), max(a, b))
        _grow(state, owner, least_mean, least_link)
