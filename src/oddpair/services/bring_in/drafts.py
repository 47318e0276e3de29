"""Bringing in: a received file becomes a draft delivery with a proposed mapping that a person checks."""

import re
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from itertools import islice
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import InputError, MappingInvalid, Refused
from ...core.mapping import (
    Assignment,
    Proposal,
    propose_mapping,
    proposed_mapping,
    validate_mapping,
)
from ...core.tidying import tidy_row
from ...files import (
    AcceptedRow,
    FileFormat,
    Reading,
    RejectedRow,
    Row,
    Table,
    intake,
    open_table,
)
from ...store import deliveries as store
from ...store.registers import register_by_slug, source_by_name, sources_of
from ...store.tables import Delivery, Job, Register, Source
from .. import work
from ..offline.read_files import column_samples
from ..state.layouts import layout_of
from ..state.mappings import mapping_document, mapping_of
from ..state.tidy_steps_in_force import tidy_steps_of
from .mapping_trouble import MappingTrouble, trouble_with

_SOURCE_NAME = re.compile(r"[\w .\-]{1,60}")
_PREVIEW_ROWS = 12
_TRIED_ROWS = 60


@dataclass(frozen=True, slots=True)
class Preview:
    """A draft delivery as a person checks it: proposals per column, and what is new since the source's last delivery."""

    delivery: Delivery
    source: Source
    format: FileFormat
    proposals: tuple[Proposal, ...]
    remembered: bool
    new_columns: tuple[str, ...]
    missing_columns: tuple[str, ...]
    rows: list[dict[str, str]]


def source_name_of(file_name: str) -> str:
    """Return the source name that a file name suggests: its stem without date and copy marks."""
    stem = Path(file_name).stem.lower()
    stem = re.sub(r"[ _\-]*(?:\d{4}-?\d{2}-?\d{2}|\(\d+\)|copy)$", "", stem).strip(" _-.")
    return re.sub(r"[^\w .\-]", "", stem)[:60] or "source"


def open_delivery(delivery: Delivery, folder: Path) -> Table:
    """Open the kept file of a delivery as its person chose to read it."""
    reading = Reading(**delivery.reading)
    return open_table(folder / delivery.stored_as, delivery.file_name, reading, tuple(delivery.columns))


def receive(session: Session, slug: str, stored: Path, file_name: str, source_name: str = "") -> Preview:
    """Register a stored file as a draft delivery of a source; raise InputError if it cannot be read."""
    register = register_by_slug(session, slug)
    name = (source_name or source_name_of(file_name)).strip()
    if not _SOURCE_NAME.fullmatch(name):
        raise Refused(f"'{name}' cannot name a source; use up to 60 letters, digits, spaces, dots and dashes.")
    source = source_by_name(session, register.id, name)
    table, reading = _open_as_before(stored, file_name, source)
    if source is None:
        source = Source(register_id=register.id, name=name, trust_rank=len(sources_of(session, register.id)) + 1)
        session.add(source)
        session.flush()
    delivery = Delivery(
        source_id=source.id, file_name=file_name, stored_as=stored.name, format="", columns=[], mapping=[],
        reading=reading, delivers=source.delivers, gone=source.gone,
    )  # fmt: skip
    _describe(delivery, register, source, table)
    session.add(delivery)
    session.flush()
    return preview(session, delivery.id, stored.parent)


def _open_as_before(stored: Path, file_name: str, source: Source | None) -> tuple[Table, dict[str, Any]]:
    """Open a file as the source's last one was read, or afresh where that does not fit this one."""
    if source is not None and source.reading:
        try:
            return open_table(stored, file_name, Reading(**source.reading)), dict(source.reading)
        except InputError:
            pass
    return open_table(stored, file_name), {}


def _describe(delivery: Delivery, register: Register, source: Source, table: Table) -> None:
    """Note in a draft what its file is taken for."""
    delivery.format, delivery.columns = table.format.describe(), list(table.columns)
    delivery.mapping = mapping_document(_proposed(register, source, table)[1])


def _proposed(
    register: Register, source: Source, table: Table
) -> tuple[tuple[Proposal, ...], tuple[Assignment, ...], bool]:
    """Return (proposals, the mapping they make, whether it is remembered).

    What is remembered of a source counts for the columns that were there last time; new columns are proposed afresh.
    """
    proposals = propose_mapping(layout_of(register), column_samples(table))
    if not source.mapping:
        return proposals, proposed_mapping(proposals), False
    known = set(source.columns or [item.get("column", "") for item in source.mapping])
    remembered = [item for item in mapping_of(source.mapping) if not item.column or item.column in table.columns]
    taken = {item.field for item in remembered}
    fresh = [item for item in proposals if item.column not in known and item.target not in taken]
    of_column = {item.column: item for item in remembered}
    shown = []
    for proposal in proposals:
        if proposal.column in known:
            before = of_column.get(proposal.column, Assignment(""))
            shown.append(
                replace(
                    proposal,
                    target=before.field,
                    confidence=1.0,
                    reason="as in the last delivery of this source",
                    label=before.label,
                    continues=before.continues,
                )
            )
        elif proposal in fresh:
            shown.append(proposal)
        else:
            shown.append(Proposal(proposal.column, "", 0.0, "new in this delivery; nothing free fits"))
    return tuple(shown), (*remembered, *proposed_mapping(fresh)), True


def preview(session: Session, delivery_id: int, folder: Path) -> Preview:
    """Return a draft delivery with proposals and its first rows."""
    delivery = store.delivery_by_id(session, delivery_id)
    source = session.get_one(Source, delivery.source_id)
    register = session.get_one(Register, source.register_id)
    table = open_delivery(delivery, folder)
    proposals, _, remembered = _proposed(register, source, table)
    rows = [row.values for row in islice((row for row in table.rows() if isinstance(row, Row)), _PREVIEW_ROWS)]
    before = source.columns or []
    mapped_before = {item.get("column", "") for item in source.mapping or []} - {""}
    return Preview(
        delivery, source, table.format, proposals, remembered,
        new_columns=tuple(column for column in table.columns if before and column not in before),
        missing_columns=tuple(column for column in before if column not in table.columns and column in mapped_before),
        rows=rows,
    )  # fmt: skip


def _draft(session: Session, delivery_id: int) -> Delivery:
    delivery = store.delivery_by_id(session, delivery_id)
    if delivery.status != "draft":
        raise Refused(f"The delivery of '{delivery.file_name}' is {delivery.status} already.")
    return delivery


def read_again(session: Session, delivery_id: int, reading: Reading, folder: Path) -> Preview:
    """Read a draft's file in another way (another sheet, header row or path) and propose its mapping afresh."""
    delivery = _draft(session, delivery_id)
    source = session.get_one(Source, delivery.source_id)
    table = open_table(folder / delivery.stored_as, delivery.file_name, reading)
    delivery.reading = {key: value for key, value in asdict(reading).items() if value not in ("", None)}
    _describe(delivery, session.get_one(Register, source.register_id), source, table)
    session.flush()
    return preview(session, delivery_id, folder)


@dataclass(frozen=True, slots=True)
class TriedMapping:
    """What a mapping makes of the first rows, delivered fields beside tidy values, and what most of them lack."""

    rows: list[tuple[str, dict[str, str], dict[str, str]]]
    rejected: list[RejectedRow]
    trouble: MappingTrouble | None


def try_mapping(session: Session, delivery_id: int, mapping: Sequence[Assignment], folder: Path) -> TriedMapping:
    """Apply a mapping to the first rows of a delivery without loading anything; raise MappingInvalid."""
    delivery = store.delivery_by_id(session, delivery_id)
    register = store.register_of(session, delivery)
    layout = layout_of(register)
    table = open_delivery(delivery, folder)
    try:
        chosen = validate_mapping(layout, delivery.columns, mapping)
    except MappingInvalid as error:
        nameless = trouble_with(layout, column_samples(table), mapping, 0, ())
        if nameless is None or len(error.problems) > 1:
            raise
        return TriedMapping([], [], nameless)
    tidy_steps = tidy_steps_of(session, register)
    rows: list[tuple[str, dict[str, str], dict[str, str]]] = []
    rejected: list[RejectedRow] = []
    for row in islice(intake(table, chosen), _TRIED_ROWS):
        if isinstance(row, AcceptedRow):
            rows.append((row.record_id, row.fields, tidy_row(layout, row.fields, tidy_steps)))
        else:
            rejected.append(row)
    trouble = (
        trouble_with(layout, column_samples(table), chosen, len(rows) + len(rejected), rejected) if rejected else None
    )
    return TriedMapping(rows[:_PREVIEW_ROWS], rejected, trouble)


def check_loadable(
    session: Session, delivery_id: int, mapping: Sequence[Assignment], *, delivers: str = "full", gone: str = "keep"
) -> Delivery:
    """Check that a draft can be loaded with this mapping, and note in it the mapping and what the delivery stands for."""
    delivery = _draft(session, delivery_id)
    layout = layout_of(store.register_of(session, delivery))
    delivery.mapping = mapping_document(validate_mapping(layout, delivery.columns, mapping))
    delivery.delivers, delivery.gone = delivers, gone
    return delivery


def discard(session: Session, delivery_id: int) -> None:
    """Put a draft aside; its file stays."""
    _draft(session, delivery_id).status = "discarded"


def deliveries(session: Session, slug: str) -> list[tuple[Delivery, str]]:
    """Return a register's deliveries with the names of their sources, newest first."""
    found = store.deliveries_of(session, register_by_slug(session, slug).id)
    return [(delivery, source.name) for delivery, source in found]


def ask_to_load(
    session: Session,
    slug: str,
    delivery_id: int,
    mapping: Sequence[Assignment],
    *,
    delivers: str,
    gone: str,
    actor: str,
) -> Job:
    """Check that a draft can be loaded with this mapping, and ask for the work."""
    store.delivery_in(session, slug, delivery_id)
    delivery = check_loadable(session, delivery_id, mapping, delivers=delivers, gone=gone)
    return work.ask_for(
        session, slug, "load", f"Bring in {delivery.file_name}", {"delivery_id": delivery_id, "actor": actor}
    )
