"""Looks the rows of a counterpart list up in its register and keeps what was found beside what people said."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from ...core.clustering import Decisions
from ...core.counterparts import Asked, Found, find_counterparts
from ...core.records import IntArray, RecordSet
from ...core.tidying import tidy_records
from ...files import joined_records, open_table
from ...store import counterparts as store
from ...store.membership import belonging as belonging_of
from ...store.tables import CounterpartList, CounterpartVerdict
from ..match.run_plan import AtEnd, MatchInput, Numbers, Progress, read_match_input
from ..offline.asking_rows import AskingRows, asking_rows
from ..state.mappings import mapping_of
from ..transactions import SessionFactory, transaction
from .settings import MATCHED, NONE, OUTCOMES, REJECTED, settings_of

_ASKING, _REGISTER = "asking", "register"
CONFIRMED, REFUSED, NOBODY = "confirmed", "rejected", "nobody"


def run_list(
    sessions: SessionFactory, slug: str, list_id: int, folder: Path, progress: Progress, *, at_end: AtEnd | None = None
) -> dict[str, Any]:
    """Look the rows of a list up and keep what was found, with ``at_end`` in the last transaction; return counts per outcome, which add
    up to the rows of the file."""
    progress("read records", 0, 0)
    with transaction(sessions) as session:
        given = read_match_input(session, slug, tidy=True)
        found = session.get_one(CounterpartList, list_id)
        belonging = belonging_of(session, given.register_id)
        said = list(store.verdicts_of(session, list_id))
        session.expunge_all()
    settings = settings_of(found.settings)
    progress(f"read {found.file_name}", 0, 0)
    rows = asking_rows(open_table(folder / found.stored_as, found.file_name), mapping_of(found.mapping), _ASKING)
    asking = tidy_records(given.layout, rows.records, progress, given.tidy_steps)
    reference = replace(given.records, sources=(_REGISTER,), source_codes=np.zeros(len(given.records), dtype=np.int32))
    records = joined_records([asking, reference])
    plan = settings.plan(given.layout, given.plan)
    asked = Asked(records, _ASKING, _groups(len(asking), given.ids, belonging), _decisions(said, asking, given.ids))
    outcome = find_counterparts(asked, plan, limits=settings.limits(plan), progress=progress)
    progress("store results", 0, 0)
    return _keep(sessions, found, rows, outcome, asking, given, said, at_end)


def _groups(asking: int, ids: Numbers, belonging: Mapping[int, int]) -> IntArray:
    """Return, per record, a number that is the same for records of one golden record or, before it is made, of one cluster."""
    belongs = np.array([belonging[record] for record in ids.tolist()], dtype=np.int64)
    _, numbers = np.unique(belongs, return_inverse=True)
    return np.concatenate((np.arange(asking), numbers + asking)).astype(np.int32)


def _decisions(said: Sequence[CounterpartVerdict], asking: RecordSet, ids: Numbers) -> Decisions:
    """Return what people confirmed and rejected, as pairs of record numbers."""
    row_of = {key: place for place, key in enumerate(asking.ids)}
    place_of = {record: place + len(asking) for place, record in enumerate(ids.tolist())}
    pairs: dict[str, list[tuple[int, int]]] = {CONFIRMED: [], REFUSED: []}
    for one in said:
        if one.verdict in pairs and one.key in row_of and one.record_id in place_of:
            pairs[one.verdict].append((row_of[one.key], place_of[one.record_id]))
    same, different = (np.array(pairs[name], dtype=np.int32).reshape(-1, 2) for name in (CONFIRMED, REFUSED))
    return Decisions(same, different)


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
