"""The profile of a file that is not loaded yet, column by column."""

from collections.abc import Iterator
from itertools import islice
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ...core.profiling import ColumnProfiler
from ...files import BadRow
from ...store import deliveries as delivery_store
from ..tidy.profile import profile_document
from .drafts import open_delivery

_DRAFT_ROWS = 100_000
_ROWS_AT_ONCE = 10_000


def profile_draft(session: Session, delivery_id: int, folder: Path) -> dict[str, Any]:
    """Return the profile of the columns of a delivery's file, as it was delivered; of a large file its first rows."""
    delivery = delivery_store.delivery_by_id(session, delivery_id)
    table = open_delivery(delivery, folder)
    profilers = [ColumnProfiler() for _ in table.columns]
    rows: Iterator[list[str]] = (row[1] for row in table.cells() if not isinstance(row, BadRow))
    records = 0
    limited = islice(rows, _DRAFT_ROWS)
    while part := list(islice(limited, _ROWS_AT_ONCE)):
        records += len(part)
        for profiler, values in zip(profilers, zip(*part, strict=True), strict=True):
            profiler.add(values)
    columns = zip(table.columns, profilers, strict=True)
    fields = [
        {
            **profile_document(profiler.result()),
            "name": name,
            "label": name,
            "kind": "",
            "checked": False,
            "further": [],
        }
        for name, profiler in columns
    ]
    return {"records": records, "fields": fields}
