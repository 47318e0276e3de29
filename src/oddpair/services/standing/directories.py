"""Directories of blocks, kept in memory and beside it on the disk, and brought up to date from the register whenever one is asked for."""

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
    learned: str
    version: int
    directory: BlockDirectory


class Directories:
    """The directories of the registers that were asked for, each for the run whose learning it follows."""

    def __init__(self, folder: Path | None = None) -> None:
        """Take the folder in which directories are kept for the next process, if there is one."""
        self._folder = folder
        self._kept: dict[int, _Kept] = {}
        self._lock = Lock()

    def up_to_date(self, session: Session, run: Run, version: int, by: ByPlan) -> BlockDirectory:
        """Return the directory of the register of a run that learned, with all records up to a version, as the open transaction sees
        them."""
        learned = sha256(run.learned or b"").hexdigest()[:20]
        with self._lock:
            kept = self._kept.get(run.register_id)
            if kept is None or kept.learned != learned:
                kept = self._found(session, run, learned, version, by)
                self._kept[run.register_id] = kept
            _enter(session, kept.directory, store.changed_since(session, run.register_id, kept.version), by)
            kept.version = max(kept.version, version)
            return kept.directory

    def _found(self, session: Session, run: Run, learned: str, version: int, by: ByPlan) -> _Kept:
        found = take_directory(self._folder, run.register_id, learned) if self._folder else None
        if found is not None:
            kept_version, places, owners = found
            return _Kept(learned, kept_version, BlockDirectory.of_columns(places, owners))
        directory = BlockDirectory()
        _enter(session, directory, store.present_of(session, run.register_id), by)
        if self._folder:
            # What came after the run is entered once more: a database that was put back may hold other records from there on.
            keep_directory(self._folder, run.register_id, learned, int(run.report[LEARNED_FROM]), *directory.columns())
        return _Kept(learned, version, directory)


def _enter(session: Session, directory: BlockDirectory, ids: Numbers, by: ByPlan) -> None:
    """Enter records into a directory, unless all are compared with all."""
    for first in range(0, 0 if by.learned.every_pair else len(ids), _AT_ONCE):
        records, own = records_of_lines(store.lines_of(session, ids[first : first + _AT_ONCE].tolist()))
        if len(records):
            directory.add(numbers_of(records, by), own)
