"""What others are told: events in their order, and the web addresses that receive them."""

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import BigInteger, Boolean, ForeignKey, Identity, Index, Integer, String, Uuid, text
from sqlalchemy.dialects.postgresql import ARRAY, TEXT
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class NotedEvent(Base):
    """What a trigger noted in the transaction in which it happened (``step``); it waits for its place among the events."""

    __tablename__ = "event_inbox"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int]
    golden_id: Mapped[int | None] = mapped_column(BigInteger)
    kind: Mapped[str] = mapped_column(String(20))
    data: Mapped[dict[str, Any]]
    step: Mapped[int] = mapped_column(BigInteger, server_default=text("pg_current_xact_id()::text::bigint"))
    at: Mapped[datetime] = mapped_column(server_default=NOW)


class Event(Base):
    """An event at its place: of one golden record in the order in which it happened. Append-only.

    ``kind`` is golden.added, changed, merged, split or ended, delivery.held, or doubts.waiting; ``subject`` the golden key or the source.
    """

    __tablename__ = "events"
    __table_args__ = (Index("ix_events_register_id", "register_id", "position"),)
    position: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    id: Mapped[UUID] = mapped_column(Uuid, server_default=text("gen_random_uuid()"))
    register_id: Mapped[int]
    subject: Mapped[str] = mapped_column(String(120))
    kind: Mapped[str] = mapped_column(String(20))
    data: Mapped[dict[str, Any]]
    at: Mapped[datetime]


class Receiver(Base):
    """A web address that is told events of some ``kinds`` (all, where none is named), signed with its ``secret``.

    ``position`` is the last event that it took. While it takes none, ``failures`` counts tries since ``failing_since``, ``why`` says what
    the last one met, ``next_at`` when the next one comes. ``leased_until`` keeps two processes from telling it at the same time.
    """

    __tablename__ = "receivers"
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    address: Mapped[str]
    secret: Mapped[str]
    kinds: Mapped[list[str]] = mapped_column(ARRAY(TEXT), server_default=text("'{}'"))
    position: Mapped[int] = mapped_column(BigInteger)
    on: Mapped[bool] = mapped_column(Boolean, server_default=text("true"))
    failures: Mapped[int] = mapped_column(Integer, server_default=text("0"))
    why: Mapped[str] = mapped_column(server_default="")
    failing_since: Mapped[datetime | None]
    told_at: Mapped[datetime | None]
    next_at: Mapped[datetime] = mapped_column(server_default=NOW)
    leased_until: Mapped[datetime | None]
    version: Mapped[int] = mapped_column(Integer, server_default=text("1"))
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)
