"""How values are tidied, what is known of their quality, and what people corrected or linked."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, String
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class TidyStepsVersion(Base):
    """A version of a register's tidy steps, per field; the highest version is in force."""

    __tablename__ = "tidy_steps"
    __table_args__ = (Index(None, "register_id", "version", unique=True),)
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    version: Mapped[int]
    steps: Mapped[dict[str, Any]]
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)


class WordTableVersion(Base):
    """A version of a swap list or value map, shared by all registers; the highest version of a name is in force.

    ``entries`` are pairs (from, to).
    """

    __tablename__ = "word_tables"
    __table_args__ = (Index(None, "name", "version", unique=True),)
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    version: Mapped[int]
    kind: Mapped[str] = mapped_column(String(12))
    entries: Mapped[list[list[str]]] = mapped_column(JSONB)
    actor: Mapped[str]
    note: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)


class RuleResult(Base):
    """How many of a source's records failed a quality rule after a delivery was loaded: the rule's course over time."""

    __tablename__ = "rule_results"
    __table_args__ = (Index(None, "register_id", "rule"),)
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    source_id: Mapped[int] = mapped_column(ForeignKey("sources.id"))
    delivery_id: Mapped[int | None] = mapped_column(ForeignKey("deliveries.id"))
    rule: Mapped[str]
    records: Mapped[int] = mapped_column(BigInteger)
    failing: Mapped[int] = mapped_column(BigInteger)
    at: Mapped[datetime] = mapped_column(server_default=NOW)


class Correction(Base):
    """A field of a record as a person corrected it, instead of what its source delivered.

    It stands until it is withdrawn, or until the source itself delivers another value than ``was``; of several the latest
    counts. Corrections made in one step share a ``batch``.
    """

    __tablename__ = "corrections"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    record_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), index=True)
    field: Mapped[str]
    was: Mapped[str]
    value: Mapped[str]
    batch: Mapped[int] = mapped_column(BigInteger, index=True)
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    withdrawn_at: Mapped[datetime | None]
    journal_id: Mapped[int | None] = mapped_column(BigInteger)


class RecordReference(Base):
    """Which record of another register a reference leads to, and how that is known: by id, name or hand; none where it is not."""

    __tablename__ = "record_references"
    record_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    field: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]
    target_id: Mapped[int | None] = mapped_column(BigInteger, index=True)
    how: Mapped[str] = mapped_column(String(10))
    actor: Mapped[str]


class Profile(Base):
    """What the fields of a register, or of one of its sources or deliveries, look like; made again when they changed.

    ``scope`` names whose records they are, ``state`` what they were when this was made.
    """

    __tablename__ = "profiles"
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), primary_key=True)
    scope: Mapped[str] = mapped_column(String(100), primary_key=True)
    state: Mapped[str]
    result: Mapped[dict[str, Any]]
    at: Mapped[datetime] = mapped_column(server_default=NOW)
