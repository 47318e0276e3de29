"""The journal: entries in chains, what they touch, and the moves of records between golden records."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import func, or_, select, text
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .bulk import NULL, copy_lines, copy_rows
from .locks import lock_chain
from .maintenance import by_index
from .sealing import digest_of, fresh_salt, hash_of
from .tables import JournalEntry, JournalTouch, Move

#: (part, record, from which golden record, into which one).
MoveRow = tuple[int, int, int | None, int | None]
#: Where a session keeps on which entries all that it appends rests: those by which it was signed off.
RESTS_ON = "rests on"


def reserve(session: Session) -> int:
    """Return the number of an entry that is appended later in this transaction, so that moves can name it before."""
    return int(session.execute(text("SELECT nextval(pg_get_serial_sequence('journal', 'id'))")).scalar_one())


def write_moves(session: Session, entry_id: int, moves: Sequence[MoveRow]) -> dict[str, Any]:
    """Write the moves of a reserved entry; return what its data says of them."""
    columns = ("journal_id", "part", "record_id", "from_golden", "to_golden")
    lines = [
        f"{entry_id}\t{part}\t{record}\t{NULL if left is None else left}\t{NULL if into is None else into}\n"
        for part, record, left, into in moves
    ]
    copy_lines(session, "moves", columns, "".join(lines).encode())
    return sum_of(moves)


def sum_of(moves: Sequence[MoveRow]) -> dict[str, Any]:
    """Return what an entry says of its moves: how many there are, and a digest of them in order."""
    return {"count": len(moves), "digest": digest_of(sorted(moves, key=_move_order))}


def append(
    session: Session, chain: int, kind: str, *, actor: str, data: Mapping[str, Any], personal: Mapping[str, Any],
    touches: Iterable[tuple[str, int]] = (), entry_id: int | None = None, undoes: tuple[int, int] | None = None,
    rests_on: Sequence[int] = (),
) -> JournalEntry:  # fmt: skip
    """Append an entry to a chain (the register's number, 0 for what all share) and return it.

    The chain is locked until the transaction ends, so this belongs at its end. ``entry_id`` is the number that was reserved
    for it, if any; ``undoes`` is (entry, part).
    """
    session.flush()
    entry_id = reserve(session) if entry_id is None else entry_id
    lock_chain(session, chain)
    latest = session.execute(
        select(JournalEntry.position, JournalEntry.hash)
        .where(JournalEntry.chain == chain)
        .order_by(JournalEntry.position.desc())
        .limit(1)
    ).first()
    salt = fresh_salt()
    resting = {*rests_on, *session.info.get(RESTS_ON, ())}
    entry = JournalEntry(
        id=entry_id, chain=chain, position=(latest[0] if latest else 0) + 1, kind=kind, actor=actor, at=datetime.now(UTC),
        data=dict(data), personal=dict(personal), salt=salt, digest=digest_of([salt, dict(personal)]),
        undoes=undoes[0] if undoes else None, undoes_part=undoes[1] if undoes else None, rests_on=sorted(resting),
        previous=latest[1] if latest else "", hash="",
    )  # fmt: skip
    entry.hash = hash_of(entry)
    session.add(entry)
    session.flush()
    rows = ((entry_id, *touch) for touch in sorted(set(touches)))
    copy_rows(session, "journal_touches", ("journal_id", "what", "touched"), rows)
    return entry


def _move_order(move: MoveRow) -> tuple[int, int]:
    return move[0], move[1]


def entry_by_id(session: Session, entry_id: int) -> JournalEntry:
    """Return the entry; raise NotFound."""
    entry = session.get(JournalEntry, entry_id)
    if entry is None:
        raise NotFound("journal entry", entry_id)
    return entry


def entries(session: Session, chain: int, *, before: int | None = None, limit: int) -> Sequence[JournalEntry]:
    """Return a page of a chain's entries, newest first; those before the position ``before``."""
    query = select(JournalEntry).where(JournalEntry.chain == chain)
    if before is not None:
        query = query.where(JournalEntry.position < before)
    return session.scalars(query.order_by(JournalEntry.position.desc()).limit(limit)).all()


def latest_of_kind(session: Session, chain: int, kind: str, limit: int) -> Sequence[JournalEntry]:
    """Return the newest entries of a kind, newest first."""
    query = select(JournalEntry).where(JournalEntry.chain == chain, JournalEntry.kind == kind)
    return session.scalars(query.order_by(JournalEntry.position.desc()).limit(limit)).all()


def latest_position(session: Session, chain: int) -> int:
    """Return the position of a chain's newest entry, 0 if there is none."""
    return session.scalar(select(func.max(JournalEntry.position)).where(JournalEntry.chain == chain)) or 0


def kinds_since(session: Session, chain: int, position: int, kinds: Collection[str]) -> set[str]:
    """Return which of some kinds of entries a chain has after a position; each is looked up by the index of kinds."""
    query = text("""
        SELECT kind FROM unnest(CAST(:kinds AS text[])) kind WHERE (
            SELECT position FROM journal WHERE chain = :chain AND journal.kind = kind.kind ORDER BY position DESC LIMIT 1
        ) > :position
    """)
    return set(session.scalars(query, {"kinds": list(kinds), "chain": chain, "position": position}))


def position_of_run(session: Session, chain: int, run_id: int) -> int:
    """Return the position of the entry that a run made, or that brought it up to date last; 0 if there is none."""
    of_run = JournalEntry.kind.in_(("run", "recognise"))
    is_run = JournalEntry.chain == chain, of_run, JournalEntry.data["run"].as_integer() == run_id
    with by_index(session):
        return (
            session.scalar(select(JournalEntry.position).where(*is_run).order_by(JournalEntry.position.desc()).limit(1))
            or 0
        )


def all_of_chain(session: Session, chain: int) -> Iterator[JournalEntry]:
    """Yield a chain's entries, oldest first."""
    query = select(JournalEntry).where(JournalEntry.chain == chain).order_by(JournalEntry.position)
    yield from session.scalars(query.execution_options(yield_per=2000))


def chains(session: Session) -> list[int]:
    """Return the numbers of all chains."""
    return list(session.scalars(select(JournalEntry.chain).distinct().order_by(JournalEntry.chain)))


def moves_of(session: Session, entry_id: int, part: int | None = None) -> list[MoveRow]:
    """Return the moves of an entry, or of a part of it, by part and record."""
    query = select(Move.part, Move.record_id, Move.from_golden, Move.to_golden).where(Move.journal_id == entry_id)
    if part is not None:
        query = query.where(Move.part == part)
    return [(row[0], row[1], row[2], row[3]) for row in session.execute(query.order_by(Move.part, Move.record_id))]


def steps_touching(
    session: Session, golden_ids: Sequence[int], *, after_move: int = 0
) -> list[tuple[int, int, int, int]]:
    """Return (entry, part, first move, last move) of the parts that moved records into or out of golden records, newest first."""
    ids = list(golden_ids)
    query = (
        select(Move.journal_id, Move.part, func.min(Move.id), func.max(Move.id))
        .where(or_(Move.from_golden.in_(ids), Move.to_golden.in_(ids)), Move.id > after_move)
        .group_by(Move.journal_id, Move.part)
        .order_by(func.max(Move.id).desc())
    )
    return [(row[0], row[1], row[2], row[3]) for row in session.execute(query)]


def entries_touching(session: Session, what: str, touched: int) -> Sequence[JournalEntry]:
    """Return the entries that touch something otherwise than by moving records, newest first."""
    query = select(JournalEntry).join(JournalTouch, JournalTouch.journal_id == JournalEntry.id)
    query = query.where(JournalTouch.what == what, JournalTouch.touched == touched)
    return session.scalars(query.order_by(JournalEntry.id.desc())).all()


def undone_parts(session: Session, steps: Iterable[tuple[int, int]]) -> dict[tuple[int, int], int]:
    """Return which (entry, part) was taken back, by which entry."""
    wanted = set(steps)
    query = select(JournalEntry.undoes, JournalEntry.undoes_part, JournalEntry.id).where(
        JournalEntry.undoes.in_(sorted({entry for entry, _ in wanted}))
    )
    found = {(row[0], row[1]): row[2] for row in session.execute(query.order_by(JournalEntry.id))}
    return {step: by for step, by in found.items() if step in wanted}


def membership_at(session: Session, golden_ids: Sequence[int], move_id: int) -> dict[int, list[int]]:
    """Return which records golden records had once the move ``move_id`` was made."""
    rows = session.execute(
        text("""
            SELECT golden, record_id FROM (
                SELECT DISTINCT ON (m.record_id) m.record_id, m.to_golden AS golden
                FROM moves m JOIN (SELECT DISTINCT record_id FROM moves WHERE to_golden = ANY(:golden) AND id <= :move) r USING (record_id)
                WHERE m.id <= :move ORDER BY m.record_id, m.id DESC
            ) latest WHERE golden = ANY(:golden) ORDER BY golden, record_id
        """),
        {"golden": list(golden_ids), "move": move_id},
    )
    members: dict[int, list[int]] = {golden: [] for golden in golden_ids}
    for golden, record in rows:
        members[golden].append(record)
    return members
