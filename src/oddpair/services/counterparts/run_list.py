"""Looks the rows of a counterpart list up in its register and keeps what was found beside what people said."""

from collections.abc import Iterator, Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from ...core.counterparts import Found
from ...core.records import RecordSet
from ...files import open_table
from ...store import counterparts as store
from ...store.tables import CounterpartList, CounterpartVerdict
from ..match.numbers import Numbers
from ..match.run_plan import AtEnd, MatchInput, Progress
from ..offline.asking_rows import AskingRows, asking_rows
from ..state.mappings import mapping_of
from ..transactions import SessionFactory, transaction
from .look_up import ASKING, CONFIRMED, NOBODY, look_up, read_register
from .settings import MATCHED, NONE, OUTCOMES, REJECTED, settings_of


def run_list(
    sessions: SessionFactory, slug: str, list_id: int, folder: Path, progress: Progress, *, kept: Path | None = None,
    at_end: AtEnd | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Look the rows of a list up and keep what was found, with ``at_end`` in the last transaction; return counts per outcome, which add
    up to the rows of the file."""
    progress("read records", 0, 0)
    with transaction(sessions) as session:
        register = read_register(session, slug, kept)
        found = session.get_one(CounterpartList, list_id)
        said = list(store.verdicts_of(session, list_id))
        session.expunge_all()
    progress(f"read {found.file_name}", 0, 0)
    rows = asking_rows(open_table(folder / found.stored_as, found.file_name), mapping_of(found.mapping), ASKING)
    asking, outcome = look_up(register, rows, settings_of(found.settings), progress, said)
    progress("store results", 0, 0)
    return _keep(sessions, found, rows, outcome, asking, register.given, said, at_end)


def _keep(
    sessions: SessionFactory, found: CounterpartList, rows: AskingRows, outcome: Found, asking: RecordSet, given: MatchInput,
    said: Sequence[CounterpartVerdict], at_end: AtEnd | None,
) -> dict[str, Any]:  # fmt: skip
    row_of = {key: place for place, key in enumerate(asking.ids)}
    with transaction(sessions) as session:
        store.forget_results(session, found.id)
        numbered = {record_id: number for number, (record_id, _) in enumerate(rows.rows)}
        store.write_results(
            session, _row_lines(found.id, rows, outcome, row_of, given.ids, said),
            _candidate_lines(found.id, outcome, [numbered[key] for key in asking.ids], given.ids),
        )  # fmt: skip
        counted = store.count_outcomes(session, found.id)
        counts = {name: counted.get(number, 0) for number, name in enumerate(OUTCOMES)}
        kept = session.get_one(CounterpartList, found.id)
        kept.counts, kept.records_version, kept.ran_at = counts, given.records_version, datetime.now(UTC)
        kept.report = {
            "records": len(given.records), "plan_version": given.plan_version, "compared": outcome.compared,
            "passes": [dict(counted) for counted in outcome.counts], "seconds": dict(outcome.seconds),
        }  # fmt: skip
        result = {"list": found.name, "rows": sum(counts.values()), **counts}
        if at_end:
            at_end(session, result)
    return result


def _row_lines(
    list_id: int, rows: AskingRows, outcome: Found, row_of: Mapping[str, int], ids: Numbers, said: Sequence[CounterpartVerdict]
) -> Iterator[tuple[Any, ...]]:  # fmt: skip
    """Yield rows with ``store.ROW_COLUMNS``, in the order of the file; those that are no record come last."""
    told = outcome.counterparts
    first = told.ranks == 1
    best = dict(zip(told.rows[first].tolist(), ids[told.records[first] - len(row_of)].tolist(), strict=True))
    nobody = {one.key: one.actor for one in said if one.verdict == NOBODY}
    confirmed = {one.key: (one.actor, one.record_id) for one in said if one.verdict == CONFIRMED}
    for number, (key, cells) in enumerate(rows.rows):
        row = row_of[key]
        verdict, record, by = int(told.verdicts[row]), best.get(row), ""
        if key in nobody:
            verdict, record, by = NONE, None, nobody[key]
        elif key in confirmed and record == confirmed[key][1]:
            verdict, by = MATCHED, confirmed[key][0]
        yield list_id, number, key, rows.cells(cells), verdict, record, by, ""
    for number, bad in enumerate(rows.rejected, start=len(rows.rows)):
        yield list_id, number, "", bad.cells or {}, REJECTED, None, "", f"row {bad.number}: {bad.reason}"


def _candidate_lines(list_id: int, outcome: Found, numbers: Sequence[int], ids: Numbers) -> Iterator[tuple[Any, ...]]:
    """Yield candidates with ``store.CANDIDATE_COLUMNS``; ``numbers`` says which row of the file each asking record is."""
    told = outcome.counterparts
    texts, which = outcome.reasons
    records = ids[told.records - len(numbers)]
    columns = (told.rows, told.ranks, records, outcome.scores, outcome.probabilities, which)
    for row, rank, record, score, chance, reason in zip(*(column.tolist() for column in columns), strict=True):
        yield list_id, numbers[row], rank, record, round(score, 2), round(chance, 4), texts[reason]
