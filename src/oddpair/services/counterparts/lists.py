"""Counterpart lists as wholes: made of a file, set, run again, forgotten."""

from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...core.mapping import Assignment, propose_mapping, proposed_mapping, validate_mapping
from ...files import open_table
from ...store import counterparts as store
from ...store.counters import counters_of
from ...store.locks import lock_settings
from ...store.registers import register_by_slug
from ...store.tables import CounterpartList, Job, Register
from .. import work
from ..offline.read_files import column_samples
from ..state.layouts import layout_of
from ..state.mappings import mapping_document
from .settings import ListSettings

__all__ = [
    "CounterpartList",
    "ask_to_run",
    "change",
    "follow",
    "forget",
    "is_stale",
    "list_named",
    "lists",
    "make",
    "replace_file",
]


def lists(session: Session, slug: str) -> Sequence[CounterpartList]:
    """Return the counterpart lists of a register, by name."""
    return store.lists_of(session, register_by_slug(session, slug).id)


def list_named(session: Session, slug: str, name: str) -> CounterpartList:
    """Return a list of a register; raise NotFound."""
    found = store.list_by_name(session, register_by_slug(session, slug).id, name)
    if found is None:
        raise NotFound("counterpart list", name)
    return found


def make(
    session: Session, slug: str, *, name: str, stored: Path, file_name: str, settings: ListSettings, actor: str
) -> CounterpartList:
    """Make a list of a stored file, with the mapping that its columns propose; raise InputError if the file cannot be read."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    if not name.strip():
        raise Refused("A counterpart list needs a name.")
    if store.list_by_name(session, register.id, name.strip()):
        raise Conflict(f"There is a counterpart list '{name.strip()}' already.")
    settings.check(layout_of(register))
    columns, mapping = _described(register, stored, file_name)
    made = CounterpartList(
        register_id=register.id, name=name.strip(), file_name=file_name, stored_as=stored.name, columns=columns, mapping=mapping,
        settings=settings.document(), actor=actor, created_at=datetime.now(UTC),
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def _described(register: Register, stored: Path, file_name: str) -> tuple[list[str], list[dict[str, str]]]:
    table = open_table(stored, file_name)
    proposed = proposed_mapping(propose_mapping(layout_of(register), column_samples(table)))
    return list(table.columns), mapping_document(proposed)


def replace_file(session: Session, slug: str, name: str, *, stored: Path, file_name: str) -> CounterpartList:
    """Take a newer file for a list: the mapping stays for columns that are still there, and so does what people said."""
    found = list_named(session, slug, name)
    register = session.get_one(Register, found.register_id)
    columns, proposed = _described(register, stored, file_name)
    kept = [item for item in found.mapping if not item.get("column") or item["column"] in columns]
    known = set(found.columns)
    taken = {item["field"] for item in kept}
    fresh = [item for item in proposed if item.get("column") not in known and item["field"] not in taken]
    found.file_name, found.stored_as, found.columns, found.mapping = file_name, stored.name, columns, kept + fresh
    found.counts, found.ran_at, found.records_version = None, None, None
    store.forget_results(session, found.id)
    return found


def change(
    session: Session, slug: str, name: str, *, settings: ListSettings, mapping: Sequence[Assignment], follows: bool
) -> CounterpartList:
    """Change how a list is looked up; raise MappingInvalid, PlanInvalid or Refused with what is wrong."""
    found = list_named(session, slug, name)
    layout = layout_of(session.get_one(Register, found.register_id))
    settings.check(layout)
    found.mapping = mapping_document(validate_mapping(layout, found.columns, mapping))
    found.settings, found.follows = settings.document(), follows
    return found


def is_stale(session: Session, found: CounterpartList) -> bool:
    """Whether the register's records changed since the list was run."""
    return found.records_version != counters_of(session, found.register_id).records_version


def forget(session: Session, slug: str, name: str) -> None:
    """Remove a list with all that was found and said."""
    store.forget_list(session, list_named(session, slug, name).id)


def ask_to_run(session: Session, slug: str, name: str, *, actor: str) -> Job:
    """Ask for the rows of a list to be looked up, in the background."""
    found = list_named(session, slug, name)
    return work.ask_for(session, slug, "counterparts", f"Counterparts of {found.name}", _arguments(slug, found, actor))


def _arguments(slug: str, found: CounterpartList, actor: str) -> dict[str, Any]:
    return {"register": slug, "list": found.id, "actor": actor}


def follow(session: Session, slug: str) -> None:
    """Ask for those lists to be run again that follow the register, since its records or golden records changed."""
    for found in lists(session, slug):
        if found.follows:
            arguments = _arguments(slug, found, found.actor)
            work.follow_up(session, slug, "counterparts", f"Counterparts of {found.name}", arguments)
