"""Measuring a plan by decided pairs: the fair sample that is drawn for it, and the figures that come of all decisions."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from sqlalchemy.orm import Session

from ...core.bench import Redrawn
from ...core.bench.fair_sample import STRATA_FROM, draw_fairly, strata_drawn_from, strata_of
from ...core.bench.held import pair_codes
from ...core.bench.measure import DecidedPlaces, QualityAt, measure
from ...core.errors import PlanInvalid
from ...core.evaluation import Estimate
from ...core.plan import plan_to_yaml
from ...store.bench import add_pairs, add_sample, pairs_of_sample, sample_of
from ...store.registers import register_by_slug
from ...store.tables import BenchSample, Register
from ..match.plans import plan_for
from .benches import BenchOfRegister
from .border import BorderPair, shown_pairs
from .decided import decided_pairs, decided_places, numbers_of
from .tries import Asked

MEASURE = "measure"


@dataclass(frozen=True, slots=True)
class StratumShown:
    """A stratum of the sample: from which odds on (log2), how many pairs it holds, how many are drawn and decided, how many the same."""

    odds_from: float
    pairs: float
    drawn: int
    decided: int
    same: int
    drawn_from: bool


@dataclass(frozen=True, slots=True)
class MeasuredPlan:
    """A plan measured at its own limit and along others, by ``decided`` pairs of the sample and ``known`` other decisions; ``needed``
    more decisions would tell precision and recall to one in a hundred. ``outside_of_blocks`` counts pairs decided the same that the plan
    never compares."""

    drawn: int
    decided: int
    known: int
    needed: int
    outside_of_blocks: int
    drawn_at: datetime | None
    drawn_by: str
    strata: Sequence[StratumShown]
    own: QualityAt
    f1_gained: Estimate
    against_version: int
    along: Sequence[QualityAt]


@dataclass(frozen=True, slots=True)
class _Sample:
    """The sample as the bench sees it: by which plan its strata are made, and its pairs."""

    row: BenchSample | None
    by: Redrawn
    pairs: list[tuple[int, int]]


def measure_plan(session: Session, slug: str, own: BenchOfRegister, asked: Asked) -> MeasuredPlan:
    """Return how good a plan is among the pairs that blocking brings up."""
    register = register_by_slug(session, slug)
    drawn = own.bench.redraw(asked.plan, asked.number, undecided=True)
    sample = _sample(session, register, own, asked, drawn)
    left, right, _ = numbers_of(own, sample.pairs)
    decided = decided_pairs(session, register.id, own)
    codes = pair_codes(left, right)
    of_sample = np.isin(decided.codes, codes)
    places, which = drawn.held.places_of(decided.codes[of_sample])
    answered = DecidedPlaces(places, decided.same[of_sample][which])
    places, which = drawn.held.places_of(decided.codes[~of_sample])
    known = DecidedPlaces(places, decided.same[~of_sample][which])
    strata = strata_of(sample.by.rescored)
    lowest, told = strata_drawn_from(sample.by.held, sample.by.rescored)
    before = own.bench.redraw(asked.against, asked.number, undecided=True).rescored.same
    found = measure(drawn.held, drawn.rescored, before, strata=strata, lowest=lowest, sample=answered, known=known)
    held = int(decided.same.sum()) - int(decided_places(drawn.held, decided).same.sum())
    inside, _ = drawn.held.places_of(codes)

    def by_stratum(rows: DecidedPlaces | None) -> list[int]:
        own_strata = strata[inside] if rows is None else strata[rows.places]
        counts: list[int] = np.bincount(own_strata[own_strata >= 0], minlength=len(STRATA_FROM)).tolist()
        return counts

    same = DecidedPlaces(answered.places[answered.same], answered.same[answered.same])
    shown = [
        StratumShown(stratum.odds_from, stratum.pairs, drawn_of, decided_of, same_of, number >= lowest)
        for number, (stratum, drawn_of, decided_of, same_of) in enumerate(
            zip(told, by_stratum(None), by_stratum(answered), by_stratum(same), strict=True)
        )
    ]
    row = sample.row
    return MeasuredPlan(
        len(sample.pairs), len(answered.places), len(known.places), found.needed, held, row.drawn_at if row else None,
        row.actor if row else "", shown, found.own, found.f1_gained, asked.against_version, found.along,
    )  # fmt: skip


def draw_sample(
    session: Session, slug: str, own: BenchOfRegister, asked: Asked, *, many: int, anew: bool, actor: str
) -> int:
    """Draw further pairs into the sample of a register (or a new one, by the plan that is asked for); return how many."""
    register = register_by_slug(session, slug)
    drawn = own.bench.redraw(asked.plan, asked.number, undecided=True)
    sample = _sample(session, register, own, asked, drawn)
    if sample.row is None or anew:
        sample = _Sample(None, drawn, [])
    by = sample.by
    left, right, _ = numbers_of(own, sample.pairs)
    inside, _ = by.held.places_of(pair_codes(left, right))
    open_pairs = np.ones(len(by.held), dtype=np.bool_)
    open_pairs[inside] = False
    open_pairs[decided_places(by.held, decided_pairs(session, register.id, own)).places] = False
    strata = strata_of(by.rescored)[inside]
    counts = np.bincount(strata[strata >= 0], minlength=len(STRATA_FROM)).astype(np.int32)
    seed = len(sample.pairs) + register.id
    places = draw_fairly(by.held, by.rescored, open_pairs, counts, many, seed)
    pairs = list(zip(own.ids[by.held.left[places]].tolist(), own.ids[by.held.right[places]].tolist(), strict=True))
    if sample.row is None:
        row = BenchSample(
            register_id=register.id, purpose=MEASURE, yaml=plan_to_yaml(asked.plan), of_pass=asked.number, records=len(own.ids),
            drawn=len(pairs), looked_at=len(by.held), actor=actor,
        )  # fmt: skip
        add_sample(session, row, pairs)
    else:
        sample.row.drawn += len(pairs)
        add_pairs(session, sample.row, pairs)
    return len(pairs)


def sample_pairs(session: Session, slug: str, own: BenchOfRegister, asked: Asked, many: int) -> Sequence[BorderPair]:
    """Return up to ``many`` pairs of the sample that nobody decided yet, in the order in which they were drawn."""
    register = register_by_slug(session, slug)
    row = sample_of(session, register.id, MEASURE)
    return open_pairs_of(session, slug, own, asked, pairs_of_sample(session, row) if row else [], many)


def open_pairs_of(
    session: Session, slug: str, own: BenchOfRegister, asked: Asked, pairs: list[tuple[int, int]], many: int
) -> Sequence[BorderPair]:
    """Return the first of some pairs of ids that nobody decided yet, as a person looks at them."""
    register = register_by_slug(session, slug)
    left, right, _ = numbers_of(own, pairs)
    still = np.flatnonzero(~np.isin(pair_codes(left, right), decided_pairs(session, register.id, own).codes))[:many]
    drawn = own.bench.redraw_pairs(asked.plan, asked.number, left[still], right[still])
    before = own.bench.redraw_pairs(asked.against, asked.number, left[still], right[still]).rescored
    return shown_pairs(session, slug, own, drawn, before, np.arange(len(still)))


def _sample(session: Session, register: Register, own: BenchOfRegister, asked: Asked, drawn: Redrawn) -> _Sample:
    """Return the sample of a register; without one, and where its plan does not fit the register any more, an empty one by this plan."""
    row = sample_of(session, register.id, MEASURE)
    if row is not None:
        try:
            drawn_by = plan_for(session, register, row.yaml)
            return _Sample(row, own.bench.redraw(drawn_by, row.of_pass, undecided=True), pairs_of_sample(session, row))
        except PlanInvalid:
            pass
    return _Sample(None, drawn, [])
