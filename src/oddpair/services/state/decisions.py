"""Decisions as they are made and withdrawn, whatever act does so, with what they rest on and the doubts they settle."""

from collections.abc import Collection, Sequence
from datetime import UTC, datetime
from typing import Any

from sqlalchemy.orm import Session

from ...core.plan import MatchPlan, parse_plan
from ...core.tidying import tidy_fields
from ...store.bulk import copy_rows
from ...store.doubts import make_doubts, settle_doubts
from ...store.golden import records_with_sources
from ...store.registers import plan_in_force, standing_run
from ...store.tables import Decision, Register, SourceRecord
from .layouts import layout_of

#: From so many pairs on doubts are made anew instead of being settled one by one.
_MANY = 200


def compared_fields(session: Session, register: Register) -> list[str]:
    """Return the tidy fields that the plan in force compares: what a decision rests on."""
    layout = layout_of(register)
    return fields_of_plan(parse_plan(plan_in_force(session, register.id).yaml, layout), sorted(tidy_fields(layout)))


def fields_of_plan(plan: MatchPlan, known: Sequence[str]) -> list[str]:
    """Return which of the known tidy fields a plan compares, further values included."""
    roots = {rule.field for rule in plan.comparisons}
    return [name for name in known if any(name == root or name.startswith(f"{root}.") for root in roots)]


def basis_of(fields: Sequence[str], left: SourceRecord, right: SourceRecord) -> dict[str, Any]:
    """Return what a decision about two records rests on."""

    def values(record: SourceRecord) -> dict[str, str]:
        return {name: value for name, value in record.tidy.items() if name.partition("#")[0] in fields}

    one, other = values(left), values(right)
    return {"fields": sorted({*fields, *one, *other}), "left": one, "right": other}


def keep_apart(
    session: Session, register: Register, groups: Collection[Sequence[int]], *, actor: str, remark: str, journal_id: int
) -> None:
    """Decide *different* for every pair of records of two different groups, so that no later run joins them again."""
    listed = [list(group) for group in groups]
    records = {
        record: found[0] for record, found in records_with_sources(session, [r for g in listed for r in g]).items()
    }
    fields = compared_fields(session, register)
    pairs = sorted(
        (min(a, b), max(a, b))
        for place, one in enumerate(listed)
        for other in listed[place + 1 :]
        for a in one
        for b in other
    )
    columns = ("register_id", "left_id", "right_id", "verdict", "remark", "actor", "basis", "at", "journal_id")
    now = datetime.now(UTC)
    rows = (
        (register.id, a, b, "different", remark, actor, basis_of(fields, records[a], records[b]), now, journal_id)
        for a, b in pairs
    )
    copy_rows(session, "decisions", columns, rows)
    settle(session, register.id, pairs)


def withdraw_decisions(session: Session, register_id: int, decisions: Sequence[Decision], *, actor: str) -> None:
    """Mark decisions as withdrawn and bring the doubts they settled back."""
    for decision in decisions:
        decision.withdrawn_at, decision.withdrawn_by = datetime.now(UTC), actor
    session.flush()
    settle(session, register_id, [(decision.left_id, decision.right_id) for decision in decisions])


def settle(session: Session, register_id: int, pairs: Sequence[tuple[int, int]]) -> None:
    """Bring the doubts that decisions about pairs of records concern up to date."""
    run = standing_run(session, register_id)
    if run is None or not pairs:
        return
    if len(pairs) > _MANY:
        make_doubts(session, register_id, run.id)
        return
    for left, right in pairs:
        settle_doubts(session, register_id, run.id, left, right)
