"""A match by what was learned before: the score of every pair hangs on its two records alone."""

import numpy as np

from .blocking import BlockIndex, with_every_pair
from .blocking.learned_blocks import block_numbers, index_of_numbers
from .contest import Settled
from .learned_match import LearnedMatch
from .matching_round import Given, Round, Stages, compare_candidates
from .records import IntArray, RecordSet
from .scoring import ScoredPairs, Scorer


def learned_index(records: RecordSet, given: Given, learned: LearnedMatch) -> BlockIndex:
    """Return the blocks in which prepared records stand, by what was learned of which are too large."""
    keys = given.plan.blocking_keys()
    numbers = block_numbers(records, keys, given.plan.narrowing_keys(), learned.large)
    index = index_of_numbers(numbers, len(records), keys)
    among = np.flatnonzero(given.sides.taking_part).astype(np.int32)
    return with_every_pair(index, among, len(records)) if learned.every_pair and len(among) > 1 else index


def settled_by_learning(
    scorer: Scorer,
    left: IntArray,
    right: IntArray,
    records: RecordSet,
    learned: LearnedMatch,
    scored: ScoredPairs | None = None,
) -> Settled:
    """Return pairs of prepared records with the scores that a contest taught for such odds: who else there is to choose from does not
    count. ``scored`` are their scores before that, where they are known.

    Pairs inside a source that was found to be without duplicates are at most unsure.
    """
    scored, free = scored or scorer.score(left, right), learned.free(records.sources)
    nothing = np.zeros(len(left), dtype=np.float32)
    if not learned.between.contested.any():
        return Settled(left, right, scored, nothing, nothing, None, free)
    sources = records.source_codes
    contested = learned.contested(records.sources)[sources[left], sources[right]]
    bits = scorer.parts(left, right).bits
    odds = bits.astype(np.float64)
    calibrated = np.where(contested, learned.between.curve(odds) - odds, 0.0).astype(np.float32)
    raised = (bits + calibrated).astype(np.float32)
    below_same = np.nextafter(np.float32(scorer.plan.limits.same), np.float32(-np.inf))
    at_home = free[sources[left]] & (sources[left] == sources[right])
    capped = np.where(at_home, np.minimum(raised, below_same), raised)
    settled = scorer.by_conditions(scored, capped)
    return Settled(left, right, settled, calibrated, (capped - raised).astype(np.float32), None, free)


def _room(learned: LearnedMatch) -> float:
    """Return how many bits the curve of a contest lifts a score at most."""
    curve = learned.between.curve
    return float(max((curve.values - curve.points).max(initial=0.0), 0.0)) if len(curve.points) else 0.0


def match_learned(records: RecordSet, given: Given, learned: LearnedMatch, stages: Stages) -> Round:
    """Match records that carry the learned census; see ``pipeline.run``."""
    prepared = learned.prepared(records)
    with stages.stage("block"):
        index = learned_index(prepared, given, learned)
    with stages.stage("learn"):
        scorer = learned.scorer(prepared, given.plan)
    with stages.stage("compare"):
        compared = compare_candidates(prepared, scorer, index, given, stages, room=_room(learned))
    with stages.stage("contest"):
        settled = settled_by_learning(scorer, compared.left, compared.right, prepared, learned, compared.scored)
    return Round(
        prepared, index, scorer, learned.calibration, settled, compared.histogram, compared.found, compared.vetoed, compared.sample
    )  # fmt: skip
