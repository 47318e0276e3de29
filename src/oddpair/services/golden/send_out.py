"""Sending out: golden records and the crosswalk as tables, row by row, so that memory is bounded."""

from collections.abc import Iterator
from dataclasses import dataclass

import orjson
from sqlalchemy.orm import Session

from ...store import golden as store
from ...store.registers import register_by_slug
from ..state.layouts import layout_of

_CROSSWALK = ("source", "source_id", "golden_key")


@dataclass(frozen=True, slots=True)
class OutTable:
    """A table on its way out; its rows are read as they are asked for."""

    name: str
    columns: tuple[str, ...]
    rows: Iterator[dict[str, str]]


def golden_table(session: Session, slug: str) -> OutTable:
    """Return all golden records in force, one a row, by number."""
    register = register_by_slug(session, slug)
    columns = ("golden_key", "records", *layout_of(register).names)
    return OutTable(f"{register.slug}-golden", columns, _golden_rows(store.golden_lines(session, register.id)))


def _golden_rows(lines: Iterator[bytes]) -> Iterator[dict[str, str]]:
    for line in lines:
        key, size, values = line.split(b"\x01")
        yield {"golden_key": orjson.loads(key), "records": size.decode(), **orjson.loads(values)}


def crosswalk_table(session: Session, slug: str) -> OutTable:
    """Return which source record belongs to which golden record."""
    register = register_by_slug(session, slug)
    return OutTable(
        f"{register.slug}-crosswalk", _CROSSWALK, _crosswalk_rows(store.crosswalk_lines(session, register.id))
    )


def _crosswalk_rows(lines: Iterator[bytes]) -> Iterator[dict[str, str]]:
    for line in lines:
        yield dict(zip(_CROSSWALK, map(orjson.loads, line.split(b"\x01")), strict=True))


TABLES = {"golden": golden_table, "crosswalk": crosswalk_table}


def out_tables(session: Session, slug: str) -> Iterator[OutTable]:
    """Yield every table of a register, each to be read before the next."""
    for make in TABLES.values():
        yield make(session, slug)
