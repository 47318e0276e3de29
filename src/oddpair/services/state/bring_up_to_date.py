"""The one place that makes what records are now true, whatever act changed it.

Loading, taking back, putting back, mending rows, correcting, tidy steps, layouts: each touches some records and then calls
``bring_up_to_date``, which goes through everything that hangs on them in one order. It works on the temporary table
``touched``, set by set and in parts, so that memory is bounded; what people at the desk need is locked at its end only.
"""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

import orjson
from sqlalchemy.orm import Session

from ...core.fields import Layout
from ...core.processes import Task, processes
from ...core.tidying import TidySteps, tidy_rows
from ...store import settling
from ...store.counters import count_anew
from ...store.doubts import make_doubts, mark_changed_decisions, remake_changed
from ...store.locks import close_desk
from ...store.registers import standing_run
from ...store.tables import Register
from .. import work
from .copy_text import copy_line, word_vector
from .golden_values import refresh
from .layouts import layout_of
from .membership import leave_and_return
from .references import resolve
from .rule_results import note_results
from .search import words_of_record, written_in_many_ways
from .tidy_steps_in_force import tidy_steps_of

Progress = Callable[[str, int, int], None]
#: The kind of work that matches and merges what changed.
RECOGNISE = "recognise"
_AT_ONCE = 20_000
_TASKS_UNDER_WAY = 3


@dataclass(frozen=True, slots=True)
class RecordChange:
    """What an act did to the touched records.

    ``deliveries``: other deliveries are in force; ``values``: fields or the way they are tidied changed. ``entry_id`` is the
    reserved number of the act's journal entry, ``delivery_id`` and ``sources`` say after which delivery, and
    of which sources besides those of touched records, rule results are noted. ``came_back``: records that had left are in
    the register again, so that doubts about them are, too.
    """

    deliveries: bool = False
    values: bool = True
    entry_id: int | None = None
    delivery_id: int | None = None
    sources: tuple[int, ...] = ()
    came_back: bool = False


@dataclass(slots=True)
class Outcome:
    """What came of it: records that left, came back and changed, how many tidy values, and golden records, changed."""

    withdrawn: list[int] = field(default_factory=list)
    returned: list[int] = field(default_factory=list)
    changed: int = 0
    tidied: int = 0
    golden: int = 0
    moves: dict[str, object] | None = None


def nothing(stage: str, done: int, total: int) -> None:
    """Progress that nobody watches."""


def bring_up_to_date(
    session: Session, register: Register, change: RecordChange, progress: Progress = nothing
) -> Outcome:
    """Make everything that hangs on the records in ``touched`` true after an act; belongs before the act's journal entry."""
    outcome = Outcome()
    if change.deliveries:
        settled = settling.settle(session)
        outcome.withdrawn, outcome.returned, outcome.changed = settled.withdrawn, settled.returned, settled.changed
    if change.values:
        settling.lay_corrections(session)
        outcome.tidied = tidy_touched(session, register, progress)
        make_searchable(session, register)
    golden = set(settling.golden_of_touched(session))
    moved: set[int] = set()
    if outcome.withdrawn or outcome.returned:
        assert change.entry_id is not None
        outcome.moves, moved = leave_and_return(
            session, register, change.entry_id, withdrawn=outcome.withdrawn, returned=outcome.returned
        )
    resolve(session, register)
    refresh(session, register, moved, progress)
    outcome.golden = len(moved) + refresh(session, register, golden - moved, progress)
    note_results(session, register, change.sources or settling.sources_of_touched(session), change.delivery_id)
    mark_changed_decisions(session)
    _doubts(session, register, anew=bool(outcome.withdrawn or outcome.returned or change.came_back))
    if register.recognises:
        work.follow_up(session, register.slug, RECOGNISE, "Recognise what came in", {"register": register.slug})
    session.expire_all()
    return outcome


def _doubts(session: Session, register: Register, *, anew: bool) -> None:
    run = standing_run(session, register.id)
    close_desk(session, register.id)
    if run is not None:
        if anew:
            make_doubts(session, register.id, run.id)
        else:
            remake_changed(session, register.id, run.id)
    count_anew(session, register.id, records_changed=True)


def tidy_lines(layout: Layout, tidy_steps: TidySteps, lines: list[bytes]) -> bytes:
    """Return lines (id, tidy values) of records given as lines (id, fields)."""
    ids, documents = zip(*(line.split(b"\x01") for line in lines), strict=True)
    fields = [orjson.loads(document) for document in documents]
    names = sorted({name for row in fields for name in row})
    columns = {name: [row.get(name, "") for row in fields] for name in names}
    tidy = tidy_rows(layout, columns, len(fields), tidy_steps)
    rows = zip(ids, tidy, strict=True)
    return "".join(copy_line((number.decode(), orjson.dumps(row).decode())) for number, row in rows).encode()


def tidy_touched(session: Session, register: Register, progress: Progress) -> int:
    """Tidy touched records by the steps in force; return how many differ from before."""
    layout, tidy_steps = layout_of(register), tidy_steps_of(session, register)
    total = settling.count_touched(session)
    done = changed = 0
    running: deque[tuple[int, Task[bytes]]] = deque()

    def write_oldest() -> None:
        nonlocal done, changed
        count, task = running.popleft()
        changed += settling.write_tidy(session, task.result())
        done += count
        progress("tidy", done, total)

    with processes(total > _AT_ONCE) as pool:
        for part in settling.touched_fields(session, _AT_ONCE):
            running.append((len(part), pool.start(tidy_lines, layout, tidy_steps, part)))
            if len(running) > _TASKS_UNDER_WAY:
                write_oldest()
        while running:
            write_oldest()
    return changed


def make_searchable(session: Session, register: Register) -> None:
    """Write the words of touched records by which they are searched."""
    written = written_in_many_ways(layout_of(register))
    for part in settling.touched_values(session, _AT_ONCE):
        lines = []
        for line in part:
            number, *documents = line.split(b"\x01")
            words = words_of_record(written, *map(orjson.loads, documents))
            lines.append(copy_line((number.decode(), word_vector(register.id, words))))
        settling.write_words(session, "".join(lines).encode())
