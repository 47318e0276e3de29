"""Looks rows up in a register: its records as they are now, grouped by the golden records or clusters that they belong to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from sqlalchemy.orm import Session

from ...core.clustering import Decisions
from ...core.counterparts import Asked, Found, find_counterparts
from ...core.records import IntArray, RecordSet
from ...core.tidying import tidy_records
from ...files import joined_records
from ...store.membership import belonging
from ...store.tables import CounterpartVerdict
from ..match.numbers import Numbers
from ..match.run_plan import MatchInput, Progress, read_match_input
from ..offline.asking_rows import AskingRows
from .settings import ListSettings

ASKING, _REGISTER = "asking", "register"
CONFIRMED, REFUSED, NOBODY = "confirmed", "rejected", "nobody"


@dataclass(frozen=True, slots=True)
class AskedRegister:
    """A register that is asked: its records with all that a match needs, and what each record belongs to."""

    given: MatchInput
    belongs: Mapping[int, int]


def read_register(session: Session, slug: str, kept: Path | None = None) -> AskedRegister:
    """Return a register as it is at one moment; the first thing to be asked of a session. Raises Refused if it has no records.

    In the folder ``kept`` lies what was read for the last job.
    """
    given = read_match_input(session, slug, tidy=True, kept=kept)
    return AskedRegister(given, belonging(session, given.register_id))


def look_up(
    register: AskedRegister, rows: AskingRows, settings: ListSettings, progress: Progress,
    said: Sequence[CounterpartVerdict] = (),
) -> tuple[RecordSet, Found]:  # fmt: skip
    """Return (the rows as tidy records, what was found of them); what people said of rows holds."""
    given = register.given
    asking = tidy_records(given.layout, rows.records, progress, given.tidy_steps)
    reference = replace(given.records, sources=(_REGISTER,), source_codes=np.zeros(len(given.records), dtype=np.int32))
    records = joined_records([asking, reference])
    plan = settings.plan(given.layout, given.plan)
    groups = _groups(len(asking), given.ids, register.belongs)
    asked = Asked(records, ASKING, groups, _decisions(said, asking, given.ids))
    return asking, find_counterparts(asked, plan, limits=settings.limits(plan), progress=progress)


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
