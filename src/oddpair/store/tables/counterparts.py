"""Counterpart lists: rows of files, which records of a register they mean, and what people said of that."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, Boolean, ForeignKey, Identity, Index, SmallInteger, String, Text, text
from sqlalchemy.dialects.postgresql import ARRAY, REAL
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class CounterpartList(Base):
    """A file whose rows are looked up in a register, with its mapping, and how they are looked up (``settings``).

    ``counts`` says how many rows came to each outcome, ``records_version`` which state of the register's records was looked at. A list
    that ``follows`` is run again when these change.
    """

    __tablename__ = "counterpart_lists"
    __table_args__ = (Index("uq_counterpart_lists_register_id_name", "register_id", "name", unique=True),)
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    name: Mapped[str]
    file_name: Mapped[str]
    stored_as: Mapped[str]
    columns: Mapped[list[str]] = mapped_column(ARRAY(Text))
    mapping: Mapped[list[dict[str, str]]]
    settings: Mapped[dict[str, Any]]
    follows: Mapped[bool] = mapped_column(Boolean, server_default=text("false"))
    counts: Mapped[dict[str, Any] | None]
    report: Mapped[dict[str, Any] | None]
    records_version: Mapped[int | None] = mapped_column(BigInteger)
    ran_at: Mapped[datetime | None]
    actor: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(server_default=NOW)


class CounterpartRow(Base):
    """A row of a list's file with what is said of it; ``record_id`` is the best candidate, or what a person confirmed (``said_by``).

    ``outcome`` is a number of ``services.counterparts.OUTCOMES``; ``note`` says why a row is no record.
    """

    __tablename__ = "counterpart_rows"
    __table_args__ = (
        Index("ix_counterpart_rows_outcome", "list_id", "outcome", "row"),
        Index("ix_counterpart_rows_record", "list_id", "record_id"),
        Index("ix_counterpart_rows_key", "list_id", "key"),
    )
    list_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    row: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    key: Mapped[str]
    cells: Mapped[dict[str, Any]]
    outcome: Mapped[int] = mapped_column(SmallInteger)
    record_id: Mapped[int | None] = mapped_column(BigInteger)
    said_by: Mapped[str] = mapped_column(server_default="")
    note: Mapped[str] = mapped_column(server_default="")


class CounterpartCandidate(Base):
    """A candidate of a row: a record of the register, the best of its golden record."""

    __tablename__ = "counterpart_candidates"
    list_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    row: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    rank: Mapped[int] = mapped_column(SmallInteger, primary_key=True, autoincrement=False)
    record_id: Mapped[int] = mapped_column(BigInteger)
    score: Mapped[float] = mapped_column(REAL)
    probability: Mapped[float] = mapped_column(REAL)
    reason: Mapped[str]


class CounterpartVerdict(Base):
    """What a person said of a row, known by its key, whatever run comes: a record is ``confirmed`` or ``rejected``, or it means
    ``nobody``."""

    __tablename__ = "counterpart_verdicts"
    __table_args__ = (
        Index("ix_counterpart_verdicts_in_force", "list_id", "key", postgresql_where=text("withdrawn_at IS NULL")),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    list_id: Mapped[int] = mapped_column(ForeignKey("counterpart_lists.id"))
    key: Mapped[str]
    record_id: Mapped[int | None] = mapped_column(BigInteger)
    verdict: Mapped[str] = mapped_column(String(10))
    remark: Mapped[str] = mapped_column(server_default="")
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    withdrawn_at: Mapped[datetime | None]
