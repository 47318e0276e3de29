"""Rows that were set aside, mended by a person and brought in again as part of their delivery."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import InputError, NotFound, Refused
from ...core.mapping import apply_mapping, id_column
from ...files import LONGEST_ID, has_name, why_rejected
from ...store import deliveries as store
from ...store import journal
from ...store.locks import lock_membership
from ...store.settling import touch
from ...store.tables import Delivery, DeliveryRecord, RecordVersion, Register, RejectedRow, Source, SourceRecord
from ..state.bring_up_to_date import RecordChange, bring_up_to_date
from ..state.mappings import mapping_of
from .prepare_rows import content_hash


def mend(session: Session, row_id: int, cells: Mapping[str, str], *, actor: str) -> RejectedRow:
    """Bring a rejected row in with the cells as a person mended them; raise InputError if it still cannot be used."""
    row = session.get(RejectedRow, row_id, with_for_update=True)
    if row is None:
        raise NotFound("rejected row", row_id)
    delivery = store.delivery_by_id(session, row.delivery_id)
    if delivery.status != "loaded":
        raise Refused(
            f"The delivery of '{delivery.file_name}' is {delivery.status}; load it before its rows are mended."
        )
    if row.mended_at is not None:
        raise Refused("This row was mended and brought in before.")
    unknown = [column for column in cells if column not in delivery.columns]
    if unknown:
        raise InputError("the file has no such column", file=delivery.file_name, row=row.row_number, column=unknown[0])
    delivered = {column: text for column in delivery.columns if (text := cells.get(column, "").strip())}
    source = session.get_one(Source, delivery.source_id)
    register = lock_membership(session, source.register_id)
    mapping = mapping_of(delivery.mapping)
    record_id, fields = apply_mapping(mapping, delivered)
    record_id = record_id if id_column(mapping) else str(row.row_number)
    in_file = _is_in_delivery(session, delivery, record_id)
    if not 0 < len(record_id) <= LONGEST_ID or in_file or not has_name(fields):
        column, reason = why_rejected(record_id, "another row" if in_file else "", mapping)
        raise InputError(reason, file=delivery.file_name, row=row.row_number, column=column)
    known, outcome = _add_version(session, register, delivery, record_id, delivered, fields)
    row.mended_at = datetime.now(UTC)
    counts = dict(delivery.counts or {})
    counts.update({outcome: counts.get(outcome, 0) + 1, "rejected": counts["rejected"] - 1})
    delivery.counts, delivery.changed_at = counts, datetime.now(UTC)
    entry_id = journal.reserve(session)
    touch(session, [known])
    outcome_of = bring_up_to_date(
        session, register, RecordChange(deliveries=True, entry_id=entry_id, delivery_id=delivery.id)
    )
    data: dict[str, Any] = {"delivery": delivery.id, "row": row.row_number, "record": known, "outcome": outcome}
    if outcome_of.moves:
        data["moves"] = outcome_of.moves
    journal.append(
        session, register.id, "mend row", actor=actor, data=data, entry_id=entry_id, touches=[("record", known)],
        personal={"summary": f"Mended row {row.row_number} of {delivery.file_name}", "cells": delivered},
    )  # fmt: skip
    return row


def _is_in_delivery(session: Session, delivery: Delivery, record_id: str) -> bool:
    brought = select(DeliveryRecord.record_id).join(SourceRecord, SourceRecord.id == DeliveryRecord.record_id)
    same = brought.where(
        DeliveryRecord.delivery_id == delivery.id,
        DeliveryRecord.version_id.is_not(None),
        SourceRecord.source_key == record_id,
    )
    return session.scalars(same).first() is not None


def _add_version(
    session: Session,
    register: Register,
    delivery: Delivery,
    record_id: str,
    delivered: dict[str, str],
    fields: dict[str, str],
) -> tuple[int, str]:
    """Add what the row says of its record; return (the record, which count it belongs to: new, changed or unchanged)."""
    content = content_hash(delivered, fields)
    record = session.scalar(
        select(SourceRecord).where(SourceRecord.source_id == delivery.source_id, SourceRecord.source_key == record_id)
    )
    outcome = (
        "new"
        if record is None or record.state != "current"
        else "unchanged"
        if record.content_hash == content
        else "changed"
    )
    if record is None:
        record = SourceRecord(
            register_id=register.id, source_id=delivery.source_id, source_key=record_id, delivery_id=delivery.id,
            delivered=delivered, fields=fields, tidy={}, content_hash=content,
        )  # fmt: skip
        session.add(record)
        session.flush()
    version = RecordVersion(
        record_id=record.id, delivery_id=delivery.id, delivered=delivered, fields=fields, content_hash=content
    )
    session.add(version)
    session.flush()
    link = session.get(DeliveryRecord, (delivery.id, record.id))
    if link is None:
        session.add(DeliveryRecord(delivery_id=delivery.id, record_id=record.id, version_id=version.id))
    else:
        # A full delivery had taken the record for gone, since its row was set aside.
        link.version_id = version.id
    if record.version_id is None:
        record.version_id = version.id
    session.flush()
    return record.id, outcome


@dataclass(frozen=True, slots=True)
class RejectedPage:
    """Rows set aside, with how many there are in all and how many of them still wait."""

    total: int
    waiting: int
    rows: Sequence[RejectedRow]


def rejected_page(session: Session, delivery_id: int, *, offset: int, limit: int) -> RejectedPage:
    """Return a page of the rows that a delivery set aside."""
    store.delivery_by_id(session, delivery_id)
    total, waiting = store.count_rejected(session, delivery_id)
    return RejectedPage(total, waiting, store.rejected_rows(session, delivery_id, offset=offset, limit=limit))


def rejected_table(session: Session, delivery_id: int) -> tuple[str, list[str], Iterator[dict[str, str]]]:
    """Return (name, columns, rows) of all rows set aside: why, and their cells under the columns of the file."""
    delivery = store.delivery_by_id(session, delivery_id)
    about = ("row", "column", "reason", "value")
    columns = [*about, *(column for column in delivery.columns if column not in about)]
    rows = (
        {
            **(row.cells or {}), "row": str(row.row_number), "column": row.column_name, "reason": row.reason, "value": row.value,
        }
        for row in store.rejected_rows(session, delivery_id)
    )  # fmt: skip
    return f"{Path(delivery.stored_as).stem[:8]}-rejected", columns, rows
