"""Tidying many records: every distinct combination of delivered values once, and the outcome gathered per record.

Parsing is work for the interpreter, which runs on one core at a time; many combinations are shared out to processes.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence

import numpy as np

from ..cycles import without_cycle_search
from ..fields import Layout
from ..joint_codes import distinct_rows
from ..processes import CORES, processes
from ..records import (
    MISSING,
    Column,
    IntArray,
    RecordSet,
    column_from_codes,
    further,
)
from .tidiers import Tidier, filled_value, inputs_at, tidiers_of, tidy_values
from .tidy_steps import NOTHING, TidySteps, prepare_columns, prepare_records

Progress = Callable[[str, int, int], None]

#: Combinations that one process takes at a time.
_CHUNK = 10_000
#: Below this many combinations in all, starting processes takes longer than they save.
_WORTH_PROCESSES = 60_000

#: Per output and place: (distinct values, the number of its value per combination).
_Encoded = dict[str, tuple[list[str], IntArray]]


def _tidy_combinations(layout: Layout, tidier_number: int, combinations: list[tuple[str, ...]]) -> _Encoded:
    """Apply a tidier, named by its place so that another process finds it, and return its outputs dictionary-encoded."""
    tidier = tidiers_of(layout)[tidier_number]
    results = [tidy_values(tidier, combination) for combination in _filled(combinations)]
    encoded: _Encoded = {}
    for place in range(max(map(len, results), default=0)):
        rows = [row for row, result in enumerate(results) if len(result) > place]
        of_place = [result[place] for result in results if len(result) > place]
        for name, values in zip(tidier.outputs, zip(*of_place, strict=True), strict=True):
            distinct = list(dict.fromkeys(values))
            numbers = dict(zip(distinct, range(len(distinct)), strict=True))
            codes = np.full(len(results), MISSING, dtype=np.int32)
            codes[rows] = np.fromiter(map(numbers.__getitem__, values), dtype=np.int32, count=len(values))
            encoded[further(name, place)] = distinct, codes
    return encoded


def _filled(combinations: list[tuple[str, ...]]) -> Iterator[tuple[str, ...]]:
    """Yield the combinations without values that only fill a gap, each distinct value looked at once."""
    columns = []
    for column in zip(*combinations, strict=True):
        filled = {value: filled_value(value) for value in dict.fromkeys(column)}
        columns.append(map(filled.__getitem__, column))
    return zip(*columns, strict=True)


def tidy_rows(
    layout: Layout, columns: Mapping[str, Sequence[str]], count: int, tidy_steps: TidySteps = NOTHING
) -> list[dict[str, str]]:
    """Return the filled tidy values of ``count`` records that are given by columns ("" if missing)."""
    if tidy_steps.steps:
        columns = prepare_columns(tidy_steps, columns, count)
    rows: list[dict[str, str]] = [{} for _ in range(count)]
    empty = [""] * count
    places = 1 + max((int(name.partition("#")[2]) - 1 for name in columns if "#" in name), default=0)
    for tidier in tidiers_of(layout):
        names = [name for place in range(places) for name in inputs_at(tidier, place)]
        if not any(name in columns for name in names):
            continue
        combinations = list(_filled(list(zip(*(columns.get(name, empty) for name in names), strict=True))))
        outcome = {combination: _named(tidier, combination) for combination in dict.fromkeys(combinations)}
        for row, combination in zip(rows, combinations, strict=True):
            row.update(outcome[combination])
    return rows


def tidy_row(layout: Layout, row: Mapping[str, str], tidy_steps: TidySteps = NOTHING) -> dict[str, str]:
    """Return the filled tidy values of one record; further values of a field are named as ``records.further`` says."""
    return tidy_rows(layout, {name: [value] for name, value in row.items()}, 1, tidy_steps)[0]


def _named(tidier: Tidier, combination: tuple[str, ...]) -> dict[str, str]:
    return {
        further(name, place): value
        for place, values in enumerate(tidy_values(tidier, combination))
        for name, value in zip(tidier.outputs, values, strict=True)
        if value
    }


def _distinct_rows(columns: list[Column]) -> tuple[IntArray, IntArray]:
    """Return (one row of codes per distinct combination, per record the number of its combination)."""
    first, which = distinct_rows([column.codes for column in columns])
    return np.stack([column.codes[first] for column in columns], axis=1), which.astype(np.int32)


def _chunks(inputs: list[Column], rows: IntArray, size: int) -> Iterator[list[tuple[str, ...]]]:
    """Yield the delivered values of the combinations, as many at a time as one process takes."""
    values = [(*column.values, "") for column in inputs]
    for start in range(0, len(rows), size):
        # The empty text at the end of the values is what code -1 finds.
        picked = [
            [known[code] for code in rows[start : start + size, place].tolist()] for place, known in enumerate(values)
        ]
        yield list(zip(*picked, strict=True))


def _gathered(parts: list[_Encoded], sizes: list[int], which: IntArray) -> dict[str, Column]:
    """Put the outputs of chunks together and give every record the values of its combination."""
    columns = {}
    for name in sorted({name for part in parts for name in part}):
        values: list[str] = []
        codes = []
        for part, size in zip(parts, sizes, strict=True):
            own, numbers = part.get(name, ([], np.full(size, MISSING, dtype=np.int32)))
            codes.append(np.where(numbers >= 0, numbers + len(values), MISSING))
            values += own
        column = column_from_codes(values, np.concatenate(codes)[which].astype(np.int32))
        if len(column.values):
            columns[name] = column
    return columns


def tidy_records(
    layout: Layout, records: RecordSet, progress: Progress | None = None, tidy_steps: TidySteps = NOTHING,
    *, chunk: int = _CHUNK, worth_processes: int = _WORTH_PROCESSES, count: int = CORES,
) -> RecordSet:  # fmt: skip
    """Return the same records with tidy columns instead of delivered ones; a column that nothing fills is left out.

    From ``worth_processes`` distinct combinations of values on, ``count`` processes share the work, ``chunk`` combinations at a time.
    """
    if tidy_steps.steps:
        records = prepare_records(tidy_steps, records)
    work: list[tuple[int, list[Column], IntArray, IntArray]] = []
    for number, tidier in enumerate(tidiers_of(layout)):
        places = max(records.places(name) for name in tidier.inputs)
        inputs = [records.column(name) for place in range(places) for name in inputs_at(tidier, place)]
        if len(records) and any(len(column.values) for column in inputs):
            work.append((number, inputs, *_distinct_rows(inputs)))
    total = sum(len(rows) for _, _, rows, _ in work)
    columns: dict[str, Column] = {}
    done = 0
    with without_cycle_search(), processes(total >= worth_processes, count) as pool:
        running = []
        for number, inputs, rows, which in work:
            chunks = list(_chunks(inputs, rows, chunk))
            tasks = [pool.start(_tidy_combinations, layout, number, chunk) for chunk in chunks]
            running.append((tasks, [len(chunk) for chunk in chunks], which))
        for tasks, sizes, which in running:
            parts = []
            for task, size in zip(tasks, sizes, strict=True):
                parts.append(task.result())
                done += size
                if progress:
                    progress("tidy", done, total)
            columns.update(_gathered(parts, sizes, which))
    return RecordSet(records.sources, records.source_codes, records.ids, columns)
