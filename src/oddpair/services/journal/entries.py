"""The journal as people read it, and whether its chains hold."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from ...store import journal as store
from ...store.registers import all_registers, register_by_slug
from ...store.sealing import broken_seal

Progress = Callable[[str, int, int], None]


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
        yield _verified(session, chain, names.get(chain, f"register {chain}"), lambda stage, done, total: None)


def verify_register(session: Session, slug: str, progress: Progress) -> ChainState:
    """Go through the chain of a register."""
    register = register_by_slug(session, slug)
    return _verified(session, register.id, register.name, progress)


def _verified(session: Session, chain: int, name: str, progress: Progress) -> ChainState:
    previous, position, problems = "", 0, list[str]()
    total = store.latest_position(session, chain)
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
        progress("verify", position, total)
    return ChainState(name, position, problems)
