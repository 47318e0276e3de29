"""Scores settled by the best pairing: where lists promise no duplicates of their own, a record has one counterpart or *several*."""

from dataclasses import replace

import numpy as np

from ..records import IntArray
from ..scoring import Scorer
from .messages import Flags
from .pairing import best_pairing, cost_of_leaving_out
from .settle import Settled, codes_of

_NEVER_BITS, _DECIDED_BITS, _SOMETHING = -100.0, 1000.0, 0.01


def paired_one_to_one(
    scorer: Scorer, settled: Settled, sources: IntArray, decided: tuple[IntArray, IntArray], margin: float
) -> Settled:
    """Return settled pairs with the scores that the best pairing over all of every two sources gives them.

    A pair of the pairing gets back what rivals took from it; where leaving it out would cost less than ``margin`` bits, it is at most
    unsure, like the pairs that contest it. What contests a clear pair is dropped. ``decided`` are the pairs decided the same, which
    are part of the pairing, and those decided different.
    """
    left, right, limits = settled.left, settled.right, scorer.plan.limits
    alone = (settled.scored.bits - settled.rivals).astype(np.float64)
    codes = codes_of(np.stack([left, right], axis=1), len(sources))
    same, different = (np.isin(codes, codes_of(pairs, len(sources))) for pairs in decided)
    candidate = (sources[left] != sources[right]) & ~settled.scored.vetoed & ~different & (alone >= limits.unsure)
    candidate |= same
    worth = np.where(same, _DECIDED_BITS, np.maximum(alone, 0.0) + _SOMETHING)
    chosen, cost = np.zeros(len(left), dtype=np.bool_), np.full(len(left), np.inf)
    count = int(sources.max(initial=0)) + 1
    between = np.minimum(sources[left], sources[right]) * count + np.maximum(sources[left], sources[right])
    for two in np.unique(between[candidate]).tolist():
        rows = np.flatnonzero(candidate & (between == two))
        turned = sources[left[rows]] > sources[right[rows]]
        one, other = np.where(turned, right[rows], left[rows]), np.where(turned, left[rows], right[rows])
        taken = best_pairing(one, other, worth[rows])
        chosen[rows] = taken
        cost[rows] = cost_of_leaving_out(one, other, worth[rows], taken, margin)
    clear = chosen & (cost >= margin)
    below_same = np.nextafter(np.float32(limits.same), np.float32(-np.inf))
    bits = np.where(clear, alone, np.minimum(alone, below_same))
    bits = np.where(_contested_by_clear(left, right, sources, clear) & ~clear, _NEVER_BITS, bits)
    bits = np.where(sources[left] != sources[right], bits, settled.scored.bits).astype(np.float32)
    rivals = (settled.rivals + (bits - settled.scored.bits)).astype(np.float32)
    return replace(settled, scored=scorer.by_conditions(settled.scored, bits), rivals=rivals)


def _contested_by_clear(left: IntArray, right: IntArray, sources: IntArray, clear: Flags) -> Flags:
    """Return which pairs hold a record that has a clear partner in the source of the pair's other record."""
    count = int(sources.max(initial=0)) + 1
    into_right, into_left = (
        left.astype(np.int64) * count + sources[right],
        right.astype(np.int64) * count + sources[left],
    )
    taken = np.unique(np.concatenate((into_right[clear], into_left[clear])))
    return np.isin(into_right, taken) | np.isin(into_left, taken)
