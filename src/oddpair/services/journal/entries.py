"""The journal as people read it, and whether its chains hold."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from ...store import journal as store
from ...store.registers import all_registers, register_by_slug
from ...store.sealing import broken_seal


@dataclass(frozen=True, slots=True)
class Entry:
    """An act: what was done, by whom and when."""

    id: int
    position: int
    kind: str
    summary: str
    actor: str
    at: datetime
    undoes: int | None
    hash: str


@dataclass(frozen=True, slots=True)
class JournalPage:
    """A page of entries, newest first, and the position behind which the next page begins."""

    entries: list[Entry]
    behind: int | None


def journal_page(session: Session, slug: str, *, before: int | None, limit: int) -> JournalPage:
    """Return a page of a register's journal."""
    found = store.entries(session, register_by_slug(session, slug).id, before=before, limit=limit)
    entries = [
        Entry(
            entry.id, entry.position, entry.kind, str((entry.personal or {}).get("summary") or entry.kind), entry.actor, entry.at,
            entry.undoes, entry.hash,
        )
        for entry in found
    ]  # fmt: skip
    return JournalPage(entries, found[-1].position if len(found) == limit else None)


@dataclass(frozen=True, slots=True)
class ChainState:
    """Whether the chain of a register holds: how many entries there are, and what is wrong with which of them."""

    name: str
    entries: int
    problems: list[str]


def verify(session: Session) -> Iterator[ChainState]:
    """Go through every chain of the journal, entry by entry with its moves, and tell what does not fit."""
    names = {register.id: register.name for register in all_registers(session)} | {0: "what all registers share"}
    for chain in store.chains(session):
        previous, position, problems = "", 0, list[str]()
        for entry in store.all_of_chain(session, chain):
            position += 1
            wrong = broken_seal(entry, previous)
            if entry.position != position:
                wrong = wrong or f"is not number {position}; entries before it are missing"
                position = entry.position
            moves = entry.data.get("moves")
            if moves and moves != store.sum_of(store.moves_of(session, entry.id)):
                wrong = wrong or "its moves were changed"
            if wrong:
                problems.append(f"entry {entry.id} ({entry.kind}, {entry.at:%Y-%m-%d %H:%M}) {wrong}")
            previous = entry.hash
        yield ChainState(names.get(chain, f"register {chain}"), position, problems)
