"""One pair on the bench: two records that are picked, or values that are typed, with everything a plan says of them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from sqlalchemy.orm import Session

from ...core.bench import Redrawn
from ...core.blocking import keys_that_bring
from ...core.errors import InputError, NotFound
from ...core.explain import Evidence, sentence_of
from ...core.plan import MatchPlan
from ...core.records import RecordSet, RecordSetBuilder
from ...core.spot import (
    KeyOfPair,
    LevelOfPair,
    LostAt,
    compare_on_the_spot,
    keys_of_pair,
    levels_of_pair,
    lost_in_words,
)
from ...core.tidying import tidy_fields, tidy_records
from ...store.counters import counters_of
from ...store.golden import records_with_sources
from ...store.records import some_tidy_values
from ...store.registers import register_by_slug
from ...store.tables import Register
from ..state.layouts import layout_of
from ..state.tidy_steps_in_force import tidy_steps_of
from .benches import BenchOfRegister
from .border import evidence_of
from .decided import numbers_of
from .tries import Asked

#: The source that typed values count as.
TYPED = "typed here"
#: By so many other records it is judged how common typed values are.
_BESIDE = 2_000


@dataclass(frozen=True, slots=True)
class Side:
    """One side: a record by its id, or values of fields as they would be delivered."""

    record_id: int | None
    fields: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class TidyForm:
    """What a tidy field holds on either side."""

    field: str
    label: str
    left: str
    right: str


@dataclass(frozen=True, slots=True)
class OnePair:
    """Two sides compared: the tidy forms, the score in bits with its parts, the verdict, the keys of either side, and the stage at which
    the two are lost (``lost_at``, in words ``says``). ``by_register`` if what was learned of the whole register counts."""

    tidy: Sequence[TidyForm]
    score: float
    verdict: str
    reason: str
    levels: Sequence[LevelOfPair]
    evidence: Sequence[Evidence]
    keys: Sequence[KeyOfPair]
    brought_by: Sequence[str]
    lost_at: LostAt
    says: str
    by_register: bool


@dataclass(frozen=True, slots=True)
class _TidySide:
    source: str
    name: str
    values: Mapping[str, str]


def one_pair(
    session: Session, slug: str, own: BenchOfRegister | None, asked: Asked, left: Side, right: Side
) -> OnePair:
    """Return what pass ``asked.number`` of a plan says of two sides; raise NotFound or InputError."""
    register = register_by_slug(session, slug)
    sides = [_tidy_side(session, register, side, name) for side, name in ((left, "left"), (right, "right"))]
    plan = asked.plan.of_pass(asked.number)
    tidy = _tidy_forms(register, sides)
    if own is not None and left.record_id and right.record_id:
        numbers = [numbers_of(own, [(record, record)])[0] for record in (left.record_id, right.record_id)]
        if all(len(found) for found in numbers) and left.record_id != right.record_id:
            return _by_register(own, asked, (int(numbers[0][0]), int(numbers[1][0])), tidy)
    beside = list(some_tidy_values(session, register.id, _BESIDE))
    picked = {side.record_id for side in (left, right)}
    others = [_TidySide(source, f"{number}", values) for number, source, values in beside if number not in picked]
    records, places = _together(sides, others)
    total = counters_of(session, register.id).records
    found = compare_on_the_spot(records, plan, *places, may_meet=True, total=max(total, len(records)))
    keys = keys_of_pair(records, plan, *places)
    verdict = _verdict(plan, found.score) if found.lost_at is LostAt.NOWHERE else "different"
    return OnePair(
        tidy, found.score, verdict, found.reason, found.levels, found.evidence, keys, found.keys, found.lost_at, found.says, False
    )  # fmt: skip


def _by_register(own: BenchOfRegister, asked: Asked, pair: tuple[int, int], tidy: Sequence[TidyForm]) -> OnePair:
    one, other = (np.array([number], dtype=np.int32) for number in sorted(pair))
    drawn: Redrawn = own.bench.redraw_pairs(asked.plan, asked.number, one, other)
    plan, scored = drawn.rescored.plan, drawn.rescored.scored
    keys = keys_of_pair(own.bench.records, plan, *pair)
    evidence, score = evidence_of(drawn, 0), round(float(scored.bits[0]), 2)
    blocks = own.bench.blocks(asked.plan, asked.number)
    brought = keys_that_bring(blocks, one, other)[:, 0]
    brought_by = tuple(count.key for count, brings in zip(blocks.counts, brought.tolist(), strict=True) if brings)
    sources = own.bench.given.records.source_codes
    few = len(sources) * (len(sources) - 1) // 2 <= plan.blocking.every_pair_up_to
    lost_at = LostAt.NOWHERE
    if not own.bench.meets(asked.plan, asked.number)[sources[one[0]], sources[other[0]]]:
        lost_at = LostAt.SOURCES
    elif not brought_by and not few:
        lost_at = LostAt.LARGE_BLOCK if any(key.shared for key in keys) else LostAt.KEYS
    elif scored.vetoed[0] or score < plan.limits.unsure:
        lost_at = LostAt.SCORE
    verdict = "different" if scored.vetoed[0] else _verdict(plan, score)
    levels = levels_of_pair(plan, scored.levels[:, 0].tolist())
    return OnePair(
        tidy, score, verdict, sentence_of(evidence), levels, evidence, keys, brought_by, lost_at, lost_in_words(lost_at), True,
    )  # fmt: skip


def _verdict(plan: MatchPlan, score: float) -> str:
    return "same" if score >= plan.limits.same else "unsure" if score >= plan.limits.unsure else "different"


def _tidy_side(session: Session, register: Register, side: Side, name: str) -> _TidySide:
    if side.record_id is not None:
        found = records_with_sources(session, [side.record_id]).get(side.record_id)
        if found is None or found[0].register_id != register.id:
            raise NotFound("record", side.record_id)
        return _TidySide(found[1].name, f"{side.record_id}", found[0].tidy)
    layout = layout_of(register)
    for field in side.fields:
        if field not in layout.names:
            raise InputError(f"there is no field '{field}' in this register", column=field)
    filled = {field: value for field, value in side.fields.items() if value.strip()}
    if not filled:
        raise InputError(f"nothing is typed on the {name} side")
    builder = RecordSetBuilder()
    builder.add(TYPED, name, filled)
    tidied = tidy_records(layout, builder.build(), None, tidy_steps_of(session, register))
    return _TidySide(TYPED, f"typed {name}", tidied.row(0))


def _together(sides: Sequence[_TidySide], others: Sequence[_TidySide]) -> tuple[RecordSet, tuple[int, int]]:
    """Return tidy records of both sides among others, and the numbers of the two."""
    builder = RecordSetBuilder()
    for one in (*sides, *others):
        builder.add(one.source, one.name, one.values)
    records = builder.build()
    numbers = {(records.source_of(place), records.ids[place]): place for place in range(len(records))}
    left, right = (numbers[side.source, side.name] for side in sides)
    return records, (left, right)


def _tidy_forms(register: Register, sides: Sequence[_TidySide]) -> Sequence[TidyForm]:
    layout = layout_of(register)
    labels = {field.name: field.label for field in layout.fields}
    left, right = (side.values for side in sides)
    return [
        TidyForm(
            name, labels.get(name) or f"{labels.get(name.split('.')[0], name.split('.')[0])}, {name.split('.')[-1].replace('_', ' ')}",
            left.get(name, ""), right.get(name, ""),
        )
        for name in tidy_fields(layout) if left.get(name) or right.get(name)
    ]  # fmt: skip
