"""Rows that were set aside, mended by a person and brought in again as part of their delivery."""

from collections.abc import Mapping
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import InputError, NotFound, Refused
from ...core.mapping import apply_mapping, id_column
from ...core.tidying import tidy_row
from ...files import LONGEST_ID, has_name, why_rejected
from ...store import deliveries as store
from ...store.loading import settle
from ...store.quality import reapply_corrections
from ...store.registers import lock_register
from ...store.tables import (
    Delivery,
    DeliveryRecord,
    GoldenMember,
    RecordVersion,
    Register,
    RejectedRow,
    Source,
    SourceRecord,
)
from ..state.golden_values import refresh
from ..state.layouts import layout_of
from ..state.recipe_in_force import recipe_of
from .drafts import mapping_of
from .prepare_rows import content_hash


def mend(session: Session, row_id: int, cells: Mapping[str, str]) -> RejectedRow:
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
    register = lock_register(session, source.register_id)
    mapping = mapping_of(delivery.mapping)
    record_id, fields = apply_mapping(mapping, delivered)
    record_id = record_id if id_column(mapping) else str(row.row_number)
    in_file = _is_in_delivery(session, delivery, record_id)
    if not 0 < len(record_id) <= LONGEST_ID or in_file or not has_name(fields):
        column, reason = why_rejected(record_id, "another row" if in_file else "", mapping)
        raise InputError(reason, file=delivery.file_name, row=row.row_number, column=column)
    outcome = _bring_in(session, register, delivery, record_id, delivered, fields)
    row.mended_at = datetime.now(UTC)
    counts = dict(delivery.counts or {})
    counts.update({outcome: counts.get(outcome, 0) + 1, "rejected": counts["rejected"] - 1})
    delivery.counts, delivery.changed_at = counts, datetime.now(UTC)
    return row


def _is_in_delivery(session: Session, delivery: Delivery, record_id: str) -> bool:
    said = select(DeliveryRecord.record_id).join(SourceRecord, SourceRecord.id == DeliveryRecord.record_id)
    same = said.where(
        DeliveryRecord.delivery_id == delivery.id,
        DeliveryRecord.version_id.is_not(None),
        SourceRecord.source_key == record_id,
    )
    return session.scalars(same).first() is not None


def _bring_in(
    session: Session,
    register: Register,
    delivery: Delivery,
    record_id: str,
    delivered: dict[str, str],
    fields: dict[str, str],
) -> str:
    """Add what the row says of its record; return which count it belongs to: new, changed or unchanged."""
    told = content_hash(delivered, fields)
    record = session.scalar(
        select(SourceRecord).where(SourceRecord.source_id == delivery.source_id, SourceRecord.source_key == record_id)
    )
    outcome = (
        "new"
        if record is None or record.state != "current"
        else "unchanged"
        if record.content_hash == told
        else "changed"
    )
    if record is None:
        record = SourceRecord(
            register_id=register.id, source_id=delivery.source_id, source_key=record_id, delivery_id=delivery.id,
            delivered=delivered, fields=fields, tidy={}, content_hash=told,
        )  # fmt: skip
        session.add(record)
        session.flush()
    version = RecordVersion(
        record_id=record.id, delivery_id=delivery.id, delivered=delivered, fields=fields, content_hash=told
    )
    session.add(version)
    session.flush()
    said = session.get(DeliveryRecord, (delivery.id, record.id))
    if said is None:
        session.add(DeliveryRecord(delivery_id=delivery.id, record_id=record.id, version_id=version.id))
    else:
        # A full delivery had said that the record is gone, since its row was set aside.
        said.version_id = version.id
    record.version_id = version.id
    settle(session, [record.id])
    reapply_corrections(session, [record.id])
    session.refresh(record)
    record.tidy = tidy_row(layout_of(register), record.fields, recipe_of(session, register))
    session.flush()
    refresh(
        session,
        register,
        set(session.scalars(select(GoldenMember.golden_id).where(GoldenMember.record_id == record.id))),
    )
    return outcome
