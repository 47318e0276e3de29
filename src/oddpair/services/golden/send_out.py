"""Sending out: golden records, the crosswalk both ways, keys, and changes as tables, row by row, so that memory is bounded."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from functools import partial, reduce

import orjson
from sqlalchemy.orm import Session

from ...core.errors import Refused, did_you_mean
from ...core.fields import Layout
from ...core.standard import for_people, standard_values, with_regions_named, with_streets_abbreviated
from ...core.survivorship import Contributor, all_values
from ...store import send_out as store
from ...store.registers import register_by_slug
from ...store.tables import Register
from ..state.layouts import layout_of
from ..state.projection import in_form
from .golden_list import Asked, filter_of

#: How values are written: as the register gives them, in standard form, or as people read them.
WRITTEN = ("as kept", "standard", "for people")
_KEY, _RECORDS = "golden_key", "records"
#: The column for all values of a unit, and what stands between them.
_ALL, _BETWEEN = ".all", " | "


@dataclass(frozen=True, slots=True)
class OutTable:
    """A table on its way out; its rows are read as they are asked for."""

    name: str
    columns: tuple[str, ...]
    rows: Iterator[dict[str, str]]


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is sent out of a table: of golden records those ``asked`` for, of their ``columns`` the chosen ones in that order (none: all),
    ``written`` how, by choice with ``short_streets`` or ``region_names``, and with a ``further`` column per unit for all distinct values
    that members hold; of changes those ``since`` a moment.
    """

    columns: tuple[str, ...] = ()
    asked: Asked = field(default_factory=Asked)
    written: str = WRITTEN[0]
    since: datetime | None = None
    further: bool = False
    short_streets: bool = False
    region_names: bool = False


EVERYTHING = Wanted()


def golden_table(session: Session, slug: str, wanted: Wanted = EVERYTHING) -> OutTable:
    """Return golden records in force, one a row, by number."""
    register = register_by_slug(session, slug)
    layout = layout_of(register)
    every = (_KEY, _RECORDS, *layout.names)
    _check_columns(wanted, every)
    only = filter_of(session, register, wanted.asked)
    lines = store.golden_lines(session, register.id, only, with_members=wanted.further)
    write = _writer(layout, wanted)
    held = _writer(layout, wanted, partial(in_form, layout, register.form))
    columns = wanted.columns or every
    if not wanted.further:
        return OutTable(f"{register.slug}-golden", columns, _golden_rows(lines, write))
    further = tuple(
        unit + _ALL for unit, fields in layout.groups.items() if {one.name for one in fields} & set(columns)
    )
    return OutTable(f"{register.slug}-golden", (*columns, *further), _rows_with_all(layout, lines, write, held))


def _check_columns(wanted: Wanted, known: tuple[str, ...]) -> None:
    for column in wanted.columns:
        if column not in known:
            raise Refused(f"Golden records have no column '{column}'.{did_you_mean(column, known)}")


Write = Callable[[Mapping[str, str]], Mapping[str, str]]


def _writer(layout: Layout, wanted: Wanted, as_kept: Write = lambda values: values) -> Write:
    """Return what writes values as it is wanted; ``as_kept`` gives them as the register does."""
    if wanted.written not in WRITTEN:
        raise Refused(f"Values cannot be written '{wanted.written}', only {', '.join(WRITTEN)}.")
    steps: list[Write] = [as_kept] if wanted.written == WRITTEN[0] else [partial(standard_values, layout)]
    if wanted.short_streets:
        steps.append(with_streets_abbreviated)
    if wanted.region_names:
        steps.append(with_regions_named)
    if wanted.written == "for people":
        steps.append(partial(for_people, layout))
    return lambda values: reduce(lambda written, step: step(written), steps, values)


def _golden_rows(lines: Iterator[bytes], write: Write) -> Iterator[dict[str, str]]:
    for line in lines:
        key, size, values = line.split(b"\x01")
        yield {_KEY: orjson.loads(key), _RECORDS: size.decode(), **write(orjson.loads(values))}


def _rows_with_all(layout: Layout, lines: Iterator[bytes], write: Write, held: Write) -> Iterator[dict[str, str]]:
    for line in lines:
        key, size, kept, members = line.split(b"\x01")
        values = write(orjson.loads(kept))
        row = {_KEY: orjson.loads(key), _RECORDS: size.decode(), **values}
        contributors = [Contributor(record, source, 1, "", own, {}) for source, record, own in orjson.loads(members)]
        several: dict[str, list[str]] = {}
        for held_value in all_values(layout, contributors, values, held, {}):
            texts = held_value.values
            # A whole name says what its parts say.
            whole = texts.get(held_value.unit) or ", ".join(texts.values())
            several.setdefault(held_value.unit, []).append(whole)
        yield row | {unit + _ALL: _BETWEEN.join(dict.fromkeys(texts)) for unit, texts in several.items()}


def crosswalk_table(session: Session, slug: str, wanted: Wanted = EVERYTHING) -> OutTable:
    """Return which golden record every source record belongs to, by source."""
    register = register_by_slug(session, slug)
    lines = store.crosswalk_lines(session, register.id)
    return OutTable(f"{slug}-crosswalk", ("source", "source_id", _KEY), _rows(("source", "source_id", _KEY), lines))


def members_table(session: Session, slug: str, wanted: Wanted = EVERYTHING) -> OutTable:
    """Return which source records every golden record stands for, by golden key."""
    register = register_by_slug(session, slug)
    lines = store.crosswalk_lines(session, register.id, by_golden=True)
    return OutTable(f"{slug}-members", (_KEY, "source", "source_id"), _rows(("source", "source_id", _KEY), lines))


def keys_table(session: Session, slug: str, wanted: Wanted = EVERYTHING) -> OutTable:
    """Return all keys ever given, with where retired ones lead."""
    register = register_by_slug(session, slug)
    columns = (_KEY, "state", "leads_to")
    return OutTable(f"{slug}-keys", columns, _rows(columns, store.key_lines(session, register.id)))


def _rows(columns: tuple[str, ...], lines: Iterator[bytes]) -> Iterator[dict[str, str]]:
    for line in lines:
        yield dict(zip(columns, map(orjson.loads, line.split(b"\x01")), strict=True))


#: A change: its kind, whose golden record, the other key it is about, and the field with its old and new value.
_CHANGES = ("change", _KEY, "other_key", "field", "old", "new")


def changes_table(session: Session, slug: str, wanted: Wanted = EVERYTHING) -> OutTable:
    """Return what changed since a moment: added, changed field by field, merged into, split into, ended; one row each."""
    register = register_by_slug(session, slug)
    _check_columns(wanted, layout_of(register).names)
    since = wanted.since or register.created_at
    lines = store.change_lines(session, register.id, since)
    return OutTable(f"{slug}-changes", _CHANGES, _changes(register, lines, wanted))


def _changes(register: Register, lines: Iterator[bytes], wanted: Wanted) -> Iterator[dict[str, str]]:
    layout = layout_of(register)
    write = _writer(layout, wanted)
    names = wanted.columns or layout.names
    for line in lines:
        key, is_new, was, is_now, before, after, leads, origins = map(orjson.loads, line.split(b"\x01"))
        then, now = bool(was) and not is_new, bool(is_now)
        if now and not then:
            yield {"change": "added", _KEY: key}
            yield from ({"change": "split into", _KEY: origin, "other_key": key} for origin in origins)
            old: Mapping[str, str] = {}
        elif then and not now:
            yield {"change": "merged into", _KEY: key, "other_key": leads} if leads else {"change": "ended", _KEY: key}
            continue
        elif not now:
            continue
        else:
            old = write(before)
        new = write(after)
        for name in names:
            if old.get(name, "") != new.get(name, ""):
                row = {_KEY: key, "field": name, "old": old.get(name, ""), "new": new.get(name, "")}
                yield {"change": "changed" if then else "added", **row}


Make = Callable[[Session, str, Wanted], OutTable]
TABLES: Mapping[str, Make] = {
    "golden": golden_table, "crosswalk": crosswalk_table, "members": members_table, "keys": keys_table,
    "changes": changes_table,
}  # fmt: skip
_CARDS = "vcf"
#: What is written where nobody says which.
_USUAL = ("golden", "crosswalk")


def out_table(session: Session, slug: str, table: str, wanted: Wanted, file_format: str = "csv") -> OutTable:
    """Return a table by its name; raise Refused where the format has no place for it."""
    if file_format == _CARDS and table != "golden":
        raise Refused("Only golden records can be sent out as vCards.")
    if table != "golden" and (wanted.asked != Asked() or wanted.further):
        raise Refused("Only golden records are filtered, and only they have columns for all values.")
    otherwise = wanted.written != WRITTEN[0] or wanted.short_streets or wanted.region_names
    if table not in ("golden", "changes") and (wanted.columns or otherwise):
        raise Refused(f"The table of {table} has no values of fields that could be chosen or written otherwise.")
    return TABLES[table](session, slug, wanted)


def out_tables(session: Session, slug: str) -> Iterator[OutTable]:
    """Yield the usual tables of a register, each to be read before the next."""
    for table in _USUAL:
        yield out_table(session, slug, table, EVERYTHING)
