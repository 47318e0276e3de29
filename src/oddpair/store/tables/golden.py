"""Golden records, what belongs to them, and the values that people pinned."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, Integer, String, Text, text
from sqlalchemy.dialects.postgresql import ARRAY, TSVECTOR
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base

_IN_FORCE = text("leads_to IS NULL AND withdrawn_at IS NULL")


class GoldenRecord(Base):
    """A golden record: a projection of members, rules and pins.

    A retired key leads to the record it went into; one whose records were all withdrawn is withdrawn too. ``size`` is how
    many records it stands for, ``sort_name`` by what it is ordered among others, ``sources`` whose records those are,
    ``contradictions`` of which fields they say what cannot all be true and nobody settled. Where its values come from is computed
    when somebody asks.
    """

    __tablename__ = "golden_records"
    __table_args__ = (
        Index("ix_golden_records_by_number", "register_id", "number", postgresql_where=_IN_FORCE),
        Index("ix_golden_records_by_size", "register_id", text("size DESC"), "number", postgresql_where=_IN_FORCE),
        Index("ix_golden_records_by_sort_name", "register_id", "sort_name", "number", postgresql_where=_IN_FORCE),
        Index("ix_golden_records_by_updated_at", "register_id", text("updated_at DESC"), "number", postgresql_where=_IN_FORCE),
        Index(
            "ix_golden_records_contradictory", "register_id", "number",
            postgresql_where=text("contradictions <> '{}' AND leads_to IS NULL AND withdrawn_at IS NULL"),
        ),
        Index("ix_golden_records_created_at", "register_id", "created_at"),
        Index("ix_golden_records_leads_to", "leads_to", postgresql_where=text("leads_to IS NOT NULL")),
    )  # fmt: skip
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    number: Mapped[int] = mapped_column(BigInteger)
    key: Mapped[str] = mapped_column(String(40), unique=True)
    leads_to: Mapped[int | None] = mapped_column(BigInteger)
    values: Mapped[dict[str, Any]]
    size: Mapped[int] = mapped_column(server_default=text("0"))
    sort_name: Mapped[str] = mapped_column(server_default="")
    sources: Mapped[list[int]] = mapped_column(ARRAY(Integer), server_default=text("'{}'"))
    contradictions: Mapped[list[str]] = mapped_column(ARRAY(Text), server_default=text("'{}'"))
    version: Mapped[int] = mapped_column(server_default=text("1"))
    created_at: Mapped[datetime] = mapped_column(server_default=NOW)
    updated_at: Mapped[datetime] = mapped_column(server_default=NOW)
    withdrawn_at: Mapped[datetime | None]


class GoldenVersion(Base):
    """What a golden record was until it changed: append-only. Without ``values`` it was not in force until then."""

    __tablename__ = "golden_versions"
    __table_args__ = (Index("ix_golden_versions_until", "register_id", "until"),)
    golden_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int]
    values: Mapped[dict[str, Any] | None]
    size: Mapped[int]
    until: Mapped[datetime] = mapped_column(server_default=NOW)


class GoldenMember(Base):
    """Which golden record a source record belongs to: the crosswalk."""

    __tablename__ = "golden_members"
    record_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    golden_id: Mapped[int] = mapped_column(BigInteger, index=True)


class GoldenWords(Base):
    """The folded words of a golden record's key and values, by which it is searched."""

    __tablename__ = "golden_words"
    __table_args__ = (Index("ix_golden_words_words", "words", postgresql_using="gin"),)
    golden_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    words: Mapped[str] = mapped_column(TSVECTOR)


class Pin(Base):
    """A value set by hand in a golden record, until it is lifted; one per field."""

    __tablename__ = "pins"
    __table_args__ = (
        Index("uq_pins_golden_id_field", "golden_id", "field", unique=True, postgresql_where=text("lifted_at IS NULL")),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    golden_id: Mapped[int] = mapped_column(ForeignKey("golden_records.id"), index=True)
    field: Mapped[str]
    value: Mapped[str]
    reason: Mapped[str]
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    lifted_at: Mapped[datetime | None]
    journal_id: Mapped[int | None] = mapped_column(BigInteger)


class Saved(Base):
    """What a person keeps under a name: a ``view`` of the list of golden records, or a ``send-out``; ``last_at`` is up to when the latest
    run of the latter had seen everything.
    """

    __tablename__ = "saved"
    __table_args__ = (Index("uq_saved_register_id_kind_name", "register_id", "kind", "name", unique=True),)
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int]
    kind: Mapped[str] = mapped_column(String(12))
    name: Mapped[str] = mapped_column(String(80))
    content: Mapped[dict[str, Any]]
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    last_at: Mapped[datetime | None]
