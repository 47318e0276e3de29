"""Says in one sentence why a pair of records scored as it did."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt

from .compare import comparison
from .joint_codes import distinct_rows
from .kinds_of_doubt import TELLING_BITS
from .plan import MatchPlan
from .records import IntArray
from .scoring import ScoredPairs, Scorer

#: What is no reason of a pair's own.
_BEFORE_OR_BEHIND = frozenset({"start", "experience", "relatives"})


class PairsLike(Protocol):
    """Pairs with settled scores: record numbers, scores, and what calibration and rivals added to each."""

    @property
    def left(self) -> IntArray:
        """Return the first record of every pair."""

    @property
    def right(self) -> IntArray:
        """Return the second record of every pair."""

    @property
    def scored(self) -> ScoredPairs:
        """Return the settled scores."""

    @property
    def calibrated(self) -> npt.NDArray[np.float32]:
        """Return what calibration added, in bits."""

    @property
    def rivals(self) -> npt.NDArray[np.float32]:
        """Return what rivals took, in bits."""


@dataclass(frozen=True, slots=True)
class Evidence:
    """What one comparison says of a pair: its level, the bits for (+) or against (-), and the level in words."""

    field: str
    label: str
    level: str
    bits: float
    sentence: str
    veto: bool
    #: Whether the level tells a difference, although it may speak for the pair; and whether it agrees.
    differs: bool = False
    agrees: bool = False


@dataclass(frozen=True, slots=True)
class Beside:
    """What a score holds beside the evidence of its comparisons, in bits: where it starts, what relatives share as well, what lists
    of this kind taught of such odds, and what other candidates took."""

    starting: float
    relatives: float = 0.0
    calibrated: float = 0.0
    rivals: float = 0.0


_RELATIVES = "those who belong together share as much"
_RIVALS = "another record fits as well"
_WORTH_A_LINE = 0.005
#: How many numbers stand beside the evidence of the comparisons.
_BESIDE = 4


def explain_pair(
    plan: MatchPlan, levels: Sequence[int], bits: Sequence[float], *, beside: Beside, score: float, condition: int = -1
) -> tuple[Evidence, ...]:
    """Return the evidence of every comparison of the plan, in the plan's order, so that all bits add up to the score.

    Before it stands where the score starts; after it, what the contest for partners and what a condition of the plan moved
    the score by.
    """
    vetoes = {(veto.field, veto.level) for veto in plan.vetoes}
    evidence = [Evidence("", "before comparing", "start", beside.starting, "few pairs of records are the same", False)]
    for rule, number, amount in zip(plan.comparisons, levels, bits, strict=True):
        kind = comparison(rule.using)
        level = kind.levels[number]
        sentence = kind.sentences.get(level, "the {label} is missing on one side").format(label=rule.label)
        stage = next((stage for stage in kind.stages if stage.name == level), None)
        differs, agrees = bool(stage and stage.tells_a_difference), bool(stage and stage.agrees)
        is_veto = (rule.name, level) in vetoes
        evidence.append(Evidence(rule.field, rule.label, level, float(amount), sentence, is_veto, differs, agrees))
    if abs(beside.relatives) >= _WORTH_A_LINE:
        evidence.append(Evidence("", "relatives", "relatives", beside.relatives, _RELATIVES, False))
    if abs(beside.calibrated) >= _WORTH_A_LINE:
        often = "more" if beside.calibrated > 0 else "less"
        says = f"pairs as likely as this are right {often} often in these lists"
        evidence.append(Evidence("", "experience", "experience", beside.calibrated, says, False))
    if abs(beside.rivals) >= _WORTH_A_LINE:
        evidence.append(Evidence("", "rivals", "rivals", beside.rivals, _RIVALS, False))
    if condition >= 0:
        decided = plan.conditions[condition]
        moved = round(score - sum(item.bits for item in evidence), 2)
        says = f"the condition '{decided.title}' says {decided.then}"
        evidence.append(Evidence("", decided.title, decided.then, moved, says, decided.then == "different"))
    return tuple(evidence)


def sentence_of(evidence: Sequence[Evidence]) -> str:
    """Return one sentence a non-technical person understands: the strongest reasons for and against."""
    vetoes = [item.sentence for item in evidence if item.veto]
    compared = [item for item in evidence if item.level not in _BEFORE_OR_BEHIND]
    ranked = sorted(compared, key=lambda item: -abs(item.bits))
    reasons = [item.sentence for item in ranked if item.bits >= TELLING_BITS and not item.differs][:3]
    # What differs is named even where it speaks for the pair as a whole.
    differing = [item for item in compared if item.differs and item.bits > -TELLING_BITS]
    though = next((item.sentence for item in differing if item.bits > 0 or item.agrees), "")
    doubts = [item.sentence for item in ranked if item.bits <= -TELLING_BITS and not item.veto][:2]
    if len(doubts) == 1 and though:
        # A branch, say, weighs little by itself, and is what a person looks at first.
        doubts.append(though)
    against = " and ".join(vetoes + doubts)
    if not reasons:
        told = against or though
        return _capital(told) + "." if told else "There is too little to compare."
    if vetoes:
        return _capital(" and ".join(reasons)) + f", but {against}, which nothing outweighs."
    if against:
        return _capital(" and ".join(reasons)) + f", but {against}."
    if though:
        return _capital(" and ".join(reasons)) + f", though {though}."
    return _capital(" and ".join(reasons)) + ("." if differing else "; nothing speaks against it.")


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


@dataclass(frozen=True, slots=True)
class EvidenceTable:
    """The evidence of many pairs in bits: ``rows`` has a row per comparison and four more for what stands beside it."""

    rows: npt.NDArray[np.float32]

    @property
    def compared(self) -> npt.NDArray[np.float32]:
        """Return the rows of the comparisons."""
        return self.rows[:-_BESIDE]

    def beside(self, place: int) -> Beside:
        """Return what stands beside the evidence of one pair."""
        return Beside(*np.round(self.rows[-_BESIDE:, place].astype(np.float64), 2).tolist())


def evidence_table(scorer: Scorer, pairs: PairsLike) -> EvidenceTable:
    """Return the evidence of settled pairs."""
    parts = scorer.parts(pairs.left, pairs.right)
    beside = np.stack([parts.starting, parts.relatives, pairs.calibrated, pairs.rivals])
    return EvidenceTable(np.concatenate([parts.evidence, beside]).astype(np.float32))


def sentences(scorer: Scorer, pairs: PairsLike) -> list[str]:
    """Return the sentence of every pair."""
    distinct, which = distinct_sentences(scorer, pairs)
    return [distinct[number] for number in which.tolist()]


def distinct_sentences(scorer: Scorer, pairs: PairsLike) -> tuple[list[str], npt.NDArray[np.int64]]:
    """Return (sentences, per pair the number of its sentence).

    Pairs with the same levels, telling the same in the same order of strength, get the same sentence, so each distinct
    sentence is made once.
    """
    if not len(pairs.left):
        return [], np.zeros(0, dtype=np.int64)
    table = evidence_table(scorer, pairs)
    bits = np.round(np.concatenate([table.compared, table.rows[-1:]]).T, 2)
    telling = np.where(np.abs(bits) >= TELLING_BITS, 2 * np.sign(bits), np.sign(bits)).astype(np.int8)
    order = np.argsort(-np.abs(bits), axis=1, kind="stable")
    examples, which = distinct_rows([*pairs.scored.levels, *(telling + 2).T, *order.T, pairs.scored.condition])
    said = [sentence_of(explain_scored(scorer, pairs, table, place)) for place in examples.tolist()]
    return said, which


def explain_scored(scorer: Scorer, pairs: PairsLike, table: EvidenceTable, place: int) -> tuple[Evidence, ...]:
    """Return the evidence of one of several settled pairs."""
    bits = np.round(table.compared[:, place].astype(np.float64), 2).tolist()
    return explain_pair(
        scorer.plan, pairs.scored.levels[:, place].tolist(), bits, beside=table.beside(place),
        score=float(pairs.scored.bits[place]), condition=int(pairs.scored.condition[place]),
    )  # fmt: skip
