"""Reads the records of a register, from its rows or, where they have not changed since, from what was kept of the last time."""

from collections.abc import Iterable
from hashlib import sha256
from itertools import islice
from pathlib import Path

import numpy as np
import orjson
from sqlalchemy.orm import Session

from ...core.records import RecordSet, RecordSetBuilder
from ...files.kept_records import KeptRecords
from ...store import matching
from ...store.counters import counters_of
from ...store.registers import sources_of
from .numbers import Numbers

_RECORDS_AT_ONCE = 20_000
#: Fewer records are read from their rows as quickly as from a file.
WORTH_KEEPING = 20_000


def tidy_records_of(
    session: Session, register_id: int, kept: Path | None, worth_keeping: int = WORTH_KEEPING
) -> tuple[RecordSet, Numbers]:
    """Return the tidy records of a register and their ids, as ``read_records`` does; those of ``worth_keeping`` records or
    more from the folder ``kept`` if nothing changed since they were kept there, and kept there otherwise."""
    counters = counters_of(session, register_id)
    if kept is None or counters.records < worth_keeping:
        return read_records(session, register_id, tidy=True)
    names = " ".join(f"{source.id}={source.name!r}" for source in sources_of(session, register_id))
    state = f"{counters.records_version}-{sha256(names.encode()).hexdigest()[:12]}"
    keeper = KeptRecords(kept)
    found = keeper.take(register_id, state)
    if found is None:
        found = read_records(session, register_id, tidy=True)
        keeper.keep(register_id, state, *found)
    return found


def read_records(session: Session, register_id: int, *, tidy: bool) -> tuple[RecordSet, Numbers]:
    """Return the register's records, with tidy values or with fields, and, per record number, its database id."""
    return records_of_lines(matching.record_lines(session, register_id, tidy=tidy))


def records_of_lines(lines: Iterable[bytes]) -> tuple[RecordSet, Numbers]:
    """Return records given as lines (id, source, source's id, values), and, per record number, its database id."""
    builder = RecordSetBuilder()
    ids: list[int] = []
    lines = iter(lines)
    while part := list(islice(lines, _RECORDS_AT_ONCE)):
        _add(builder, part, ids)
    return builder.build(), np.array(ids, dtype=np.int64)[builder.order()] if ids else np.zeros(0, dtype=np.int64)


def _add(builder: RecordSetBuilder, lines: Iterable[bytes], ids: list[int]) -> None:
    by_source: dict[bytes, tuple[list[str], list[dict[str, str]]]] = {}
    numbers: dict[bytes, list[int]] = {}
    for line in lines:
        number, source, key, fields = line.split(b"\x01")
        keys, rows = by_source.setdefault(source, ([], []))
        keys.append(orjson.loads(key))
        rows.append(orjson.loads(fields))
        numbers.setdefault(source, []).append(int(number))
    for source, (keys, rows) in by_source.items():
        names = {name for row in rows for name in row}
        builder.add_many(orjson.loads(source), keys, {name: [row.get(name, "") for row in rows] for name in names})
        ids += numbers[source]
