"""Decisions that cannot all be right: A is B, B is C, but A is not C."""

from collections import deque
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...store.decisions import DecisionInForce, decided_around, decisions_in_force, latest_decided
from ...store.registers import register_by_slug

#: Chains of decisions are followed through so many records.
_MOST_RECORDS = 500


@dataclass(frozen=True, slots=True)
class Contradiction:
    """A decided *different* and the chain of *same* decisions that says otherwise."""

    different: DecisionInForce
    chain: tuple[DecisionInForce, ...]


def contradictions(session: Session, slug: str, limit: int = 50) -> list[Contradiction]:
    """Return the decisions of a register that contradict each other, by the order in which the *different* ones were made."""
    decided = decisions_in_force(session, register_by_slug(session, slug).id)
    return _among(decided)[:limit]


def latest_contradictions(session: Session, register_id: int, latest: int = 200) -> list[Contradiction]:
    """Return the contradictions that the latest decisions of a register take part in."""
    return contradictions_of(session, register_id, latest_decided(session, register_id, latest))


def contradictions_of(session: Session, register_id: int, records: Iterable[int]) -> list[Contradiction]:
    """Return the contradictions that decisions about records take part in."""
    known = set(records)
    decided: list[DecisionInForce] = []
    fresh = known
    while fresh and (not decided or len(known) <= _MOST_RECORDS):
        decided = decided_around(session, register_id, sorted(known))
        fresh = {end for one in decided if one.verdict == "same" for end in (one.left_id, one.right_id)} - known
        known |= fresh
    return _among(decided)


def _among(decided: Sequence[DecisionInForce]) -> list[Contradiction]:
    links: dict[int, list[DecisionInForce]] = {}
    for one in decided:
        if one.verdict == "same":
            links.setdefault(one.left_id, []).append(one)
            links.setdefault(one.right_id, []).append(one)
    found = []
    for one in decided:
        if one.verdict == "different" and one.left_id in links and one.right_id in links:
            chain = _chain(links, one.left_id, one.right_id)
            if chain:
                found.append(Contradiction(one, chain))
    return found


def _chain(links: Mapping[int, Sequence[DecisionInForce]], start: int, end: int) -> tuple[DecisionInForce, ...]:
    """Return the shortest chain of *same* decisions between two records; empty if there is none."""
    came: dict[int, DecisionInForce | None] = {start: None}
    waiting = deque([start])
    while waiting:
        record = waiting.popleft()
        if record == end:
            break
        for link in links.get(record, ()):
            other = link.right_id if link.left_id == record else link.left_id
            if other not in came:
                came[other] = link
                waiting.append(other)
    chain: list[DecisionInForce] = []
    record, came_by = end, came.get(end)
    while came_by is not None:
        chain.insert(0, came_by)
        record = came_by.left_id if came_by.right_id == record else came_by.right_id
        came_by = came.get(record)
    return tuple(chain)
