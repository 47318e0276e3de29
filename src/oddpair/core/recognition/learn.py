"""Learning what recognition rests on: a match of everything, whose findings are kept."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..blocking.learned_blocks import learn_large_blocks
from ..census import CensusTaker
from ..contest import OddsCurve
from ..learned_match import BetweenSources, LearnedMatch
from ..pipeline import MatchResult, run
from ..plan import MatchPlan
from ..records import RecordSet


def unlearnable(plan: MatchPlan) -> str:
    """Return why records cannot be recognised one by one by a plan, so that everything has to be matched, or ""."""
    passes = plan.in_order()
    if len(passes) > 1:
        return "the plan has several passes, and what is left for a later one hangs on all records"
    if plan.related:
        return "the plan compares values of related records"
    [(_, own)] = passes
    if own.scope.leaves_records_out:
        return "the plan leaves records out by its scope"
    if own.scope.one_to_one:
        return "the plan pairs two lists one to one, which hangs on all records"
    return ""


def learn_match(records: RecordSet, plan: MatchPlan, **given: Any) -> tuple[MatchResult, LearnedMatch]:
    """Match tidy records as ``pipeline.run`` does with what else is ``given``; return the result, and what was learned."""
    taker = CensusTaker()
    result = run(records.with_census(taker), plan, are_tidy=True, **given)
    return result, _learned(result, taker)


def match_repeatably(records: RecordSet, plan: MatchPlan, **given: Any) -> tuple[MatchResult, LearnedMatch]:
    """Match tidy records so that recognising them one by one ends the same; return the result, and what was learned.

    Where the first match judged pairs by who else there is (a contest, blocks too large to be compared whole, names in other words),
    everything is matched once more by what was learned.
    """
    result, learned = learn_match(records, plan, **given)
    first = result.first
    if first.contest is not None or first.rewordings or first.left_out:
        result = run(records, plan, are_tidy=True, learned=learned, **given)
    return result, learned


def _learned(result: MatchResult, taker: CensusTaker) -> LearnedMatch:
    first = result.first
    plan, scorer = first.plan, first.scorer
    large = learn_large_blocks(result.records, plan.blocking_keys(), plan.narrowing_keys(), plan.blocking.most_records)
    count = len(result.records)
    return LearnedMatch(
        census=taker.taken(), large=large, every_pair=count * (count - 1) // 2 <= plan.blocking.every_pair_up_to,
        shares=tuple(scorer.shares), matches_per_record=scorer.matches_per_record,
        relatives_per_record=scorer.relatives_per_record, records=count, between=_between(result.records.sources, result),
        calibration=first.calibration, rewordings=first.rewordings,
    )  # fmt: skip


def _between(sources: Sequence[str], result: MatchResult) -> BetweenSources:
    first = result.first
    contest, correction = first.contest, first.scorer.correction
    nowhere = np.zeros((len(sources),) * 2, dtype=np.bool_)
    none = np.zeros(0, dtype=np.float32)
    if contest is None or correction is None:
        curve = OddsCurve(np.zeros(0), np.zeros(0), 0)
        nobody = np.zeros(len(sources), dtype=np.bool_)
        return BetweenSources(tuple(sources), first.scorer.starts, nowhere, nobody, none, none.reshape(0, 0), curve)
    return BetweenSources(
        tuple(sources), first.scorer.starts, correction.between, first.free, correction.slopes, correction.offsets, contest.curve
    )  # fmt: skip
