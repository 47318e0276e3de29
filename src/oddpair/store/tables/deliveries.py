"""What was delivered: files, rows that were set aside, and records in every version."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, String, Text, text
from sqlalchemy.dialects.postgresql import ARRAY, TSVECTOR
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class Delivery(Base):
    """One load from a source: the kept file, what was detected, the mapping used, and counts that add up.

    ``status`` is draft, loaded, discarded or taken back; ``changed_at`` says since when. ``outcomes`` counts what came of its records:
    none where nobody recognises them, empty until they are.
    """

    __tablename__ = "deliveries"
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    source_id: Mapped[int] = mapped_column(ForeignKey("sources.id"), index=True)
    file_name: Mapped[str]
    stored_as: Mapped[str]
    format: Mapped[str]
    columns: Mapped[list[str]] = mapped_column(ARRAY(Text))
    mapping: Mapped[list[dict[str, str]]]
    reading: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'"))
    delivers: Mapped[str] = mapped_column(String(10), server_default="full")
    gone: Mapped[str] = mapped_column(String(10), server_default="keep")
    status: Mapped[str] = mapped_column(String(20), server_default="draft")
    counts: Mapped[dict[str, Any] | None]
    outcomes: Mapped[dict[str, Any] | None]
    created_at: Mapped[datetime] = mapped_column(server_default=NOW)
    loaded_at: Mapped[datetime | None]
    changed_at: Mapped[datetime | None]


class RejectedRow(Base):
    """A row set aside, with row, column and reason; ``cells`` by column where they could be told apart."""

    __tablename__ = "rejected_rows"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    delivery_id: Mapped[int] = mapped_column(ForeignKey("deliveries.id"), index=True)
    row_number: Mapped[int]
    column_name: Mapped[str]
    value: Mapped[str]
    reason: Mapped[str]
    cells: Mapped[dict[str, Any] | None]
    mended_at: Mapped[datetime | None]


class SourceRecord(Base):
    """The latest version of a record as its source delivered it, with mapped fields and tidy values beside.

    ``state`` is current; ended (its source no longer delivers it); or withdrawn (every delivery that brought it was
    taken back), in which case it counts nowhere. ``changed_version`` is the version of the register's records (see ``Counters``) in
    which it became what it is.
    """

    __tablename__ = "source_records"
    __table_args__ = (
        Index(None, "source_id", "source_key", unique=True),
        Index("ix_source_records_changed", "register_id", "changed_version"),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(index=True)
    source_id: Mapped[int]
    source_key: Mapped[str]
    delivery_id: Mapped[int] = mapped_column(index=True)
    delivered: Mapped[dict[str, Any]]
    fields: Mapped[dict[str, Any]]
    tidy: Mapped[dict[str, Any]]
    content_hash: Mapped[str] = mapped_column(String(40))
    state: Mapped[str] = mapped_column(String(10), server_default="current")
    version_id: Mapped[int | None] = mapped_column(BigInteger)
    changed_version: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))


class RecordVersion(Base):
    """Every version of a source record, append-only."""

    __tablename__ = "record_versions"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    record_id: Mapped[int] = mapped_column(BigInteger, index=True)
    delivery_id: Mapped[int] = mapped_column(index=True)
    delivered: Mapped[dict[str, Any]]
    fields: Mapped[dict[str, Any]]
    content_hash: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=NOW)


class DeliveryRecord(Base):
    """What a delivery said of a record: which version of it, or none where it said that the record has ended.

    A record's present state is what the latest delivery that was not taken back says of it.
    """

    __tablename__ = "delivery_records"
    delivery_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    record_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, index=True, autoincrement=False)
    version_id: Mapped[int | None] = mapped_column(BigInteger)


class DeliveryOutcome(Base):
    """What came of a record of a delivery once it was recognised.

    ``outcome`` is unchanged or updated (in the ``fields`` named) where it was in a golden record before; recognised (as one that was
    there), added (as a new one), doubtful (new, and a person is asked), or refused (its source may not create one); or ended.
    ``golden_id`` is where it went, or where what it was refused for is.
    """

    __tablename__ = "delivery_outcomes"
    __table_args__ = (Index("ix_delivery_outcomes_outcome", "delivery_id", "outcome", "record_id"),)
    delivery_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    record_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    outcome: Mapped[str] = mapped_column(String(12))
    golden_id: Mapped[int | None] = mapped_column(BigInteger)
    fields: Mapped[list[str]] = mapped_column(ARRAY(Text), server_default=text("'{}'"))


class ErasedKey(Base):
    """A record that was erased on request, known by a digest of its id: it is not brought in again."""

    __tablename__ = "erased_keys"
    source_id: Mapped[int] = mapped_column(ForeignKey("sources.id"), primary_key=True, autoincrement=False)
    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    at: Mapped[datetime] = mapped_column(server_default=NOW)


class RecordWords(Base):
    """The folded words of a record's values, each behind its register's number, by which it is searched."""

    __tablename__ = "record_words"
    __table_args__ = (Index("ix_record_words_words", "words", postgresql_using="gin"),)
    record_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    words: Mapped[str] = mapped_column(TSVECTOR)
