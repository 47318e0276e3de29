"""What happened between two records: their deliveries, and what was said of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .tables import Decision

_DELIVERIES = text("""
    SELECT v.record_id, d.changed_at, d.file_name, v.id = min(v.id) OVER (PARTITION BY v.record_id) AS first,
        d.status = 'taken back' AS taken_back, v.at
    FROM record_versions v JOIN deliveries d ON d.id = v.delivery_id
    WHERE v.record_id = ANY(:records) ORDER BY v.id
""")
_GROUPS = text("""
    SELECT g.at, g.actor, g.remark, g.journal_id, g.withdrawn_at, g.verdict
    FROM group_decisions g JOIN group_members one ON one.group_id = g.id JOIN group_members other ON other.group_id = g.id
    WHERE one.record_id = :left AND other.record_id = :right AND (g.verdict <> 'different' OR one.side <> other.side) ORDER BY g.id
""")


@dataclass(frozen=True, slots=True)
class SaidOfTwo:
    """What a person said of two records, alone or in a group."""

    at: datetime
    actor: str
    verdict: str
    remark: str
    journal_id: int | None
    withdrawn_at: datetime | None


def deliveries_of(session: Session, records: Sequence[int]) -> list[tuple[int, datetime, str, bool, bool]]:
    """Return (record, when, file, whether it was the record's first version, whether the delivery was taken back) of all versions."""
    rows = session.execute(_DELIVERIES, {"records": list(records)})
    return [(row.record_id, row.at, row.file_name, row.first, row.taken_back) for row in rows]


def decisions_between(session: Session, left_id: int, right_id: int) -> list[SaidOfTwo]:
    """Return what was said of two records, withdrawn or not, alone and in groups, oldest first."""
    low, high = sorted((left_id, right_id))
    alone = session.scalars(select(Decision).where(Decision.left_id == low, Decision.right_id == high))
    found = [SaidOfTwo(one.at, one.actor, one.verdict, one.remark, one.journal_id, one.withdrawn_at) for one in alone]
    for row in session.execute(_GROUPS, {"left": low, "right": high}):
        found.append(SaidOfTwo(row.at, row.actor, row.verdict, row.remark, row.journal_id, row.withdrawn_at))
    return sorted(found, key=lambda one: one.at)
