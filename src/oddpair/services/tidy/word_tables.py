"""Keeping swap lists and value maps: made, changed, brought in and sent out as CSV; what each entry touches."""

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote

from sqlalchemy.orm import Session

from ...core.errors import Conflict, InputError, Refused
from ...core.sign_off import Facts, Matter
from ...core.tidying.nearest import NearestValue
from ...core.tidying.ready_made import ready_made
from ...core.tidying.word_tables import TableKind, checked_entries, looked_up
from ...files import Row, open_table
from ...store import journal
from ...store import tidying as store
from ...store.locks import lock_chain
from ...store.registers import register_by_slug
from ...store.tables import Register, WordTableVersion
from .. import work
from ..proposals.gate import Intent, ask_second_yes, changed_entries
from ..state.tidy_steps_in_force import word_tables

TABLE = "table"
#: A table as it is kept.
Table = WordTableVersion
_NAME = re.compile(r"[\w .&\-]{1,60}")
_VALUES_LOOKED_AT = 50_000
_UNMAPPED_SHOWN = 100


def make_table(
    session: Session, name: str, kind: TableKind, *, ready: str = "", entries: Iterable[tuple[str, str]] = (), actor: str
) -> WordTableVersion:  # fmt: skip
    """Make a table with these entries or those of a ready-made one; raise Refused if the name is taken, or both are given."""
    lock_chain(session, 0)
    name = " ".join(name.split())
    if not _NAME.fullmatch(name):
        raise Refused(f"'{name}' cannot name a table; use up to 60 letters, digits, blanks, dots and dashes.")
    if store.tables_in_force(session, [name]):
        raise Refused(f"There is a table '{name}' already.")
    if ready and entries:
        raise Refused("A table starts from a ready-made one or with entries of its own, not with both.")
    if ready:
        kind, entries = ready_made(ready)
    return _keep(session, name, 1, kind, entries, actor=actor, note=f"made from '{ready}'" if ready else "made")


def _keep(
    session: Session,
    name: str,
    version: int,
    kind: TableKind,
    entries: Iterable[tuple[str, str]],
    *,
    actor: str,
    note: str,
) -> WordTableVersion:
    checked = [list(entry) for entry in checked_entries(entries)]
    fresh = WordTableVersion(name=name, version=version, kind=kind.value, entries=checked, actor=actor, note=note)
    session.add(fresh)
    journal.append(
        session, 0, "table", actor=actor, data={"name": name, "version": version, "kind": kind.value},
        personal={"summary": f"Set the table '{name}', version {version}", "entries": checked, "note": note},
    )  # fmt: skip
    session.refresh(fresh)
    for register_id in store.registers_with_table(session, name):
        register = session.get_one(Register, register_id)
        data = {"name": name, "version": version}
        journal.append(
            session, register_id, "table", actor=actor, data=data, personal={"summary": f"The table '{name}' changed"}
        )
        work.follow_up(session, register.slug, "tidy", "Tidy again", {"register": register.slug})
    return fresh


def save_table(
    session: Session, name: str, entries: Iterable[Sequence[str]], *, seen_version: int, actor: str, note: str = ""
) -> WordTableVersion:
    """Keep a new version of a table; raise InputError naming the row, or Conflict if it changed meanwhile."""
    lock_chain(session, 0)
    present = store.table_by_name(session, name)
    if present.version != seen_version:
        raise Conflict(
            f"'{name}' was changed by {present.actor} meanwhile (version {present.version}). Reload to see it."
        )
    wished = [(source, target) for source, target in entries]
    for register_id in store.registers_with_table(session, name):
        _ask(session, session.get_one(Register, register_id), present, wished, note, actor)
    return _keep(session, name, present.version + 1, TableKind(present.kind), wished, actor=actor, note=note)


def _ask(
    session: Session, register: Register, present: WordTableVersion, entries: Sequence[tuple[str, str]], note: str, actor: str
) -> None:  # fmt: skip
    """Let a change of a table go on; where a register that uses it has such things signed off, it is proposed there."""
    arguments = {
        "name": present.name,
        "entries": [list(one) for one in entries],
        "seen_version": present.version,
        "note": note,
    }
    was = {source: target for source, target in present.entries}  # noqa: C416 - lists, of which dict() makes no pairs for the checker
    will = dict(entries)
    told = f"Set the table '{present.name}', version {present.version + 1}"
    intent = Intent(
        TABLE, arguments, Facts(Matter.PLAN, f"table {present.name}"), told, changed_entries(was, will),
        leads_to=f"tidy/tables/{quote(present.name)}",
    )  # fmt: skip
    ask_second_yes(session, register, intent, actor=actor)


def entries_of_file(path: Path, file_name: str) -> list[tuple[str, str]]:
    """Return the entries of a table file: its first two columns; raise InputError naming the row."""
    table = open_table(path, file_name)
    if len(table.columns) < 2:
        raise InputError(
            "a swap list or value map has two columns: what is found, and what replaces it", file=file_name
        )
    source, target = table.columns[:2]
    entries = []
    for row in table.rows():
        if not isinstance(row, Row):
            raise InputError(row.reason, file=file_name, row=row.number, column=row.column)
        if row.values.get(source):
            entries.append((row.values[source], row.values.get(target, "")))
    return entries


@dataclass(frozen=True, slots=True)
class Usage:
    """What a table touches in a field: records per entry, and values that a value map does not know."""

    touched: dict[str, int]
    unmapped: list["Unmapped"]
    records_unmapped: int


@dataclass(frozen=True, slots=True)
class Unmapped:
    """A value that a value map does not know: how many records hold it, and the nearest value it does know."""

    value: str
    records: int
    nearest: str


def usage(session: Session, name: str, slug: str, field: str) -> Usage:
    """Return what a table touches among the delivered values of a field."""
    register = register_by_slug(session, slug)
    table = word_tables(session, [store.table_by_name(session, name).name])[name]
    touched: Counter[str] = Counter()
    unknown: Counter[str] = Counter()
    values = store.distinct_values(session, register.id, [field], limit=_VALUES_LOOKED_AT, filled=True)
    for records, (value,) in values:
        entries = set(table.touched_by(value))
        touched.update(dict.fromkeys(entries, records))
        if not entries and looked_up(value) not in table.standard_values:
            unknown[value] += records
    if table.kind is TableKind.SWAP_LIST:
        return Usage(dict(touched), [], 0)
    most = sorted(unknown.items(), key=lambda item: (-item[1], item[0]))[:_UNMAPPED_SHOWN]
    nearest = NearestValue(table)
    return Usage(
        dict(touched), [Unmapped(value, records, nearest(value)) for value, records in most], sum(unknown.values())
    )


def tables(session: Session) -> Sequence[WordTableVersion]:
    """Return all tables in force, by name."""
    return store.tables_in_force(session)


def table(session: Session, name: str) -> tuple[WordTableVersion, Sequence[WordTableVersion]]:
    """Return (the table in force, all its versions, newest first); raise NotFound."""
    return store.table_by_name(session, name), store.table_versions(session, name)
