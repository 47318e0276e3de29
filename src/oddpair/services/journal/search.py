"""The journal for who looks things up in it: searched, an entry in full, and all of it to take along."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import orjson
from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...store import journal_search as store
from ...store.golden import golden_by_key, keys_of, records_with_sources
from ...store.journal import entry_by_id
from ...store.registers import register_by_slug
from ...store.tables import JournalEntry
from .entries import Entry, JournalPage

#: The chain of what all registers share: people, swap lists, value maps.
SHARED = ""
_MOST_SHOWN = 200
COLUMNS = ("entry", "position", "at", "by", "kind", "says", "undoes", "rests_on", "data", "values", "hash")


@dataclass(frozen=True, slots=True)
class Asked:
    """What is looked for in the journal, as a person says it; what is "" or None is not asked. ``record`` is a record's number."""

    actor: str = ""
    kind: str = ""
    since: datetime | None = None
    until: datetime | None = None
    words: str = ""
    record: int | None = None
    golden_key: str = ""


@dataclass(frozen=True, slots=True)
class Moved:
    """A record that an entry moved: its source and the source's id, and the keys of the golden records ("" where there was none)."""

    source: str
    source_key: str
    from_key: str
    to_key: str


@dataclass(frozen=True, slots=True)
class WholeEntry:
    """An entry in full. ``values`` are None where they were erased. Of moves and records many are cut short; ``moves`` counts all."""

    entry: Entry
    data: dict[str, Any]
    values: dict[str, Any] | None
    rests_on: list[int]
    undone_by: list[int]
    records: list[tuple[int, str, str]]
    golden: list[str]
    moved: list[Moved]
    moves: int


def _chain(session: Session, slug: str) -> int:
    return register_by_slug(session, slug).id if slug else 0


def _sought(session: Session, chain: int, asked: Asked) -> store.Sought:
    golden = golden_by_key(session, chain, asked.golden_key).id if asked.golden_key else None
    if asked.since and asked.until and asked.since > asked.until:
        raise Refused("The time since which one looks lies after the one until which.")
    return store.Sought(
        actor=asked.actor, kind=asked.kind, since=asked.since, until=asked.until, words=asked.words.strip(),
        record_id=asked.record, golden_id=golden,
    )  # fmt: skip


def shown(entry: JournalEntry) -> Entry:
    """Return an entry as it stands in lists."""
    says = str((entry.personal or {}).get("summary") or entry.kind)
    return Entry(entry.id, entry.position, entry.kind, says, entry.actor, entry.at, entry.undoes, entry.hash)


def search(
    session: Session,
    slug: str,
    asked: Asked,
    *,
    before: int | None,
    limit: int,
    looked_through: int = store.LOOKED_THROUGH,
) -> JournalPage:
    """Return entries of a register's journal, or of what all share, newest first."""
    chain = _chain(session, slug)
    sought = _sought(session, chain, asked)
    found, behind = store.entries_sought(
        session, chain, sought, before=before, limit=limit, looked_through=looked_through
    )
    return JournalPage([shown(entry) for entry in found], behind)


def choices(session: Session, slug: str) -> tuple[list[str], list[str]]:
    """Return by which kinds and by which people a journal can be looked through."""
    chain = _chain(session, slug)
    return store.kinds_of(session, chain), store.actors_of(session, chain)


def whole(session: Session, slug: str, entry_id: int) -> WholeEntry:
    """Return an entry in full; raise NotFound where it is of another journal."""
    entry = entry_by_id(session, entry_id)
    if entry.chain != _chain(session, slug):
        raise NotFound("journal entry", entry_id)
    moves = store.first_moves(session, entry_id, _MOST_SHOWN)
    touched = store.touched_by(session, entry_id, _MOST_SHOWN)
    record_ids = {record for record, _, _ in moves} | {number for what, number in touched if what == "record"}
    records = records_with_sources(session, record_ids)
    golden = {end for _, *ends in moves for end in ends if end is not None}
    keys = keys_of(session, golden | {number for what, number in touched if what == "golden"})
    names = {record: (source.name, found.source_key) for record, (found, source) in records.items()}
    return WholeEntry(
        shown(entry), entry.data, entry.personal, list(entry.rests_on), store.undone_by(session, entry_id),
        [(number, *names[number]) for what, number in touched if what == "record" and number in names],
        [keys[number] for what, number in touched if what == "golden" and number in keys],
        [
            Moved(*names.get(record, ("", "")), keys.get(before or 0, ""), keys.get(after or 0, ""))
            for record, before, after in moves
        ],
        int((entry.data.get("moves") or {}).get("count", 0)),
    )  # fmt: skip


def rows(session: Session, slug: str, asked: Asked) -> Iterator[dict[str, str]]:
    """Yield the entries that are looked for as rows of a table, oldest first; what is nested is JSON."""
    chain = _chain(session, slug)
    for entry in store.all_sought(session, chain, _sought(session, chain, asked)):
        values = (
            entry.id, entry.position, entry.at.isoformat(), entry.actor, entry.kind, shown(entry).summary, entry.undoes or "",
            " ".join(str(one) for one in entry.rests_on), _json(entry.data), "" if entry.personal is None else _json(entry.personal),
            entry.hash,
        )  # fmt: skip
        yield dict(zip(COLUMNS, (str(value) for value in values), strict=True))


def _json(value: Any) -> str:
    return orjson.dumps(value).decode()
