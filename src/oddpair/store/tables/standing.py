"""Schedules by which sources deliver unattended, and their turns."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, Boolean, ForeignKey, Identity, Index, Integer, String, Text, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class Schedule(Base):
    """By what a source delivers without a person: when (``times``, see ``core.timetable``), from where (``takes``: its query, or the files
    in its folder), and what holds a delivery (``stops``); ``sends`` names the tables that are sent out after it. ``next_at`` is when its
    turn comes, none while it is not ``on``."""

    __tablename__ = "schedules"
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    source_id: Mapped[int] = mapped_column(ForeignKey("sources.id"), unique=True)
    times: Mapped[str] = mapped_column(String(120))
    takes: Mapped[str] = mapped_column(String(10))
    stops: Mapped[dict[str, Any]]
    sends: Mapped[list[str]] = mapped_column(JSONB)
    on: Mapped[bool] = mapped_column(Boolean, server_default=text("true"))
    next_at: Mapped[datetime | None] = mapped_column(index=True)
    version: Mapped[int] = mapped_column(Integer, server_default=text("1"))
    actor: Mapped[str]
    changed_at: Mapped[datetime] = mapped_column(server_default=NOW)


class Turn(Base):
    """One turn of a schedule: when it was due, began and ended, and what came of it.

    ``state`` is waiting, running, done, nothing (there was nothing to take), held (``why`` says what a person should look at), let through,
    given up, or failed. ``delivery_id`` is the delivery it is at; ``told`` counts what it did, ``missed`` how many turns before it were not
    made.
    """

    __tablename__ = "turns"
    __table_args__ = (Index("ix_turns_schedule_id", "schedule_id", "id"), Index("ix_turns_state", "state"))
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    schedule_id: Mapped[int] = mapped_column(ForeignKey("schedules.id", ondelete="CASCADE"))
    due_at: Mapped[datetime]
    started_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
    state: Mapped[str] = mapped_column(String(12), server_default="waiting")
    why: Mapped[str] = mapped_column(Text, server_default="")
    held_at: Mapped[str] = mapped_column(String(10), server_default="")
    delivery_id: Mapped[int | None]
    told: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'"))
    missed: Mapped[int] = mapped_column(server_default=text("0"))
    actor: Mapped[str] = mapped_column(server_default="")
