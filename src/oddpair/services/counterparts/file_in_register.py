"""Looks the rows of a file up in a register at once, without keeping a list: for a command at night."""

from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from time import perf_counter
from typing import Any

import numpy as np

from ...core.counterparts import Found, Verdict
from ...core.errors import Refused, did_you_mean
from ...files.writers import table_chunks
from ...store import counterparts as store
from ..match.numbers import Numbers
from ..match.run_plan import Progress
from ..offline.asking_rows import read_asking
from ..offline.counterpart_table import Candidate, CounterpartColumns
from ..offline.look_up_files import REJECTED, format_of, lines_of
from ..transactions import SessionFactory, transaction
from .look_up import ASKING, look_up, read_register
from .settings import ListSettings


def look_up_file(
    sessions: SessionFactory, slug: str, file: Path, out: Path, settings: ListSettings, progress: Progress, *,
    map_document: object = None, kept: Path | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Look the rows of a file up in a register, write them with their counterparts to ``out``, and return a report whose counts add up to
    the rows. Raises InputError, MappingInvalid or Refused naming what is wrong; nothing is written then."""
    started = perf_counter()
    form = format_of(out)
    progress("read records", 0, 0)
    with transaction(sessions) as session:
        register = read_register(session, slug, kept)
    layout = register.given.layout
    for name in settings.keep:
        if name not in layout.names:
            raise Refused(f"The register has no field '{name}'.{did_you_mean(name, layout.names)}")
    read_s = perf_counter() - started
    rows = read_asking(file, layout, source=ASKING, map_document=map_document)
    asking, found = look_up(register, rows, settings, progress)
    told = _told(sessions, found, asking.ids, register.given.ids, settings)
    columns = CounterpartColumns.beside(rows.columns, settings.keep)
    with out.open("wb") as written:
        written.writelines(table_chunks(form, columns.all, lines_of(rows, told, columns), out.stem))
    counted = np.bincount(found.counterparts.verdicts, minlength=len(Verdict)).tolist()
    outcomes = {verdict.value: counted[place] for place, verdict in enumerate(Verdict)} | {REJECTED: len(rows.rejected)}
    seconds = {"read the register": read_s, **found.seconds, "all": perf_counter() - started}
    return {
        "rows": sum(outcomes.values()), "register_records": len(register.given.records), "outcomes": outcomes,
        "passes": list(found.counts), "compared": found.compared, "seconds": {name: round(spent, 3) for name, spent in seconds.items()},
        "out": str(out),
    }  # fmt: skip


def _told(
    sessions: SessionFactory, found: Found, keys: Sequence[str], ids: Numbers, settings: ListSettings
) -> Mapping[str, tuple[str, list[Candidate]]]:
    """Return, per row, its verdict and its candidates with the fields that are kept."""
    told = found.counterparts
    records = ids[told.records - len(keys)].tolist()
    described: dict[int, store.Described] = {}
    with transaction(sessions) as session:
        for part in _parts(sorted(set(records))):
            described |= store.described(session, part)
    texts, which = found.reasons
    by_row: dict[int, list[Candidate]] = {}
    columns = (told.rows, told.ranks, found.scores, found.probabilities, which)
    for record, row, rank, score, chance, reason in zip(records, *(column.tolist() for column in columns), strict=True):
        of = described[record]
        kept = {name: of.values[name] for name in settings.keep if name in of.values}
        by_row.setdefault(row, []).append(Candidate(rank, of.id, score, chance, texts[reason], kept))
    return {key: (found.verdict(row).value, by_row.get(row, [])) for row, key in enumerate(keys)}


_AT_ONCE = 20_000


def _parts(records: Sequence[int]) -> Iterator[Sequence[int]]:
    for start in range(0, len(records), _AT_ONCE):
        yield records[start : start + _AT_ONCE]
