"""The pairs at the border, as a person looks at them: both records, the score, the verdict by this plan and by the other, and why."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from sqlalchemy.orm import Session

from ...core.bench import Redrawn, Rescored, Wanted, around, wanted_pairs
from ...core.errors import NotFound
from ...core.explain import Beside, Evidence, explain_pair, sentence_of
from ...store.decisions import DecisionInForce, decided_among
from ...store.golden import records_with_sources
from ...store.registers import register_by_slug
from ..review.pair import FacedRecord, faced
from .benches import BenchOfRegister
from .tries import Asked, Flags


@dataclass(frozen=True, slots=True)
class BorderPair:
    """A pair: its records, its score by the plan that is tried, the verdict by that and by the other plan, the strongest reasons, and
    what a person decided of it, if anything."""

    left: FacedRecord
    right: FacedRecord
    score: float
    verdict: str
    verdict_before: str
    condition: str
    evidence: tuple[Evidence, ...]
    reason: str
    decided: DecisionInForce | None


def border_pairs(
    session: Session, slug: str, own: BenchOfRegister, asked: Asked, wanted: Wanted, *, limit: float, many: int
) -> Sequence[BorderPair]:
    """Return up to ``many`` wanted pairs on either side of a limit in bits, from the highest score down."""
    drawn = own.bench.redraw(asked.plan, asked.number)
    before = own.bench.redraw(asked.against, asked.number).rescored
    _check(drawn, wanted)
    places = around(drawn.held, drawn.rescored, wanted_pairs(wanted, drawn.rescored, before.same), limit, many)
    return shown_pairs(session, slug, own, drawn, before, places)


def shown_pairs(
    session: Session, slug: str, own: BenchOfRegister, drawn: Redrawn, before: Rescored, places: npt.NDArray[np.intp]
) -> Sequence[BorderPair]:
    """Return drawn pairs at some places as a person looks at them; ``before`` is what the other plan says of the same pairs."""
    left, right = own.ids[drawn.held.left[places]].tolist(), own.ids[drawn.held.right[places]].tolist()
    records = records_with_sources(session, {*left, *right})
    register = register_by_slug(session, slug)
    decided = {(one.left_id, one.right_id): one for one in decided_among(session, register.id, sorted({*left, *right}))}
    pairs = []
    for place, one, other in zip(places.tolist(), left, right, strict=True):
        if one in records and other in records:
            evidence = evidence_of(drawn, place)
            conditions = drawn.rescored.plan.conditions
            condition = int(drawn.rescored.scored.condition[place])
            pairs.append(
                BorderPair(
                    faced(*records[one]), faced(*records[other]), round(float(drawn.rescored.scored.bits[place]), 2),
                    _verdict(drawn.rescored.same, drawn.rescored.unsure, place), _verdict(before.same, before.unsure, place),
                    conditions[condition].title if condition >= 0 else "", evidence, sentence_of(evidence),
                    decided.get((min(one, other), max(one, other))),
                )
            )  # fmt: skip
    return pairs


def _check(drawn: Redrawn, wanted: Wanted) -> None:
    plan = drawn.rescored.plan
    if wanted.decided_by and wanted.decided_by not in {rule.name for rule in plan.comparisons}:
        raise NotFound("comparison of the plan", wanted.decided_by)
    if wanted.condition and wanted.condition not in {condition.title for condition in plan.conditions}:
        raise NotFound("condition of the plan", wanted.condition)


def _verdict(same: Flags, unsure: Flags, place: int) -> str:
    return "same" if same[place] else "unsure" if unsure[place] else "different"


def evidence_of(drawn: Redrawn, place: int) -> tuple[Evidence, ...]:
    """Return what speaks for and against the pair at a place."""
    rescored = drawn.rescored
    contest = float(drawn.held.contest[place])
    beside = Beside(float(rescored.beside[place]) - contest, float(rescored.relatives[place]), 0.0, contest)
    bits = np.round(rescored.evidence[:, place].astype(np.float64), 2).tolist()
    return explain_pair(
        rescored.plan, rescored.scored.levels[:, place].tolist(), bits, beside=beside,
        score=float(rescored.scored.bits[place]), condition=int(rescored.scored.condition[place]),
    )  # fmt: skip
