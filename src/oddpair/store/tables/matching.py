"""Runs with their pairs and clusters."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, LargeBinary, SmallInteger, String, text
from sqlalchemy.dialects.postgresql import REAL
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class Run(Base):
    """A run of a plan with its counts; the standing one of a register and trials keep their pairs and clusters.

    ``purpose`` is standing (golden records and doubts follow it) or trial (it only shows). ``state`` is storing (its results are being
    written and nobody sees them), standing, kept (a trial), or past. ``records_version`` says which state of the register's records
    it looked at, and ``followed_at`` up to when it followed decisions; ``yaml`` is the plan of a trial that was not the one in force.
    ``learned`` is what recognition rests on (see ``core.learned_match``), where the run kept it.
    """

    __tablename__ = "runs"
    __table_args__ = (
        Index("uq_runs_standing", "register_id", unique=True, postgresql_where=text("state = 'standing'")),
    )
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("plans.id"))
    report: Mapped[dict[str, Any]]
    purpose: Mapped[str] = mapped_column(String(10), server_default="standing")
    title: Mapped[str] = mapped_column(server_default="")
    yaml: Mapped[str] = mapped_column(server_default="")
    state: Mapped[str] = mapped_column(String(10), server_default="past")
    records_version: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    followed_at: Mapped[datetime] = mapped_column(server_default=NOW)
    learned: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)


class RunPair(Base):
    """A pair at or above the lower limit of a run.

    ``levels`` holds one byte per comparison of the run's plan, ``bits`` the evidence of each in hundredths of a bit as
    little-endian 16-bit numbers; sentences are made of them when somebody reads them. ``condition`` is the number of the
    condition that decided, or -1; ``kind`` names the comparisons that speak loudest for and against, of a pair in doubt; ``passed`` is
    the number of the pass of the plan that said so.
    """

    __tablename__ = "run_pairs"
    run_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    left_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    right_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, index=True, autoincrement=False)
    score: Mapped[float] = mapped_column(REAL)
    same: Mapped[bool]
    kind: Mapped[str]
    condition: Mapped[int] = mapped_column(SmallInteger)
    levels: Mapped[bytes]
    bits: Mapped[bytes]
    passed: Mapped[int] = mapped_column(SmallInteger, server_default=text("0"))


class RunCluster(Base):
    """Which cluster of a run a record belongs to; ``cluster`` is the smallest record id in it. ``outcomes`` says what came of the record in
    every pass, three bits each, those of the first pass lowest."""

    __tablename__ = "run_clusters"
    __table_args__ = (Index("ix_run_clusters_cluster", "run_id", "cluster"),)
    run_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    record_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    cluster: Mapped[int] = mapped_column(BigInteger)
    outcomes: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))


class AwkwardCluster(Base):
    """A cluster of a run that a person should look at, with the two records at the ends of its weakest link and that link's score."""

    __tablename__ = "awkward_clusters"
    run_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    cluster: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    left_id: Mapped[int] = mapped_column(BigInteger)
    right_id: Mapped[int] = mapped_column(BigInteger)
    score: Mapped[float] = mapped_column(REAL)
    kind: Mapped[str] = mapped_column(String(20))
