"""Records that leave their golden records or come back into them, and golden records that are made: moves of an act."""

from collections.abc import Collection, Mapping, Sequence

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...store import journal
from ...store.bulk import copy_ids
from ...store.golden import take_keys
from ...store.membership import apply_moves, changed_since, golden_of
from ...store.tables import Register

Groups = Mapping[int, Sequence[int]]


def moves_between(part: int, before: Groups, after: Groups) -> list[journal.MoveRow]:
    """Return the moves that turn groups of records, by golden id, into other groups."""
    was = {record: golden for golden, records in before.items() for record in records}
    becomes = {record: golden for golden, records in after.items() for record in records}
    return [
        (part, record, was.get(record), becomes.get(record))
        for record in sorted(was.keys() | becomes.keys())
        if was.get(record) != becomes.get(record)
    ]


def new_golden(session: Session, register: Register, count: int) -> list[int]:
    """Take the next keys for ``count`` golden records; return their ids in that order. Their values follow with ``refresh``."""
    return take_keys(session, register, count)


def make_moves(session: Session, entry_id: int, moves: Sequence[journal.MoveRow]) -> dict[str, object]:
    """Write the moves of a reserved entry and make membership true; return what the entry's data says of them."""
    about = journal.write_moves(session, entry_id, moves)
    apply_moves(session, entry_id)
    return about


#: Where a record that comes back was when it left: the golden record of its latest move, if that took it out of the register.
_LEFT_FROM = text("""
    SELECT DISTINCT ON (m.record_id) m.record_id, m.from_golden, m.to_golden, m.id
    FROM moves m JOIN came_back r ON r.id = m.record_id ORDER BY m.record_id, m.id DESC
""")


def leave_and_return(
    session: Session, register: Register, entry_id: int, *, withdrawn: Collection[int], returned: Collection[int]
) -> tuple[dict[str, object], set[int]]:
    """Take withdrawn records out of their golden records and let others return; return (about the moves, golden ids touched).

    A record returns into the golden record that it left, if that one holds now what it held then.
    """
    moves: list[journal.MoveRow] = []
    touched: set[int] = set()
    part = 0
    for record, golden in golden_of(session, withdrawn).items():
        if golden not in touched:
            touched.add(golden)
            part += 1
        moves.append((part, record, golden, None))
    for golden, records in _returning(session, returned).items():
        part += 1
        moves += [(part, record, None, golden) for record in records]
        touched.add(golden)
    return make_moves(session, entry_id, moves), touched


def _returning(session: Session, returned: Collection[int]) -> dict[int, list[int]]:
    """Return golden id → records that may return into it."""
    if not returned:
        return {}
    copy_ids(session, "came_back", returned)
    left: dict[int, list[int]] = {}
    latest: dict[int, int] = {}
    for record, from_golden, to_golden, move in session.execute(_LEFT_FROM):
        if to_golden is None and from_golden is not None:
            left.setdefault(from_golden, []).append(record)
            latest[from_golden] = max(latest.get(from_golden, 0), move)
    changed = changed_since(session, latest)
    return {golden: records for golden, records in sorted(left.items()) if golden not in changed}
