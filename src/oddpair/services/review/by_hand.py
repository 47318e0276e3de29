"""Any two records of a register, though no run brought them together, compared on the spot."""

from sqlalchemy.orm import Session

from ...core.pipeline import own_duplicates_of, sources_that_meet
from ...core.plan import parse_plan
from ...core.records import RecordSetBuilder
from ...core.spot import LostAt, OnTheSpot, compare_on_the_spot
from ...store.counters import counters_of
from ...store.records import some_tidy_values
from ...store.registers import plan_in_force, sources_of
from ...store.tables import Register, Source, SourceRecord
from ..state.layouts import layout_of

#: By so many other records it is judged how common values are.
_BESIDE = 2_000


def compare_by_hand(
    session: Session, register: Register, left: tuple[SourceRecord, Source], right: tuple[SourceRecord, Source]
) -> OnTheSpot:
    """Compare any two records of a register by the plan in force."""
    plan = parse_plan(plan_in_force(session, register.id).yaml, layout_of(register))
    builder = RecordSetBuilder()
    own = [left, right]
    for record, source in own:
        builder.add(source.name, f"{record.id}", record.tidy)
    for record_id, source_name, tidy in some_tidy_values(session, register.id, _BESIDE):
        if record_id not in (left[0].id, right[0].id):
            builder.add(source_name, f"{record_id}", tidy)
    records = builder.build()
    names = {(records.source_of(place), records.ids[place]): place for place in range(len(records))}
    one, other = (names[source.name, f"{record.id}"] for record, source in own)
    promised = [source.name for source in sources_of(session, register.id) if not source.own_duplicates]
    meets = sources_that_meet(records, plan, own_duplicates_of(records, promised), set())
    may_meet = bool(meets[records.source_codes[one], records.source_codes[other]])
    total = counters_of(session, register.id).records
    tried = [
        compare_on_the_spot(records, own, one, other, may_meet=may_meet, total=total) for _, own in plan.in_order()
    ]
    # The pass that would bring the two together says why; else the first.
    return next((found for found in tried if found.lost_at is LostAt.NOWHERE), tried[0])
