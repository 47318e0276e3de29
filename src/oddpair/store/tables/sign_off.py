"""What waits for a second person's yes, and who gave theirs."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, SmallInteger, String, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class Proposal(Base):
    """An act that is not in force until it is signed off: which one with what ``arguments``, ``why`` it needs a second yes, and what it
    ``shows`` that it will do.

    ``subject`` is what it is about, of which one proposal waits at a time. ``levels`` are the yeses it needs, as the policy was then,
    ``level`` how many it has. ``state`` is waiting, carried out, sent back (to ``returned_to``, or to everybody where that is ""),
    withdrawn, overtaken or closed; ``reason`` is what was said at the end. ``looked_at`` is up to which entry of the journal it was made
    sure that it can still be carried out.
    """

    __tablename__ = "proposals"
    __table_args__ = (
        Index("ix_proposals_state", "register_id", "state", "id"),
        Index(
            "uq_proposals_subject", "register_id", "subject", unique=True, postgresql_where=text("state = 'waiting'")
        ),
        Index("ix_proposals_returned", "returned_to", postgresql_where=text("state = 'sent back'")),
        Index("ix_proposals_by", "register_id", "proposed_by", "id"),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    act: Mapped[str] = mapped_column(String(20))
    arguments: Mapped[dict[str, Any]]
    subject: Mapped[str]
    why: Mapped[str]
    summary: Mapped[str]
    shows: Mapped[list[dict[str, str]]] = mapped_column(JSONB)
    leads_to: Mapped[str] = mapped_column(server_default="")
    touches: Mapped[list[tuple[str, int]]] = mapped_column(JSONB)
    proposed_by: Mapped[str]
    proposed_at: Mapped[datetime] = mapped_column(server_default=NOW)
    journal_id: Mapped[int] = mapped_column(BigInteger)
    levels: Mapped[list[list[str]]] = mapped_column(JSONB)
    level: Mapped[int] = mapped_column(SmallInteger, server_default=text("0"))
    state: Mapped[str] = mapped_column(String(12), server_default="waiting")
    ended_at: Mapped[datetime | None]
    ended_by: Mapped[str | None]
    reason: Mapped[str] = mapped_column(server_default="")
    returned_to: Mapped[str] = mapped_column(server_default="")
    looked_at: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))


class Signature(Base):
    """The yes of one person on one level."""

    __tablename__ = "proposal_signatures"
    proposal_id: Mapped[int] = mapped_column(ForeignKey("proposals.id"), primary_key=True, autoincrement=False)
    level: Mapped[int] = mapped_column(SmallInteger, primary_key=True, autoincrement=False)
    actor: Mapped[str]
    remark: Mapped[str] = mapped_column(server_default="")
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    journal_id: Mapped[int] = mapped_column(BigInteger)


class ProposalPair(Base):
    """Two records about which a proposal waits, or was sent back to somebody: their doubt is not offered to anybody meanwhile."""

    __tablename__ = "proposal_pairs"
    __table_args__ = (
        Index("ix_proposal_pairs_left", "left_id"),
        Index("ix_proposal_pairs_right", "right_id"),
        Index("ix_proposal_pairs_register", "register_id"),
    )
    proposal_id: Mapped[int] = mapped_column(ForeignKey("proposals.id"), primary_key=True, autoincrement=False)
    left_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    right_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    register_id: Mapped[int]
