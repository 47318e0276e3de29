"""Profiles as they are kept, and the values they are made of."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, func, select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from .records import PRESENT
from .tables import DeliveryRecord, Profile, SourceRecord

#: (fields, tidy values) of some records.
Part = list[tuple[dict[str, str], dict[str, str]]]


@dataclass(frozen=True, slots=True)
class Where:
    """Whose records: those of a source or of a delivery, where one is given."""

    source_id: int = 0
    delivery_id: int = 0

    def conditions(self, register_id: int) -> list[ColumnElement[bool]]:
        """Return the conditions of a query on source records."""
        found: list[ColumnElement[bool]] = [SourceRecord.register_id == register_id, PRESENT]
        if self.source_id:
            found.append(SourceRecord.source_id == self.source_id)
        if self.delivery_id:
            said = select(DeliveryRecord.record_id).where(
                DeliveryRecord.delivery_id == self.delivery_id, DeliveryRecord.version_id.is_not(None)
            )
            found.append(SourceRecord.id.in_(said))
        return found


def count_in_scope(session: Session, register_id: int, where: Where) -> int:
    """Return how many records there are."""
    return session.scalar(select(func.count()).select_from(SourceRecord).where(*where.conditions(register_id))) or 0


def fields_and_tidy(session: Session, register_id: int, where: Where, at_once: int) -> Iterator[Part]:
    """Yield the fields and tidy values of records, many at a time."""
    query = select(SourceRecord.fields, SourceRecord.tidy).where(*where.conditions(register_id))
    for part in session.execute(query.execution_options(yield_per=at_once)).partitions():
        yield [(row[0], row[1]) for row in part]


def state_of_records(session: Session, register_id: int) -> str:
    """Return what tells one state of a register's records from another: deliveries, tidy steps and tables."""
    query = text("""
        SELECT concat_ws(' ',
            (SELECT max(d.changed_at) FROM deliveries d JOIN sources s ON s.id = d.source_id WHERE s.register_id = :id),
            (SELECT max(j.ended_at) FROM jobs j WHERE j.register_id = :id AND j.kind = 'tidy' AND j.status = 'done'))
    """)
    return str(session.scalar(query, {"id": register_id}) or "")


def kept_profile(session: Session, register_id: int, scope: str) -> Profile | None:
    """Return the profile kept of a scope, or None."""
    return session.get(Profile, (register_id, scope))


def keep_profile(
    session: Session, register_id: int, scope: str, state: str, result: dict[str, Any], at: datetime
) -> None:
    """Keep a profile in place of an earlier one."""
    values = {"register_id": register_id, "scope": scope, "state": state, "result": result, "at": at}
    statement = insert(Profile).values(values)
    session.execute(statement.on_conflict_do_update(index_elements=["register_id", "scope"], set_=values))
