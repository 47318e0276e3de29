"""Loading: the rows of a draft delivery become source records, all or none of them."""

from collections import deque
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import InputError, Refused
from ...core.mapping import Assignment
from ...core.processes import CORES, Task, processes
from ...files import RejectedRow, Table, intake_cells
from ...files.intake import ROWS_AT_ONCE
from ...store import deliveries as store
from ...store import journal
from ...store.bulk import copy_rows
from ...store.loading import begin_staging, load_incoming, stage, touch_loaded
from ...store.locks import lock_membership
from ...store.maintenance import analyze, rows_at_last_count
from ...store.settling import touch_corrected
from ...store.tables import Delivery, Register, Source
from ..state.bring_up_to_date import RecordChange, bring_up_to_date
from ..state.layouts import layout_of
from ..state.mappings import mapping_of
from ..state.tidy_steps_in_force import tidy_steps_of
from ..transactions import SessionFactory, transaction
from .drafts import open_delivery
from .prepare_rows import prepare_rows

Progress = Callable[[str, int, int], None]
#: Batches of rows under way at a time: enough to keep the processes busy, few enough to bound memory.
_BATCHES_UNDER_WAY = 4
_REJECTED_AT_ONCE = 1_000
#: From this share of new rows on, the planner has to know of them.
_TELLING_SHARE = 0.05


@dataclass(frozen=True, slots=True)
class Portions:
    """How the rows of a file are shared out: so many at once, to so many processes. Below ``worth_rows``, or ``worth_bytes`` where nobody
    can tell rows, starting processes takes longer than they save."""

    rows_at_once: int = ROWS_AT_ONCE
    worth_rows: int = 15_000
    worth_bytes: int = 5_000_000
    processes: int = CORES


_USUAL_PORTIONS = Portions()


class _Intake:
    """Sends the rows of a table into the staging table and those set aside into theirs, a bounded number at a time."""

    def __init__(self, session: Session, delivery: Delivery, register: Register, progress: Progress) -> None:
        self._session, self._delivery, self._progress = session, delivery, progress
        self._register_id, self._layout, self._tidy_steps = (
            register.id,
            layout_of(register),
            tidy_steps_of(session, register),
        )
        self._under_way: deque[tuple[Task[bytes], int]] = deque()
        self._aside: list[RejectedRow] = []
        self.accepted = self.rejected = 0

    def run(self, table: Table, mapping: Sequence[Assignment], size: int, portions: Portions) -> None:
        """Take every row of the table, which stands in a file of ``size`` bytes."""
        begin_staging(self._session)
        rows = table.expected_rows
        worth = rows > portions.worth_rows or (not rows and size > portions.worth_bytes)
        with processes(worth, portions.processes) as pool:
            for part in intake_cells(table, mapping, portions.rows_at_once):
                if isinstance(part, RejectedRow):
                    self._set_aside(part)
                    continue
                task = pool.start(
                    prepare_rows, self._register_id, self._layout, self._tidy_steps, table.columns, mapping, part
                )
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


def load(
    session: Session,
    delivery_id: int,
    folder: Path,
    progress: Progress,
    *,
    actor: str = "Odd Pair",
    portions: Portions = _USUAL_PORTIONS,
) -> dict[str, int]:
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
    rows.run(table, mapping, (folder / delivery.stored_as).stat().st_size, portions)
    progress(f"storing {rows.accepted} records", 0, 0)
    lock_membership(session, register.id)
    counts = load_incoming(
        session, register_id=register.id, source_id=source.id, delivery_id=delivery.id, full=delivery.delivers == "full",
        end_gone=delivery.gone == "end",
    )  # fmt: skip
    delivery.counts = {
        "rows": rows.accepted + rows.rejected, "new": counts.new, "changed": counts.changed, "unchanged": counts.unchanged,
        "gone": counts.gone, "rejected": rows.rejected, **({"erased": counts.erased} if counts.erased else {}),
    }  # fmt: skip
    delivery.status = "loaded"
    delivery.outcomes = {} if register.recognises else None
    delivery.loaded_at = delivery.changed_at = datetime.now(UTC)
    _remember(source, delivery)
    session.flush()
    act = RecordChange(values=False, delivery_id=delivery.id, sources=(source.id,), came_back=counts.came_back > 0)
    _bring_up_to_date(session, register, act, source.id, delivery.id, progress)
    journal.append(
        session, register.id, "load", actor=actor, data={"delivery": delivery.id, "counts": dict(delivery.counts)},
        personal={"summary": f"Brought in {delivery.file_name} of {source.name}"}, touches=[("delivery", delivery.id)],
    )  # fmt: skip
    return dict(delivery.counts)


def _bring_up_to_date(
    session: Session, register: Register, act: RecordChange, source_id: int, delivery_id: int, progress: Progress
) -> None:
    # Rows come in tidied; only where a person had corrected a record its values are laid over and tidied once more.
    if touch_corrected(session, source_id):
        bring_up_to_date(session, register, RecordChange(), progress)
    touch_loaded(session, delivery_id)
    bring_up_to_date(session, register, act, progress)


def _remember(source: Source, delivery: Delivery) -> None:
    """Keep how a person mapped and read this delivery for the source's next one."""
    remembered: dict[str, Any] = {
        "mapping": list(delivery.mapping), "columns": list(delivery.columns), "reading": dict(delivery.reading),
        "delivers": delivery.delivers, "gone": delivery.gone,
    }  # fmt: skip
    for name, value in remembered.items():
        setattr(source, name, value)


def gather_figures(sessions: SessionFactory, counts: Mapping[str, int]) -> None:
    """Let the planner know of what was just loaded: without it, it would take full tables for empty ones. A few rows more among many
    change nothing of its plans."""
    with transaction(sessions) as session:
        if (counts["new"] + counts["changed"]) < _TELLING_SHARE * rows_at_last_count(session, "source_records"):
            return
        analyze(session, "source_records", "record_versions", "delivery_records", "record_words", "golden_records")


def drop_file_of_erased(sessions: SessionFactory, delivery_id: int, folder: Path, counts: Mapping[str, int]) -> None:
    """Keep no file that holds records which were erased on request."""
    if counts.get("erased"):
        with transaction(sessions) as session:
            (folder / store.delivery_by_id(session, delivery_id).stored_as).unlink(missing_ok=True)
