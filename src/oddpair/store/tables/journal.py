"""The journal: every act, what it touched, and which records it moved."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, Identity, Index, String, text
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class JournalEntry(Base):
    """An act of a person or the machine. Append-only: the database refuses changes, but for the erasure of personal values.

    ``chain`` is the register (0: what all registers share), ``position`` counts its entries; each holds the hash of the one before.
    ``data`` says what was done in ids, counts and names of fields, ``personal`` in values and words; the hash covers a salted
    digest of the latter. ``undoes`` is the entry, and ``undoes_part`` the part of it, that this one takes back; ``rests_on``
    are entries without which this one would not have been possible.
    """

    __tablename__ = "journal"
    __table_args__ = (
        Index("uq_journal_chain_position", "chain", "position", unique=True),
        Index("ix_journal_kind", "chain", "kind", "position"),
        Index("ix_journal_actor", "chain", "actor", "position"),
        Index("ix_journal_at", "chain", "at"),
        Index("ix_journal_undoes", "undoes", postgresql_where=text("undoes IS NOT NULL")),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    chain: Mapped[int]
    position: Mapped[int] = mapped_column(BigInteger)
    kind: Mapped[str] = mapped_column(String(30))
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    data: Mapped[dict[str, Any]]
    personal: Mapped[dict[str, Any] | None]
    salt: Mapped[str]
    digest: Mapped[str] = mapped_column(String(64))
    undoes: Mapped[int | None] = mapped_column(BigInteger)
    undoes_part: Mapped[int | None]
    rests_on: Mapped[list[int]] = mapped_column(ARRAY(BigInteger), server_default=text("'{}'"))
    previous: Mapped[str] = mapped_column(String(64))
    hash: Mapped[str] = mapped_column(String(64))


class JournalTouch(Base):
    """What an entry touches besides the golden records of its moves: ``what`` is golden, record, source or delivery."""

    __tablename__ = "journal_touches"
    __table_args__ = (Index("ix_journal_touches_touched", "what", "touched", "journal_id"),)
    journal_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    what: Mapped[str] = mapped_column(String(12), primary_key=True)
    touched: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)


class Move(Base):
    """A record that an act put from one golden record (or none) into another (or none); parts are undone one by one.

    Append-only. The latest move of every record says to which golden record it belongs.
    """

    __tablename__ = "moves"
    __table_args__ = (
        Index("ix_moves_journal_id_part", "journal_id", "part"),
        Index("ix_moves_record_id_id", "record_id", "id"),
        Index("ix_moves_from_golden", "from_golden", "id", postgresql_where=text("from_golden IS NOT NULL")),
        Index("ix_moves_to_golden", "to_golden", "id", postgresql_where=text("to_golden IS NOT NULL")),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    journal_id: Mapped[int] = mapped_column(BigInteger)
    part: Mapped[int]
    record_id: Mapped[int] = mapped_column(BigInteger)
    from_golden: Mapped[int | None] = mapped_column(BigInteger)
    to_golden: Mapped[int | None] = mapped_column(BigInteger)
