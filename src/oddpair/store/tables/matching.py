"""Runs with their pairs and clusters, doubts, and the decisions of people."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, SmallInteger, String, Text, text
from sqlalchemy.dialects.postgresql import ARRAY, REAL
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class Run(Base):
    """A run of a plan with its counts; only the standing one of a register keeps its pairs, clusters and doubts.

    ``state`` is storing (its results are being written and nobody sees them), standing, or past. ``records_version`` says
    which state of the register's records it looked at.
    """

    __tablename__ = "runs"
    __table_args__ = (
        Index("uq_runs_standing", "register_id", unique=True, postgresql_where=text("state = 'standing'")),
    )
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("plans.id"))
    report: Mapped[dict[str, Any]]
    state: Mapped[str] = mapped_column(String(10), server_default="past")
    records_version: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    at: Mapped[datetime] = mapped_column(server_default=NOW)


class RunPair(Base):
    """A pair at or above the lower limit of a run.

    ``levels`` holds one byte per comparison of the run's plan, ``bits`` the evidence of each in hundredths of a bit as
    little-endian 16-bit numbers; sentences are made of them when somebody reads them. ``condition`` is the number of the
    condition that decided, or -1; ``kind`` names the comparisons that speak loudest for and against, of a pair in doubt.
    """

    __tablename__ = "run_pairs"
    run_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    left_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    right_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, index=True, autoincrement=False)
    score: Mapped[float] = mapped_column(REAL)
    same: Mapped[bool]
    kind: Mapped[str] = mapped_column(String(120))
    condition: Mapped[int] = mapped_column(SmallInteger)
    levels: Mapped[bytes]
    bits: Mapped[bytes]


class RunCluster(Base):
    """Which cluster of a run a record belongs to; ``cluster`` is the smallest record id in it."""

    __tablename__ = "run_clusters"
    __table_args__ = (Index("ix_run_clusters_cluster", "run_id", "cluster"),)
    run_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    record_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    cluster: Mapped[int] = mapped_column(BigInteger)


class Doubt(Base):
    """What waits for a person, until it is decided or no longer in question.

    Of the standing run: the strongest doubtful pair for every two clusters, ``one`` and ``other``, since one decision says
    whether the two are one. And pairs that were decided on values that have changed since (``decision_id``). ``distance`` is
    how far the score lies from even odds, ``records`` how many records a *same* would put together; ``state`` is open, later
    or decided.
    """

    __tablename__ = "doubts"
    __table_args__ = (
        Index("uq_doubts_clusters", "run_id", "one", "other", unique=True, postgresql_where=text("decision_id IS NULL")),
        Index("uq_doubts_decision", "run_id", "decision_id", unique=True, postgresql_where=text("decision_id IS NOT NULL")),
        Index("ix_doubts_distance", "run_id", "state", "distance", "id", postgresql_where=text("state <> 'decided'")),
        Index("ix_doubts_score", "run_id", "state", text("score DESC"), "id", postgresql_where=text("state <> 'decided'")),
        Index("ix_doubts_records", "run_id", "state", text("records DESC"), "id", postgresql_where=text("state <> 'decided'")),
    )  # fmt: skip
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int]
    run_id: Mapped[int]
    left_id: Mapped[int] = mapped_column(BigInteger, index=True)
    right_id: Mapped[int] = mapped_column(BigInteger, index=True)
    one: Mapped[int] = mapped_column(BigInteger, index=True)
    other: Mapped[int] = mapped_column(BigInteger, index=True)
    kind: Mapped[str] = mapped_column(String(120))
    score: Mapped[float] = mapped_column(REAL)
    distance: Mapped[float] = mapped_column(REAL)
    records: Mapped[int]
    state: Mapped[str] = mapped_column(String(10))
    decision_id: Mapped[int | None] = mapped_column(BigInteger)


class Decision(Base):
    """What a person said of a pair. Append-only but for the marks that it was withdrawn, and what changed since.

    ``basis`` is what it rested on: the tidy values of the compared ``fields`` of the ``left`` and ``right`` record.
    ``changed`` lists the fields in which the records are others now; the decision stays in force and is asked again.
    ``journal_id`` is the act that made it.
    """

    __tablename__ = "decisions"
    __table_args__ = (
        Index("ix_decisions_pair", "register_id", "left_id", "right_id"),
        Index("ix_decisions_register_id_id", "register_id", "id"),
        Index("ix_decisions_actor", "register_id", "actor", "id"),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    left_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), index=True)
    right_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), index=True)
    verdict: Mapped[str] = mapped_column(String(10))
    remark: Mapped[str]
    actor: Mapped[str]
    basis: Mapped[dict[str, Any]]
    changed: Mapped[list[str] | None] = mapped_column(ARRAY(Text))
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    withdrawn_at: Mapped[datetime | None]
    withdrawn_by: Mapped[str | None]
    journal_id: Mapped[int | None] = mapped_column(BigInteger)
