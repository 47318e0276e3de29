"""Loading: the rows of a draft delivery become source records, all or none of them."""

from collections import deque
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from ...core.errors import InputError, Refused
from ...core.mapping import Assignment
from ...core.processes import Task, processes
from ...files import RejectedRow, Table, intake_cells
from ...store import deliveries as store
from ...store.bulk import copy_rows
from ...store.loading import begin_staging, load_incoming, stage
from ...store.quality import corrected_of_source, reapply_corrections
from ...store.registers import lock_register
from ...store.tables import (
    Delivery,
    DeliveryRecord,
    GoldenMember,
    Register,
    Source,
    SourceRecord,
)
from ..state.golden_values import refresh
from ..state.layouts import layout_of
from ..state.recipe_in_force import recipe_of
from ..tidy.quality import note_results
from ..tidy.references import resolve
from .drafts import mapping_of, open_delivery
from .prepare_rows import prepare_rows
from .take_back import tidy_again

Progress = Callable[[str, int, int], None]
#: Below this many rows, or bytes where nobody can tell rows, starting processes takes longer than they save.
_WORTH_PROCESSES, _WORTH_PROCESSES_BYTES = 15_000, 5_000_000
#: Batches of rows under way at a time: enough to keep the processes busy, few enough to bound memory.
_BATCHES_UNDER_WAY = 4
_REJECTED_AT_ONCE = 1_000


class _Intake:
    """Sends the rows of a table into the staging table and those set aside into theirs, a bounded number at a time."""

    def __init__(self, session: Session, delivery: Delivery, register: Register, progress: Progress) -> None:
        self._session, self._delivery, self._progress = session, delivery, progress
        self._layout, self._recipe = layout_of(register), recipe_of(session, register)
        self._under_way: deque[tuple[Task[bytes], int]] = deque()
        self._aside: list[RejectedRow] = []
        self.accepted = self.rejected = 0

    def run(self, table: Table, mapping: Sequence[Assignment], size: int) -> None:
        """Take every row of the table, which stands in a file of ``size`` bytes."""
        begin_staging(self._session)
        worth = table.expected_rows > _WORTH_PROCESSES or (not table.expected_rows and size > _WORTH_PROCESSES_BYTES)
        with processes(worth) as pool:
            for part in intake_cells(table, mapping):
                if isinstance(part, RejectedRow):
                    self._set_aside(part)
                    continue
                task = pool.start(prepare_rows, self._layout, self._recipe, table.columns, mapping, part)
                self._under_way.append((task, len(part)))
                if len(self._under_way) > _BATCHES_UNDER_WAY:
                    self._stage_oldest(table.expected_rows)
            while self._under_way:
                self._stage_oldest(table.expected_rows)
        self._write_aside()

    def _stage_oldest(self, expected: int) -> None:
        task, count = self._under_way.popleft()
        stage(self._session, task.result())
        self.accepted += count
        done = self.accepted + self.rejected
        self._progress(f"reading {self._delivery.file_name}", done, max(expected, done) if expected else 0)

    def _set_aside(self, row: RejectedRow) -> None:
        self._aside.append(row)
        self.rejected += 1
        if len(self._aside) >= _REJECTED_AT_ONCE:
            self._write_aside()

    def _write_aside(self) -> None:
        columns = ("delivery_id", "row_number", "column_name", "value", "reason", "cells")
        rows = ((self._delivery.id, r.number, r.column, r.value, r.reason, r.cells) for r in self._aside)
        copy_rows(self._session, "rejected_rows", columns, rows)
        self._aside = []


def load(session: Session, delivery_id: int, folder: Path, progress: Progress) -> dict[str, int]:
    """Load a draft delivery in the open transaction and return its counts, which add up to the rows of the file."""
    delivery = store.delivery_by_id(session, delivery_id)
    if delivery.status != "draft":
        raise Refused(f"The delivery of '{delivery.file_name}' is {delivery.status} already.")
    source = session.get_one(Source, delivery.source_id)
    register = session.get_one(Register, source.register_id)
    mapping, table = mapping_of(delivery.mapping), open_delivery(delivery, folder)
    missing = [item.column for item in mapping if item.column and item.column not in table.columns]
    if missing:
        raise InputError(f"the column '{missing[0]}' is gone", file=delivery.file_name)
    rows = _Intake(session, delivery, register, progress)
    rows.run(table, mapping, (folder / delivery.stored_as).stat().st_size)
    progress(f"storing {rows.accepted} records", 0, 0)
    lock_register(session, register.id)
    full = delivery.delivers == "full"
    counts = load_incoming(
        session,
        register_id=register.id,
        source_id=source.id,
        delivery_id=delivery.id,
        full=full,
        end_gone=delivery.gone == "end",
    )
    delivery.counts = {
        "rows": rows.accepted + rows.rejected, "new": counts.new, "changed": counts.changed, "unchanged": counts.unchanged,
        "gone": counts.gone, "rejected": rows.rejected,
    }  # fmt: skip
    corrected = corrected_of_source(session, source.id)
    if corrected:
        reapply_corrections(session, corrected)
        tidy_again(session, register, corrected)
    note_results(session, register, source.id, delivery.id)
    resolve(session, register)
    _refresh_golden(session, register, delivery.id)
    delivery.status = "loaded"
    delivery.loaded_at = delivery.changed_at = datetime.now(UTC)
    _remember(source, delivery)
    return dict(delivery.counts)


def _refresh_golden(session: Session, register: Register, delivery_id: int) -> None:
    """Recompute the golden records of records that the delivery changed or ended."""
    members = select(GoldenMember.golden_id).join(SourceRecord, SourceRecord.id == GoldenMember.record_id)
    ended = select(DeliveryRecord.record_id).where(
        DeliveryRecord.delivery_id == delivery_id, DeliveryRecord.version_id.is_(None)
    )
    touched = members.where(or_(SourceRecord.delivery_id == delivery_id, SourceRecord.id.in_(ended)))
    refresh(session, register, set(session.scalars(touched)))


def _remember(source: Source, delivery: Delivery) -> None:
    """Keep how a person mapped and read this delivery for the source's next one."""
    remembered: dict[str, Any] = {
        "mapping": list(delivery.mapping), "columns": list(delivery.columns), "reading": dict(delivery.reading),
        "delivers": delivery.delivers, "gone": delivery.gone,
    }  # fmt: skip
    for name, value in remembered.items():
        setattr(source, name, value)
