"""Bringing in: a received file becomes a draft delivery with a proposed mapping, and, once agreed, source records."""

import hashlib
import json
import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import islice
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import InputError, Refused
from ..core.fields import RegisterKind, default_layout
from ..core.mapping import Proposal, propose_mapping, validate_mapping
from ..core.tidying import tidy_row
from ..files import AcceptedRow, RejectedRow, Row, Table, intake, open_table
from ..store import deliveries as store
from ..store.bulk import copy_rows
from ..store.registers import register_by_slug, source_by_name, sources_of
from ..store.tables import Delivery, GoldenMember, Register, Source, SourceRecord
from .golden_values import refresh
from .read_files import column_samples

Progress = Callable[[str, int, int], None]
_SOURCE_NAME = re.compile(r"[\w .\-]{1,60}")
_PROGRESS_EVERY = 500


@dataclass(frozen=True, slots=True)
class Preview:
    """A draft delivery as a person checks it: proposals per column and rows before and after."""

    delivery: Delivery
    source: str
    proposals: tuple[Proposal, ...]
    remembered: bool
    rows: list[dict[str, str]]


def source_name_of(file_name: str) -> str:
    """Return the source name that a file name suggests: its stem without date and copy marks."""
    stem = Path(file_name).stem.lower()
    stem = re.sub(r"[ _\-]*(?:\d{4}-?\d{2}-?\d{2}|\(\d+\)|copy)$", "", stem).strip(" _-.")
    return re.sub(r"[^\w .\-]", "", stem)[:60] or "source"


def receive(session: Session, slug: str, stored: Path, file_name: str, source_name: str = "") -> Preview:
    """Register a stored file as a draft delivery of a source; raise InputError if it cannot be read."""
    register = register_by_slug(session, slug)
    name = (source_name or source_name_of(file_name)).strip()
    if not _SOURCE_NAME.fullmatch(name):
        raise Refused(f"'{name}' cannot name a source; use up to 60 letters, digits, spaces, dots and dashes.")
    table = open_table(stored, file_name)
    source = source_by_name(session, register.id, name)
    if source is None:
        source = Source(register_id=register.id, name=name, trust_rank=len(sources_of(session, register.id)) + 1)
        session.add(source)
        session.flush()
    proposals, _ = _proposals(register, source, table)
    delivery = Delivery(
        source_id=source.id, file_name=file_name, stored_as=stored.name, format=table.format.describe(), columns=list(table.columns),
        mapping={proposal.column: proposal.target for proposal in proposals if proposal.target},
    )  # fmt: skip
    session.add(delivery)
    session.flush()
    return preview(session, delivery.id, stored.parent)


def _proposals(register: Register, source: Source, table: Table) -> tuple[tuple[Proposal, ...], bool]:
    """Return proposals; a source's remembered mapping is used again where it knows every column it needs."""
    remembered = source.mapping
    if remembered and set(remembered) <= set(table.columns):
        return tuple(
            Proposal(column, remembered.get(column, ""), 1.0, "as in the last delivery of this source")
            for column in table.columns
        ), True
    layout = default_layout(RegisterKind(register.kind))
    return propose_mapping(layout, column_samples(table)), False


def preview(session: Session, delivery_id: int, folder: Path) -> Preview:
    """Return a draft delivery with proposals and its first rows."""
    delivery = store.delivery_by_id(session, delivery_id)
    source = session.get_one(Source, delivery.source_id)
    register = session.get_one(Register, source.register_id)
    table = open_table(folder / delivery.stored_as, delivery.file_name)
    proposals, remembered = _proposals(register, source, table)
    rows = [row.values for row in islice((row for row in table.rows() if isinstance(row, Row)), 12)]
    return Preview(delivery, source.name, proposals, remembered, rows)


@dataclass(frozen=True, slots=True)
class TriedMapping:
    """What a mapping makes of the first rows, delivered fields beside tidy values."""

    rows: list[tuple[str, dict[str, str], dict[str, str]]]
    rejected: list[RejectedRow]


def try_mapping(session: Session, delivery_id: int, mapping: Mapping[str, str], folder: Path) -> TriedMapping:
    """Apply a mapping to the first rows of a delivery without loading anything; raise MappingInvalid."""
    delivery = store.delivery_by_id(session, delivery_id)
    register = _register_of(session, delivery)
    kind = RegisterKind(register.kind)
    chosen = validate_mapping(default_layout(kind), delivery.columns, mapping)
    rows: list[tuple[str, dict[str, str], dict[str, str]]] = []
    rejected: list[RejectedRow] = []
    for row in islice(intake(open_table(folder / delivery.stored_as, delivery.file_name), chosen), 60):
        if isinstance(row, AcceptedRow):
            rows.append((row.record_id, row.fields, tidy_row(kind, row.fields)))
        else:
            rejected.append(row)
    return TriedMapping(rows[:12], rejected)


def _register_of(session: Session, delivery: Delivery) -> Register:
    return session.get_one(Register, session.get_one(Source, delivery.source_id).register_id)


def check_loadable(session: Session, delivery_id: int, mapping: Mapping[str, str]) -> Delivery:
    """Check that a draft can be loaded with this mapping, and note the mapping in it."""
    delivery = store.delivery_by_id(session, delivery_id)
    if delivery.status != "draft":
        raise Refused(f"The delivery of '{delivery.file_name}' is {delivery.status} already.")
    layout = default_layout(RegisterKind(_register_of(session, delivery).kind))
    delivery.mapping = validate_mapping(layout, delivery.columns, mapping)
    return delivery


def _hash(delivered: Mapping[str, str], fields: Mapping[str, str]) -> str:
    return hashlib.sha1(json.dumps([delivered, fields], sort_keys=True, ensure_ascii=False).encode()).hexdigest()


def load(session: Session, delivery_id: int, folder: Path, progress: Progress) -> dict[str, int]:
    """Load a draft delivery in the open transaction and return its counts, which add up to the rows of the file."""
    delivery = store.delivery_by_id(session, delivery_id)
    if delivery.status != "draft":
        raise Refused(f"The delivery of '{delivery.file_name}' is {delivery.status} already.")
    source = session.get_one(Source, delivery.source_id)
    register = session.get_one(Register, source.register_id)
    table = open_table(folder / delivery.stored_as, delivery.file_name)
    missing = [column for column in delivery.mapping if column not in table.columns]
    if missing:
        raise InputError(f"the column '{missing[0]}' is gone", file=delivery.file_name)
    rejected: list[RejectedRow] = []
    kind = RegisterKind(register.kind)

    def incoming() -> Iterator[store.Incoming]:
        for count, row in enumerate(intake(table, delivery.mapping), start=1):
            if count % _PROGRESS_EVERY == 0:
                progress(f"reading {delivery.file_name}, {count} rows", 0, 0)
            if isinstance(row, RejectedRow):
                rejected.append(row)
            else:
                tidy = tidy_row(kind, row.fields)
                yield store.Incoming(row.record_id, row.delivered, row.fields, tidy, _hash(row.delivered, row.fields))

    accepted = store.stage_incoming(session, incoming())
    progress(f"storing {accepted} records", 0, 0)
    counts = store.load_incoming(session, register.id, source.id, delivery.id)
    copy_rows(
        session, "rejected_rows", ("delivery_id", "row_number", "column_name", "value", "reason"),
        ((delivery.id, row.number, row.column, row.value, row.reason) for row in rejected),
    )  # fmt: skip
    delivery.counts = {
        "rows": accepted + len(rejected), "new": counts.new, "changed": counts.changed, "unchanged": counts.unchanged,
        "gone": counts.gone, "rejected": len(rejected),
    }  # fmt: skip
    touched = select(GoldenMember.golden_id).join(SourceRecord, SourceRecord.id == GoldenMember.record_id)
    refresh(session, register, set(session.scalars(touched.where(SourceRecord.delivery_id == delivery.id))))
    delivery.status = "loaded"
    delivery.loaded_at = datetime.now(UTC)
    source.mapping = dict(delivery.mapping)
    return dict(delivery.counts)


def discard(session: Session, delivery_id: int) -> None:
    """Put a draft aside; its file stays."""
    delivery = store.delivery_by_id(session, delivery_id)
    if delivery.status != "draft":
        raise Refused(f"The delivery of '{delivery.file_name}' is {delivery.status}; only a draft can be discarded.")
    delivery.status = "discarded"
