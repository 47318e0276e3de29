"""Says in one sentence why a pair of records scored as it did."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .compare import comparison
from .plan import MatchPlan
from .records import IntArray
from .scoring import ScoredPairs, Scorer

#: Evidence below this many bits either way is not worth a word.
_TELLING_BITS = 0.75


@dataclass(frozen=True, slots=True)
class Evidence:
    """What one comparison says of a pair: its level, the bits for (+) or against (-), and the level in words."""

    field: str
    label: str
    level: str
    bits: float
    sentence: str
    veto: bool


def explain_pair(plan: MatchPlan, levels: Sequence[int], bits: Sequence[float]) -> tuple[Evidence, ...]:
    """Return the evidence of every comparison of the plan, in the plan's order."""
    vetoes = {(veto.field, veto.level) for veto in plan.vetoes}
    evidence = []
    for rule, number, amount in zip(plan.comparisons, levels, bits, strict=True):
        kind = comparison(rule.using)
        level = kind.levels[number]
        sentence = kind.sentences.get(level, "the {label} is missing on one side").format(label=rule.label)
        evidence.append(Evidence(rule.field, rule.label, level, float(amount), sentence, (rule.field, level) in vetoes))
    return tuple(evidence)


def sentence_of(evidence: Sequence[Evidence]) -> str:
    """Return one sentence a non-technical person understands: the strongest reasons for and against."""
    vetoes = [item.sentence for item in evidence if item.veto]
    ranked = sorted(evidence, key=lambda item: -abs(item.bits))
    reasons = [item.sentence for item in ranked if item.bits >= _TELLING_BITS][:3]
    doubts = [item.sentence for item in ranked if item.bits <= -_TELLING_BITS and not item.veto][:2]
    against = " and ".join(vetoes + doubts)
    if not reasons:
        return _capital(against) + "." if against else "There is too little to compare."
    if vetoes:
        return _capital(" and ".join(reasons)) + f", but {against}, which nothing outweighs."
    if against:
        return _capital(" and ".join(reasons)) + f", but {against}."
    return _capital(" and ".join(reasons)) + "; nothing speaks against it."


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def sentences(scorer: Scorer, left: IntArray, right: IntArray, scored: ScoredPairs) -> list[str]:
    """Return the sentence of every pair.

    Pairs with the same levels, telling the same in the same order of strength, get the same sentence, so each distinct
    sentence is made once.
    """
    if not len(left):
        return []
    bits = np.round(scorer.evidence(left, right, scored.levels).T, 2)
    telling = np.where(bits >= _TELLING_BITS, 1, np.where(bits <= -_TELLING_BITS, -1, 0))
    order = np.argsort(-np.abs(bits), axis=1, kind="stable")
    kinds = np.concatenate([scored.levels.T, telling, order], axis=1).astype(np.int8)
    _, examples, which = np.unique(kinds, axis=0, return_index=True, return_inverse=True)
    made = [
        sentence_of(explain_pair(scorer.plan, scored.levels[:, place].tolist(), bits[place].tolist()))
        for place in examples.tolist()
    ]
    return [made[number] for number in which.ravel().tolist()]
