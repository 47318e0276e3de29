"""Decisions as they are made and withdrawn, whatever act does so, with what they rest on and the doubts they settle."""

from collections.abc import Collection, Mapping, Sequence
from datetime import UTC, date, datetime
from itertools import chain
from typing import Any

from sqlalchemy.orm import Session

from ...core.plan import MatchPlan, parse_plan
from ...core.tidying import tidy_fields
from ...store.counters import count_waiting
from ...store.decisions import sides_of, write_group
from ...store.doubts import make_doubts, settle_doubts
from ...store.golden import records_with_sources
from ...store.registers import plan_in_force, standing_run
from ...store.tables import Decision, GroupDecision, Register, SourceRecord
from .layouts import layout_of

#: From so many decided records on doubts are made anew instead of being settled by cluster.
_MANY = 2_000


def compared_fields(session: Session, register: Register) -> list[str]:
    """Return the tidy fields that the plan in force compares: what a decision rests on."""
    layout = layout_of(register)
    return fields_of_plan(parse_plan(plan_in_force(session, register.id).yaml, layout), sorted(tidy_fields(layout)))


def fields_of_plan(plan: MatchPlan, known: Sequence[str]) -> list[str]:
    """Return which of the known tidy fields a plan compares, further values included."""
    roots = {rule.field for rule in plan.every_comparison()}
    return [name for name in known if any(name == root or name.startswith(f"{root}.") for root in roots)]


def basis_of(fields: Sequence[str], left: SourceRecord, right: SourceRecord) -> dict[str, Any]:
    """Return what a decision about two records rests on."""
    one, other = _values(fields, left), _values(fields, right)
    return {"fields": sorted({*fields, *one, *other}), "left": one, "right": other}


def _values(fields: Sequence[str], record: SourceRecord) -> dict[str, str]:
    return {name: value for name, value in record.tidy.items() if name.partition("#")[0] in fields}


def keep_apart(
    session: Session, register: Register, groups: Collection[Sequence[int]], *, actor: str, remark: str, journal_id: int
) -> None:
    """Decide that records of different groups are different, so that no later run joins them again; two records by a decision about
    the pair, more by one about the groups."""
    sides = [list(group) for group in groups]
    records = {
        record: found[0] for record, found in records_with_sources(session, [r for g in sides for r in g]).items()
    }
    fields = compared_fields(session, register)
    if [len(side) for side in sides] == [1, 1]:
        left, right = sorted((sides[0][0], sides[1][0]))
        session.add(
            Decision(
                register_id=register.id, left_id=left, right_id=right, verdict="different", remark=remark, actor=actor,
                basis=basis_of(fields, records[left], records[right]), at=datetime.now(UTC), journal_id=journal_id,
            )
        )  # fmt: skip
        session.flush()
    else:
        decide_group(
            session, register, sides, "different", actor=actor, remark=remark, journal_id=journal_id, fields=fields, records=records
        )  # fmt: skip
    settle(session, register.id, list(records))


def decide_group(
    session: Session, register: Register, sides: Sequence[Sequence[int]], verdict: str, *, actor: str, remark: str, journal_id: int,
    fields: Sequence[str], records: Mapping[int, SourceRecord], until: date | None = None, asked: str = "",
) -> GroupDecision:  # fmt: skip
    """Write a decision about groups of records; the doubts that it settles are left to the caller."""
    basis = {record: _values(fields, found) for record, found in records.items()}
    named = sorted({*fields, *(name for values in basis.values() for name in values)})
    group = GroupDecision(
        register_id=register.id, verdict=verdict, remark=remark, actor=actor, fields=named, at=datetime.now(UTC),
        journal_id=journal_id, until=until, asked=asked,
    )  # fmt: skip
    return write_group(session, group, sides, basis)


def withdraw_decisions(
    session: Session, register_id: int, decisions: Sequence[Decision | GroupDecision], *, actor: str
) -> None:
    """Mark decisions as withdrawn and bring the doubts they settled back."""
    records: list[int] = []
    for decision in decisions:
        decision.withdrawn_at, decision.withdrawn_by = datetime.now(UTC), actor
        if isinstance(decision, Decision):
            records += [decision.left_id, decision.right_id]
        else:
            records += chain(*sides_of(session, decision.id))
    session.flush()
    settle(session, register_id, records)


def settle(session: Session, register_id: int, records: Collection[int]) -> None:
    """Bring the doubts that decisions about records concern up to date."""
    run = standing_run(session, register_id)
    if run is None or not records:
        return
    if len(records) > _MANY:
        make_doubts(session, register_id, run.id)
        count_waiting(session, register_id)
        return
    settle_doubts(session, register_id, run.id, sorted(records))
