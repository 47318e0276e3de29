"""Sending out: golden records and the crosswalk as tables."""

from collections.abc import Iterator
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...store import golden as store
from ...store.registers import register_by_slug
from ..state.layouts import layout_of


@dataclass(frozen=True, slots=True)
class OutTable:
    """A table on its way out."""

    name: str
    columns: tuple[str, ...]
    rows: list[dict[str, str]]


def golden_table(session: Session, slug: str) -> OutTable:
    """Return all golden records in force, one a row."""
    register = register_by_slug(session, slug)
    layout = layout_of(register)
    active = store.all_active(session, register.id)
    sizes = store.members_of(session, [golden.id for golden in active])
    rows = [{"golden_key": golden.key, "records": str(len(sizes[golden.id])), **golden.values} for golden in active]
    return OutTable(f"{register.slug}-golden", ("golden_key", "records", *layout.names), rows)


def crosswalk_table(session: Session, slug: str) -> OutTable:
    """Return which source record belongs to which golden record."""
    register = register_by_slug(session, slug)
    rows = [
        {"source": source, "source_id": record, "golden_key": key}
        for source, record, key in store.crosswalk_rows(session, register.id)
    ]
    return OutTable(f"{register.slug}-crosswalk", ("source", "source_id", "golden_key"), rows)


TABLES = {"golden": golden_table, "crosswalk": crosswalk_table}


def out_tables(session: Session, slug: str) -> Iterator[OutTable]:
    """Yield every table of a register."""
    for make in TABLES.values():
        yield make(session, slug)
