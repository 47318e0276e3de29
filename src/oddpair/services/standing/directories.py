"""Directories of blocks, kept in memory and beside it on the disk, and brought up to date from the register whenever one is asked for."""

from collections import defaultdict
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from threading import Lock

from sqlalchemy.orm import Session

from ...core.recognition import BlockDirectory, ByPlan, numbers_of
from ...files.kept_directory import keep_directory, take_directory
from ...store import recognition as store
from ...store.tables import Run
from ..match.numbers import Numbers
from ..match.read_records import records_of_lines
from ..match.run_plan import LEARNED_FROM

#: So many records are entered at a time, which bounds memory.
_AT_ONCE = 100_000


@dataclass(slots=True)
class _Kept:
    run_id: int
    version: int
    directory: BlockDirectory


class Directories:
    """The directories of the registers that were asked for, each for the run whose learning it follows."""

    def __init__(self, folder: Path | None = None) -> None:
        """Take the folder in which directories are kept for the next process, if there is one."""
        self._folder = folder
        self._kept: dict[int, _Kept] = {}
        self._locks: defaultdict[int, Lock] = defaultdict(Lock)

    def up_to_date(self, session: Session, run: Run, version: int, by: ByPlan, *, wait: bool = True) -> BlockDirectory:
        """Return the directory of the register of a run that learned, with all records up to a version, as the open transaction sees
        them; where that need not be waited for, as it is while somebody else brings it up to date."""
        kept, lock = self._kept.get(run.register_id), self._locks[run.register_id]
        at_hand = kept.directory if not wait and kept is not None and kept.run_id == run.id else None
        if not lock.acquire(blocking=at_hand is None):
            assert at_hand is not None
            return at_hand
        try:
            kept = self._kept.get(run.register_id)
            if kept is None or kept.run_id != run.id:
                kept = self._found(session, run, version, by)
                self._kept[run.register_id] = kept
            if kept.version < version:
                _enter(session, kept.directory, store.changed_since(session, run.register_id, kept.version), by)
                kept.version = version
            return kept.directory
        finally:
            lock.release()

    def _found(self, session: Session, run: Run, version: int, by: ByPlan) -> _Kept:
        learned = sha256(store.learned_of_run(session, run.id) or b"").hexdigest()[:20]
        found = take_directory(self._folder, run.register_id, learned) if self._folder else None
        if found is not None:
            kept_version, places, owners = found
            return _Kept(run.id, kept_version, BlockDirectory.of_columns(places, owners))
        directory = BlockDirectory()
        _enter(session, directory, store.present_of(session, run.register_id), by)
        if self._folder:
            # What came after the run is entered once more: a database that was put back may hold other records from there on.
            keep_directory(self._folder, run.register_id, learned, int(run.report[LEARNED_FROM]), *directory.columns())
        return _Kept(run.id, version, directory)


def _enter(session: Session, directory: BlockDirectory, ids: Numbers, by: ByPlan) -> None:
    """Enter records into a directory, unless all are compared with all."""
    for first in range(0, 0 if by.learned.every_pair else len(ids), _AT_ONCE):
        records, own = records_of_lines(store.lines_of(session, ids[first : first + _AT_ONCE].tolist()))
        if len(records):
            directory.add(numbers_of(records, by), own)
