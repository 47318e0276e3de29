"""Looking up whom one record may be among those that are there, by what a match learned: the same score as recognising it would give."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from ..explain import Beside, explain_pair, sentence_of
from ..learned_match import LearnedMatch
from ..learned_round import settled_by_learning
from ..plan import MatchPlan
from ..records import RecordSet, RecordSetBuilder
from ..scoring import Scorer
from .recognise import ByPlan, Ids

#: Under this name, which comes before every other, the record that is asked for stands among the others.
_ASKED = "\0asked"


@dataclass(frozen=True, slots=True)
class FoundRecord:
    """A record that the one asked for may be: its id, the score in bits, the probability that the two are one, the verdict (same or
    unsure), and one sentence why."""

    id: int
    score: float
    probability: float
    verdict: Literal["same", "unsure"]
    reason: str


def asked_record(tidy: Mapping[str, str]) -> RecordSet:
    """Return the record that is asked for, by its tidy values, as a set of one."""
    builder = RecordSetBuilder()
    builder.add(_ASKED, "", tidy)
    return builder.build()


def look_up(
    asked: Mapping[str, str], others: Sequence[tuple[int, str, str, Mapping[str, str]]], by: ByPlan
) -> list[FoundRecord]:
    """Return whom a record, given by its tidy values, may be among ``others`` (id, source, source's id, tidy values), best first."""
    [(_, plan)] = by.plan.in_order()
    builder = RecordSetBuilder()
    builder.add(_ASKED, "", asked)
    for _, source, own, tidy in others:
        builder.add(source, own, tidy)
    places = builder.order()
    ids = np.array([0, *(record for record, _, _, _ in others)], dtype=np.int64)[places]
    records = by.learned.finished(builder.build())
    return _found(records, ids, plan, by.learned)


def _found(records: RecordSet, ids: Ids, plan: MatchPlan, learned: LearnedMatch) -> list[FoundRecord]:
    scorer = learned.scorer(records, plan)
    right = np.arange(1, len(records), dtype=np.int32)
    left = np.zeros(len(right), dtype=np.int32)
    settled = settled_by_learning(scorer, left, right, records, learned)
    kept = np.flatnonzero(scorer.kept(settled.scored))
    chosen = kept[np.lexsort((ids[right[kept]], -settled.scored.bits[kept]))]
    same = scorer.same(settled.scored)
    chances = learned.calibration.probability(settled.scored.bits)
    reasons = _reasons(scorer, left[chosen], right[chosen], settled.calibrated[chosen], settled.scored.bits[chosen])
    return [
        FoundRecord(
            int(ids[right[pair]]), round(float(settled.scored.bits[pair]), 2), round(float(chances[pair]), 4),
            "same" if same[pair] else "unsure", reason,
        )
        for pair, reason in zip(chosen.tolist(), reasons, strict=True)
    ]  # fmt: skip


def _reasons(
    scorer: Scorer, left: npt.NDArray[np.int32], right: npt.NDArray[np.int32], calibrated: npt.NDArray[np.float32],
    scores: npt.NDArray[np.float32],
) -> list[str]:  # fmt: skip
    parts = scorer.parts(left, right)
    conditions = scorer.scored(parts).condition
    return [
        sentence_of(
            explain_pair(
                scorer.plan, parts.levels[:, pair].tolist(), np.round(parts.evidence[:, pair].astype(np.float64), 2).tolist(),
                beside=Beside(float(parts.starting[pair]), float(parts.relatives[pair]), float(calibrated[pair])),
                score=float(scores[pair]), condition=int(conditions[pair]),
            )
        )
        for pair in range(len(left))
    ]  # fmt: skip
