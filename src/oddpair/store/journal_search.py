"""Looking through a chain of the journal: by person, kind, time, words, and by the record or golden record that was touched."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, Select, String, Text, cast, func, or_, select, text, union
from sqlalchemy.orm import Session

from .tables import Decision, GroupDecision, GroupMember, JournalEntry, JournalTouch, Move

#: Words have no index: so many entries are looked through for them, then one is told how far one looked.
LOOKED_THROUGH = 20_000
_STREAMED = 1000


@dataclass(frozen=True, slots=True)
class Sought:
    """What is looked for; whatever is "" or None is not asked. ``words`` stand in what an entry says, its reason or its values."""

    actor: str = ""
    kind: str = ""
    since: datetime | None = None
    until: datetime | None = None
    words: str = ""
    record_id: int | None = None
    golden_id: int | None = None


def entries_sought(
    session: Session,
    chain: int,
    sought: Sought,
    *,
    before: int | None,
    limit: int,
    looked_through: int = LOOKED_THROUGH,
) -> tuple[Sequence[JournalEntry], int | None]:
    """Return entries, newest first, and the position behind which to look further; None where there is nothing more."""
    query = _chosen(chain, sought)
    if before is not None:
        query = query.where(JournalEntry.position < before)
    query = query.order_by(JournalEntry.position.desc())
    if not sought.words:
        found = session.scalars(query.limit(limit)).all()
        return found, found[-1].position if len(found) == limit else None
    looked = query.limit(looked_through).subquery()
    ids = select(looked.c.id).where(_says(looked.c.personal, looked.c.actor, sought.words)).limit(limit)
    found = session.scalars(
        select(JournalEntry).where(JournalEntry.id.in_(ids)).order_by(JournalEntry.position.desc())
    ).all()
    if len(found) == limit:
        return found, found[-1].position
    last, count = session.execute(select(func.min(looked.c.position), func.count())).one()
    return found, last if count == looked_through else None


def all_sought(session: Session, chain: int, sought: Sought) -> Iterator[JournalEntry]:
    """Yield all entries that are looked for, oldest first."""
    query = _chosen(chain, sought)
    if sought.words:
        query = query.where(_says(JournalEntry.__table__.c.personal, JournalEntry.__table__.c.actor, sought.words))
    query = query.order_by(JournalEntry.position)
    yield from session.scalars(query.execution_options(yield_per=_STREAMED))


def _says(personal: ColumnElement[Any], actor: ColumnElement[Any], words: str) -> ColumnElement[bool]:
    plain = words.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    return or_(cast(personal, Text).ilike(f"%{plain}%"), actor.ilike(f"%{plain}%"))


def _chosen(chain: int, sought: Sought) -> Select[JournalEntry]:
    query = select(JournalEntry).where(JournalEntry.chain == chain)
    if sought.actor:
        query = query.where(JournalEntry.actor == sought.actor)
    if sought.kind:
        query = query.where(JournalEntry.kind == cast(sought.kind, String))
    if sought.since is not None:
        query = query.where(JournalEntry.at >= sought.since)
    if sought.until is not None:
        query = query.where(JournalEntry.at < sought.until)
    if sought.record_id is not None:
        query = query.where(JournalEntry.id.in_(_about_record(sought.record_id)))
    if sought.golden_id is not None:
        query = query.where(JournalEntry.id.in_(_about_golden(sought.golden_id)))
    return query


def _about_record(record_id: int) -> Select[int]:
    """Return the numbers of entries that touched a record, moved it, or decided about it."""
    found = union(
        select(JournalTouch.journal_id).where(JournalTouch.what == "record", JournalTouch.touched == record_id),
        select(Move.journal_id).where(Move.record_id == record_id),
        select(Decision.journal_id).where(or_(Decision.left_id == record_id, Decision.right_id == record_id)),
        select(GroupDecision.journal_id).join(GroupMember).where(GroupMember.record_id == record_id),
    ).subquery()
    return select(found.c.journal_id)


def _about_golden(golden_id: int) -> Select[int]:
    """Return the numbers of entries that touched a golden record, or moved records into or out of it."""
    found = union(
        select(JournalTouch.journal_id).where(JournalTouch.what == "golden", JournalTouch.touched == golden_id),
        select(Move.journal_id).where(Move.from_golden == golden_id),
        select(Move.journal_id).where(Move.to_golden == golden_id),
    ).subquery()
    return select(found.c.journal_id)


_LOOSE = """
    WITH RECURSIVE found AS (
        (SELECT {column} AS value FROM journal WHERE chain = :chain ORDER BY {column} LIMIT 1)
        UNION ALL
        SELECT (SELECT {column} FROM journal WHERE chain = :chain AND {column} > found.value ORDER BY {column} LIMIT 1)
        FROM found WHERE found.value IS NOT NULL
    ) SELECT value FROM found WHERE value IS NOT NULL
"""


def kinds_of(session: Session, chain: int) -> list[str]:
    """Return which kinds of entries a chain has, from its index alone."""
    return list(session.scalars(text(_LOOSE.format(column="kind")), {"chain": chain}))


def actors_of(session: Session, chain: int) -> list[str]:
    """Return who made entries of a chain, from its index alone."""
    return list(session.scalars(text(_LOOSE.format(column="actor")), {"chain": chain}))


def touched_by(session: Session, entry_id: int, limit: int) -> list[tuple[str, int]]:
    """Return what an entry touches besides its moves: (what, number)."""
    query = select(JournalTouch.what, JournalTouch.touched).where(JournalTouch.journal_id == entry_id)
    ordered = query.order_by(JournalTouch.what, JournalTouch.touched).limit(limit)
    return [(row[0], row[1]) for row in session.execute(ordered)]


def undone_by(session: Session, entry_id: int) -> list[int]:
    """Return the entries that take something of an entry back."""
    return list(
        session.scalars(select(JournalEntry.id).where(JournalEntry.undoes == entry_id).order_by(JournalEntry.id))
    )


def first_moves(session: Session, entry_id: int, limit: int) -> list[tuple[int, int | None, int | None]]:
    """Return the first moves of an entry: (record, from which golden record, into which one)."""
    query = select(Move.record_id, Move.from_golden, Move.to_golden).where(Move.journal_id == entry_id)
    return [(row[0], row[1], row[2]) for row in session.execute(query.order_by(Move.part, Move.record_id).limit(limit))]
