"""Pieces of work: which doubts belong to them, and how far they are."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .tables import PieceOfWork

#: The place of a doubt between 0 and 100, by which shares are told apart: always the same, and even whatever the numbers of its records.
_PLACE = "mod(abs(hashint8(d.left_id)::bigint # hashint8(d.right_id)::bigint), 100)"


@dataclass(frozen=True, slots=True)
class Condition:
    """A condition on ``doubts d``, with its parameters."""

    sql: str
    values: Mapping[str, Any]


def _fits(piece: PieceOfWork) -> tuple[str, dict[str, Any]]:
    """Return the condition that a doubt is of the sort of a piece, whoever has it."""
    own = f"_{piece.id}"
    parts: list[tuple[bool, str, dict[str, Any]]] = [
        (piece.kind != "", f"d.kind = :kind{own}", {f"kind{own}": piece.kind}),
        (piece.source_id is not None, f"CAST(:source{own} AS integer) = ANY(d.sources)", {f"source{own}": piece.source_id}),
        (piece.what != "", f"d.what = :what{own}", {f"what{own}": piece.what}),
        (piece.least_records > 0, f"d.records >= :least{own}", {f"least{own}": piece.least_records}),
        (piece.most_records > 0, f"d.records <= :most{own}", {f"most{own}": piece.most_records}),
        (piece.share_from > 0, f"{_PLACE} >= :from{own}", {f"from{own}": piece.share_from}),
        (piece.share_to < 100, f"{_PLACE} < :to{own}", {f"to{own}": piece.share_to}),
    ]  # fmt: skip
    used = [(sql, values) for wanted, sql, values in parts if wanted]
    merged = {name: value for _, values in used for name, value in values.items()}
    return "(" + " AND ".join(sql for sql, _ in used) + ")" if used else "(true)", merged


def belongs_to(pieces: Sequence[PieceOfWork], chosen: Collection[int]) -> Condition:
    """Return the condition that a doubt belongs to one of the chosen pieces; ``pieces`` are all of the register, first given first."""
    values: dict[str, Any] = {}
    ways, before = [], list[str]()
    for piece in pieces:
        sql, own = _fits(piece)
        values |= own
        if piece.id in chosen:
            ways.append(f"({' AND '.join([sql, *(f'NOT {one}' for one in before)])})")
        before.append(sql)
    return Condition("(" + " OR ".join(ways) + ")" if ways else "false", values if ways else {})


def belongs_to_nobody(pieces: Sequence[PieceOfWork]) -> Condition:
    """Return the condition that a doubt belongs to no piece."""
    values: dict[str, Any] = {}
    parts = []
    for piece in pieces:
        sql, own = _fits(piece)
        values |= own
        parts.append(f"NOT {sql}")
    return Condition(" AND ".join(parts) if parts else "true", values)


def pieces_of(session: Session, register_id: int) -> list[PieceOfWork]:
    """Return the pieces of work of a register that have not ended, first given first."""
    query = select(PieceOfWork).where(PieceOfWork.register_id == register_id, PieceOfWork.ended_at.is_(None))
    return list(session.scalars(query.order_by(PieceOfWork.id)))


def pieces_with(session: Session, person: str) -> list[PieceOfWork]:
    """Return the pieces of work, in every register, that a person has a part in."""
    query = select(PieceOfWork).where(PieceOfWork.people.contains([person]), PieceOfWork.ended_at.is_(None))
    return list(session.scalars(query.order_by(PieceOfWork.id)))


def progress(session: Session, run_id: int, condition: Condition) -> dict[str, int]:
    """Return how many doubts of a piece of work there are in each state."""
    rows = session.execute(
        text(f"SELECT d.state, count(*) FROM doubts d WHERE d.run_id = :run_id AND {condition.sql} GROUP BY d.state"),
        {"run_id": run_id, **condition.values},
    )
    return {row[0]: row[1] for row in rows}


def is_late(piece: PieceOfWork, today: date) -> bool:
    """Whether a piece of work should have been done."""
    return piece.due_on is not None and piece.due_on < today
