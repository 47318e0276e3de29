"""Two records compared on the spot, though no run brought them together, with the stage at which they were lost."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

import numpy as np

from .blocking import build_index, keys_that_bring
from .blocking.key_values import key_values
from .compare import comparison
from .explain import Beside, Evidence, explain_pair, sentence_of
from .plan import MatchPlan
from .records import RecordSet
from .scoring import Scorer


class LostAt(StrEnum):
    """Where two records were lost on the way to a verdict."""

    SOURCES = "sources"
    KEYS = "keys"
    LARGE_BLOCK = "large block"
    SCORE = "score"
    NOWHERE = "nowhere"


@dataclass(frozen=True, slots=True)
class KeyOfPair:
    """What a blocking key takes of either record; ``shared`` if one of them is the same."""

    key: str
    left: tuple[str, ...]
    right: tuple[str, ...]

    @property
    def shared(self) -> bool:
        """Whether both records have a value of the key."""
        return bool(set(self.left) & set(self.right))


def keys_of_pair(records: RecordSet, plan: MatchPlan, left: int, right: int) -> tuple[KeyOfPair, ...]:
    """Return what every blocking key of a plan of a single pass takes of two of some tidy records."""
    told = []
    both = np.zeros(len(records), dtype=np.bool_)
    both[[left, right]] = True
    for key in plan.blocking_keys():
        owners, values, spell = key_values(records, key, both)
        one, other = (tuple(spell(int(value)) for value in values[owners == record]) for record in (left, right))
        told.append(KeyOfPair(key.expression, one, other))
    return tuple(told)


_IN_WORDS = {
    LostAt.SOURCES: "Records of these sources are not compared with each other.",
    LostAt.KEYS: "They share no blocking key, so that they were never compared.",
    LostAt.LARGE_BLOCK: "They share a key that more records share than are compared, and differ in what narrows that block.",
    LostAt.SCORE: "They were compared, and too little speaks for them.",
    LostAt.NOWHERE: "A run over these records would bring them together.",
}


class LevelOfPair(NamedTuple):
    """The level at which two records come out in a comparison of a plan; "missing" where one of them holds nothing."""

    name: str
    label: str
    level: str


def levels_of_pair(plan: MatchPlan, levels: Sequence[int]) -> tuple[LevelOfPair, ...]:
    """Return the levels of a pair by name, from their numbers."""
    return tuple(
        LevelOfPair(rule.name, rule.label, comparison(rule.using).levels[number])
        for rule, number in zip(plan.comparisons, levels, strict=True)
    )


def lost_in_words(lost_at: LostAt) -> str:
    """Return in words where two records were lost."""
    return _IN_WORDS[lost_at]


@dataclass(frozen=True, slots=True)
class OnTheSpot:
    """What comparing says of two records: the ``score`` in bits, the ``level`` of every comparison, the evidence, a sentence; ``keys`` that
    both share; where they were lost, in words; ``among`` how many records chance agreement was judged."""

    score: float
    levels: tuple[LevelOfPair, ...]
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
    return OnTheSpot(
        score,
        levels_of_pair(plan, parts.levels[:, 0].tolist()),
        evidence,
        sentence_of(evidence),
        shared,
        lost_at,
        _IN_WORDS[lost_at],
        len(records),
    )
