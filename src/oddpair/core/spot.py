"""Two records compared on the spot, though no run brought them together, with the stage at which they were lost."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from .blocking import build_index, keys_that_bring
from .explain import Beside, Evidence, explain_pair, sentence_of
from .plan import MatchPlan
from .records import RecordSet
from .scoring import Scorer


class LostAt(StrEnum):
    """Where two records were lost on the way to a verdict."""

    SOURCES = "sources"
    KEYS = "keys"
    SCORE = "score"
    NOWHERE = "nowhere"


_IN_WORDS = {
    LostAt.SOURCES: "Records of these sources are not compared with each other.",
    LostAt.KEYS: "They share no blocking key, so that they were never compared.",
    LostAt.SCORE: "They were compared, and too little speaks for them.",
    LostAt.NOWHERE: "A run over these records would bring them together.",
}


@dataclass(frozen=True, slots=True)
class OnTheSpot:
    """What comparing says of two records: the ``score`` in bits, the evidence, a sentence; ``keys`` that both share; where they were lost,
    in words; ``among`` how many records chance agreement was judged."""

    score: float
    evidence: tuple[Evidence, ...]
    reason: str
    keys: tuple[str, ...]
    lost_at: LostAt
    says: str
    among: int


def compare_on_the_spot(
    records: RecordSet, plan: MatchPlan, left: int, right: int, *, may_meet: bool, total: int
) -> OnTheSpot:
    """Compare two of some tidy ``records`` of ``total``, the others of which show how common values are; what a run learned is not known
    here, the plan's own expectations hold. The outcome does not depend on the order of the two."""
    left, right = min(left, right), max(left, right)
    one, other = np.array([left], dtype=np.int32), np.array([right], dtype=np.int32)
    scorer = Scorer(records, plan)
    parts = scorer.parts(one, other)
    scored = scorer.score(one, other)
    beside = Beside(float(parts.starting[0]), float(parts.relatives[0]))
    bits = np.round(parts.evidence[:, 0].astype(np.float64), 2).tolist()
    score, condition = round(float(scored.bits[0]), 2), int(scored.condition[0])
    evidence = explain_pair(plan, parts.levels[:, 0].tolist(), bits, beside=beside, score=score, condition=condition)
    keys = plan.blocking_keys()
    index = build_index(records, keys, plan.narrowing_keys(), plan.blocking.most_records)
    brought = keys_that_bring(index, one, other)[:, 0]
    shared = tuple(count.key for count, brings in zip(index.counts, brought.tolist(), strict=True) if brings)
    few = total * (total - 1) // 2 <= plan.blocking.every_pair_up_to
    kept = bool(scorer.kept(scored)[0])
    lost_at = LostAt.NOWHERE if kept else LostAt.SCORE
    if not may_meet:
        lost_at = LostAt.SOURCES
    elif not shared and not few:
        lost_at = LostAt.KEYS
    return OnTheSpot(score, evidence, sentence_of(evidence), shared, lost_at, _IN_WORDS[lost_at], len(records))
