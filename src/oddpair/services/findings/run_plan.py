"""Runs a plan of findings; what was said of a finding before holds as long as nothing more is shared."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.findings import FindingsPlan, Found, SharedThing, Side, find
from ...store import findings as store
from ...store.membership import belonging
from ...store.tables import FindingPlanRow, FindingVerdict
from ..match.numbers import Numbers
from ..match.read_records import tidy_records_of
from ..match.run_plan import AtEnd
from ..transactions import SessionFactory, transaction
from .plans import parsed

Progress = Callable[[str, int, int], None]
OPEN, OF_INTEREST, EXPLAINED, NOT_A_FINDING = STATES = ("open", "of interest", "explained", "not a finding")


def thing_key(title: str, value: str) -> str:
    """Return by what a shared thing is known from run to run."""
    return f"{title}: {value}".casefold()


class _Read:
    """The records of a register as one side, with their ids and what each belongs to."""

    def __init__(self, session: Session, register_id: int, kept: Path | None) -> None:
        records, self.ids = tidy_records_of(session, register_id, kept)
        self.belongs = belonging(session, register_id)
        owners = np.array([self.belongs[record] for record in self.ids.tolist()], dtype=np.int64)
        self.owner_of, numbers = np.unique(owners, return_inverse=True)
        self.side = Side(records, numbers.astype(np.int32))

    def owner(self, record: int) -> int | None:
        """Return the number of the entity that a record belongs to."""
        belongs = self.belongs.get(record)
        place = int(np.searchsorted(self.owner_of, belongs)) if belongs is not None else len(self.owner_of)
        return place if place < len(self.owner_of) and int(self.owner_of[place]) == belongs else None


def run_plan(
    sessions: SessionFactory, plan_id: int, progress: Progress, *, kept: Path | None = None, at_end: AtEnd | None = None
) -> dict[str, Any]:
    """Run a plan and keep its findings in place of those before, with ``at_end`` in the last transaction; return counts per state."""
    progress("read records", 0, 0)
    with transaction(sessions) as session:
        # One moment for both registers.
        session.execute(text("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ"))
        row = session.get_one(FindingPlanRow, plan_id)
        plan = parsed(session, row)
        one, other = _Read(session, row.register_id, kept), _Read(session, row.other_id, kept)
    found, common = find(one.side, other.side, plan, progress)
    progress("store results", 0, 0)
    with transaction(sessions) as session:
        said = _said(store.verdicts_of(session, plan_id), one, other)
        store.write_findings(session, plan_id, _rows(plan_id, plan, found, (one.ids, other.ids), said))
        counts = dict.fromkeys(STATES, 0) | store.count_states(session, plan_id)
        row = session.get_one(FindingPlanRow, plan_id)
        row.counts, row.common, row.ran_at = counts, common, datetime.now(UTC)
        outcome = {"plan": row.name, "findings": sum(counts.values()), **counts}
        if at_end:
            at_end(session, outcome)
    return outcome


def _said(verdicts: Sequence[FindingVerdict], one: _Read, other: _Read) -> Mapping[tuple[int, int], FindingVerdict]:
    """Return what was said last of every two entities."""
    said = {}
    for verdict in verdicts:
        entities = one.owner(verdict.one_record), other.owner(verdict.other_record)
        if entities[0] is not None and entities[1] is not None:
            said[entities[0], entities[1]] = verdict
    return said


def _rows(
    plan_id: int, plan: FindingsPlan, found: Sequence[Found], ids: tuple[Numbers, Numbers],
    said: Mapping[tuple[int, int], FindingVerdict],
) -> Iterator[tuple[Any, ...]]:  # fmt: skip
    """Yield findings with ``store.COLUMNS``; those that share the same thing stand side by side, the most telling group first."""
    strongest: dict[str, float] = {}
    for item in found:
        key = _group(plan, item)
        strongest[key] = max(strongest.get(key, 0.0), item.bits)
    ordered = sorted(
        found, key=lambda item: (-strongest[_group(plan, item)], _group(plan, item), -item.bits, item.one, item.other)
    )
    for place, item in enumerate(ordered):
        things = [_document(plan, thing, ids) for thing in item.things]
        state, by, remark, again = _standing(said.get((item.one, item.other)), things)
        first = item.things[0]
        yield (
            plan_id, place, int(ids[0][first.one]), int(ids[1][first.other]), item.bits, things, state, by, remark, again,
        )  # fmt: skip


def _group(plan: FindingsPlan, item: Found) -> str:
    return thing_key(plan.shared[item.things[0].rule].title, item.things[0].value)


def _document(plan: FindingsPlan, thing: SharedThing, ids: tuple[Numbers, Numbers]) -> dict[str, Any]:
    return {
        "title": plan.shared[thing.rule].title, "value": thing.value, "bits": thing.bits, "one_holders": thing.one_holders,
        "other_holders": thing.other_holders, "one": int(ids[0][thing.one]), "other": int(ids[1][thing.other]),
    }  # fmt: skip


def _standing(verdict: FindingVerdict | None, things: Sequence[Mapping[str, Any]]) -> tuple[str, str, str, str]:
    """Return (state, by whom, remark, why it is asked again)."""
    if verdict is None:
        return OPEN, "", "", ""
    new = [thing for thing in things if thing_key(thing["title"], thing["value"]) not in verdict.things]
    if not new:
        return verdict.verdict, verdict.actor, verdict.remark, ""
    more = " and ".join(f"{thing['title']} {thing['value']}" for thing in new)
    return OPEN, "", "", f"{verdict.verdict} before ({verdict.actor}: {verdict.remark}); now also shares {more}"
