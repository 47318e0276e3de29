"""Findings: what records of two registers share, and what people said of it."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, String, Text
from sqlalchemy.dialects.postgresql import ARRAY, REAL
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class FindingPlanRow(Base):
    """A plan of findings as it is kept: the two registers, the plan's text, how many findings stand in each state, and per thing how
    many pairs were left out because too many hold it."""

    __tablename__ = "finding_plans"
    __table_args__ = (Index("uq_finding_plans_register_id_name", "register_id", "name", unique=True),)
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    other_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    name: Mapped[str]
    yaml: Mapped[str]
    counts: Mapped[dict[str, Any] | None]
    common: Mapped[dict[str, Any] | None]
    ran_at: Mapped[datetime | None]
    actor: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(server_default=NOW)


class Finding(Base):
    """Two records, each for its entity, that share ``things``; ``place`` is where it stands among all of its plan, those that share the
    same thing side by side. ``again`` says why it is open although it was decided before.
    """

    __tablename__ = "findings"
    __table_args__ = (Index("ix_findings_state", "plan_id", "state", "place"),)
    plan_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    place: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    one_record: Mapped[int] = mapped_column(BigInteger)
    other_record: Mapped[int] = mapped_column(BigInteger)
    score: Mapped[float] = mapped_column(REAL)
    things: Mapped[list[dict[str, Any]]]
    state: Mapped[str] = mapped_column(String(16))
    said_by: Mapped[str] = mapped_column(server_default="")
    remark: Mapped[str] = mapped_column(server_default="")
    again: Mapped[str] = mapped_column(server_default="")


class FindingVerdict(Base):
    """What a person said of a finding: of interest, explained, or not a finding; with the things that were shared then."""

    __tablename__ = "finding_verdicts"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("finding_plans.id"), index=True)
    one_record: Mapped[int] = mapped_column(BigInteger)
    other_record: Mapped[int] = mapped_column(BigInteger)
    things: Mapped[list[str]] = mapped_column(ARRAY(Text))
    verdict: Mapped[str] = mapped_column(String(16))
    remark: Mapped[str] = mapped_column(server_default="")
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    withdrawn_at: Mapped[datetime | None]
