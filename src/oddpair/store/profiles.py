"""Profiles as they are kept, and the values they are made of."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from itertools import islice
from typing import Any

import orjson
from sqlalchemy import ColumnElement, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from .bulk import raw_connection
from .counters import counters_of
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
            delivered = select(DeliveryRecord.record_id).where(
                DeliveryRecord.delivery_id == self.delivery_id, DeliveryRecord.version_id.is_not(None)
            )
            found.append(SourceRecord.id.in_(delivered))
        return found


def count_in_scope(session: Session, register_id: int, where: Where) -> int:
    """Return how many records there are."""
    return session.scalar(select(func.count()).select_from(SourceRecord).where(*where.conditions(register_id))) or 0


_ALL = """
COPY (
    SELECT fields, tidy FROM source_records s
    WHERE register_id = %(register_id)s AND state <> 'withdrawn' AND (%(source_id)s = 0 OR source_id = %(source_id)s)
    AND (%(delivery_id)s = 0 OR id IN (
        SELECT record_id FROM delivery_records WHERE delivery_id = %(delivery_id)s AND version_id IS NOT NULL))
) TO STDOUT
"""


def fields_and_tidy(session: Session, register_id: int, where: Where, at_once: int) -> Iterator[Part]:
    """Yield the fields and tidy values of records, many at a time. The database goes on while a part is looked at."""
    values = {"register_id": register_id, "source_id": where.source_id, "delivery_id": where.delivery_id}
    with raw_connection(session).cursor() as cursor, cursor.copy(_ALL, values) as copy:
        rows = copy.rows()
        while part := [(orjson.loads(row[0]), orjson.loads(row[1])) for row in islice(rows, at_once)]:
            yield part


def state_of_records(session: Session, register_id: int) -> str:
    """Return what tells one state of a register's records from another."""
    return str(counters_of(session, register_id).records_version)


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
