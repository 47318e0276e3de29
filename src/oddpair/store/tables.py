"""The tables. Source records, decisions and the journal are only ever added to; golden records are a projection."""

from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    Boolean,
    DateTime,
    Float,
    ForeignKey,
    Identity,
    Index,
    Integer,
    MetaData,
    String,
    Text,
    text,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Base of all tables, with predictable names of constraints."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_N_label)s", "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s", "pk": "pk_%(table_name)s",
        }
    )  # fmt: skip
    type_annotation_map = {
        dict[str, Any]: JSONB,
        list[dict[str, str]]: JSONB,
        datetime: DateTime(timezone=True),
        str: Text,
    }


_NOW = text("now()")


class Register(Base):
    """A register: its kind, the prefix of its golden keys, its survivorship rules, and what its layout has beyond the usual."""

    __tablename__ = "registers"
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    slug: Mapped[str] = mapped_column(String(80), unique=True)
    name: Mapped[str]
    kind: Mapped[str] = mapped_column(String(20))
    prefix: Mapped[str] = mapped_column(String(8))
    rules: Mapped[dict[str, Any]]
    layout: Mapped[list[dict[str, str]] | None]
    quality: Mapped[list[dict[str, str]] | None]
    next_number: Mapped[int] = mapped_column(BigInteger, server_default=text("1"))
    created_at: Mapped[datetime] = mapped_column(server_default=_NOW)


class Source(Base):
    """A system that delivers records.

    It remembers its column mapping, how its files are read, whether it ``delivers`` everything ("full") or only what
    changed ("changes"), and what becomes of records that a full delivery no longer holds (``gone``: "keep" or "end").
    """

    __tablename__ = "sources"
    __table_args__ = (Index(None, "register_id", "name", unique=True),)
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    name: Mapped[str]
    trust_rank: Mapped[int] = mapped_column(Integer)
    own_duplicates: Mapped[bool] = mapped_column(Boolean, server_default=text("true"))
    mapping: Mapped[list[dict[str, str]] | None]
    columns: Mapped[list[str] | None] = mapped_column(ARRAY(Text))
    reading: Mapped[dict[str, Any] | None]
    delivers: Mapped[str] = mapped_column(String(10), server_default="full")
    gone: Mapped[str] = mapped_column(String(10), server_default="keep")
    query: Mapped[dict[str, Any] | None]


class Delivery(Base):
    """One load from a source: the kept file, what was detected, the mapping used, and counts that add up.

    ``status`` is draft, loaded, discarded or taken back; ``changed_at`` says since when.
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
    created_at: Mapped[datetime] = mapped_column(server_default=_NOW)
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
    taken back), in which case it counts nowhere.
    """

    __tablename__ = "source_records"
    __table_args__ = (Index(None, "source_id", "source_key", unique=True),)
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    source_id: Mapped[int] = mapped_column(ForeignKey("sources.id"))
    source_key: Mapped[str]
    delivery_id: Mapped[int] = mapped_column(ForeignKey("deliveries.id"), index=True)
    delivered: Mapped[dict[str, Any]]
    fields: Mapped[dict[str, Any]]
    tidy: Mapped[dict[str, Any]]
    content_hash: Mapped[str] = mapped_column(String(40))
    state: Mapped[str] = mapped_column(String(10), server_default="current")
    version_id: Mapped[int | None] = mapped_column(BigInteger)


class RecordVersion(Base):
    """Every version of a source record, append-only."""

    __tablename__ = "record_versions"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    record_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), index=True)
    delivery_id: Mapped[int] = mapped_column(ForeignKey("deliveries.id"), index=True)
    delivered: Mapped[dict[str, Any]]
    fields: Mapped[dict[str, Any]]
    content_hash: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=_NOW)


class DeliveryRecord(Base):
    """What a delivery said of a record: which version of it, or none where it said that the record has ended.

    A record's present state is what the latest delivery that was not taken back says of it.
    """

    __tablename__ = "delivery_records"
    delivery_id: Mapped[int] = mapped_column(ForeignKey("deliveries.id"), primary_key=True)
    record_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), primary_key=True, index=True)
    version_id: Mapped[int | None] = mapped_column(ForeignKey("record_versions.id"))


class Plan(Base):
    """A version of a register's match plan, as YAML; the highest version is in force."""

    __tablename__ = "plans"
    __table_args__ = (Index(None, "register_id", "version", unique=True),)
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    version: Mapped[int]
    yaml: Mapped[str]
    actor: Mapped[str]
    note: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=_NOW)


class TidyRecipe(Base):
    """A version of a register's tidy steps, per field; the highest version is in force."""

    __tablename__ = "tidy_recipes"
    __table_args__ = (Index(None, "register_id", "version", unique=True),)
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    version: Mapped[int]
    steps: Mapped[dict[str, Any]]
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=_NOW)


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
    at: Mapped[datetime] = mapped_column(server_default=_NOW)


class Run(Base):
    """A finished run of a plan with its counts; only the latest run of a register keeps its pairs."""

    __tablename__ = "runs"
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("plans.id"))
    report: Mapped[dict[str, Any]]
    at: Mapped[datetime] = mapped_column(server_default=_NOW)


class RunPair(Base):
    """A pair at or above the lower limit of a run: score, levels per comparison, verdict and the sentence why."""

    __tablename__ = "run_pairs"
    __table_args__ = (Index(None, "run_id", "verdict", "score"),)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"), primary_key=True)
    left_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), primary_key=True)
    right_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), primary_key=True)
    score: Mapped[float] = mapped_column(Float)
    verdict: Mapped[str] = mapped_column(String(10))
    levels: Mapped[dict[str, Any]]
    reason: Mapped[str]


class RunCluster(Base):
    """Which cluster of a run a record belongs to; ``cluster`` is the smallest record id in it."""

    __tablename__ = "run_clusters"
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"), primary_key=True)
    record_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), primary_key=True)
    cluster: Mapped[int] = mapped_column(BigInteger)


class Decision(Base):
    """What a person said of a pair. Append-only but for the mark that it was withdrawn.

    The hashes are those of the records when they were decided: if a record changes, the pair may be asked again.
    """

    __tablename__ = "decisions"
    __table_args__ = (Index("ix_decisions_pair", "register_id", "left_id", "right_id"),)
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    left_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"))
    right_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"))
    verdict: Mapped[str] = mapped_column(String(10))
    remark: Mapped[str]
    actor: Mapped[str]
    left_hash: Mapped[str] = mapped_column(String(40))
    right_hash: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=_NOW)
    withdrawn_at: Mapped[datetime | None]
    journal_id: Mapped[int | None] = mapped_column(ForeignKey("journal.id"))


class GoldenRecord(Base):
    """A golden record: a projection of members, rules and pins.

    A retired key leads to the record it went into; one whose records were all withdrawn is withdrawn too.
    """

    __tablename__ = "golden_records"
    __table_args__ = (Index(None, "register_id", "number"),)
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    number: Mapped[int] = mapped_column(BigInteger)
    key: Mapped[str] = mapped_column(String(40), unique=True)
    leads_to: Mapped[int | None] = mapped_column(ForeignKey("golden_records.id"))
    values: Mapped[dict[str, Any]]
    origins: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(server_default=text("1"))
    updated_at: Mapped[datetime] = mapped_column(server_default=_NOW)
    withdrawn_at: Mapped[datetime | None]


class GoldenMember(Base):
    """Which golden record a source record belongs to: the crosswalk."""

    __tablename__ = "golden_members"
    record_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), primary_key=True)
    golden_id: Mapped[int] = mapped_column(ForeignKey("golden_records.id"), index=True)


class Pin(Base):
    """A value set by hand in a golden record, until it is lifted."""

    __tablename__ = "pins"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    golden_id: Mapped[int] = mapped_column(ForeignKey("golden_records.id"), index=True)
    field: Mapped[str]
    value: Mapped[str]
    reason: Mapped[str]
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=_NOW)
    lifted_at: Mapped[datetime | None]


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
    at: Mapped[datetime] = mapped_column(server_default=_NOW)


class Correction(Base):
    """A field of a record as a person mended it, instead of what its source delivered.

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
    at: Mapped[datetime] = mapped_column(server_default=_NOW)
    withdrawn_at: Mapped[datetime | None]


class RecordReference(Base):
    """Which record of another register a reference leads to, and how that is known: by id, name or hand; none where it is not."""

    __tablename__ = "record_references"
    record_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), primary_key=True)
    field: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]
    target_id: Mapped[int | None] = mapped_column(ForeignKey("source_records.id"), index=True)
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
    at: Mapped[datetime] = mapped_column(server_default=_NOW)


class JournalEntry(Base):
    """The append-only account of what changed a golden record, with what undoes it.

    ``before`` and ``after`` map golden ids to lists of member record ids; ``undone_by`` is the entry that took it back.
    """

    __tablename__ = "journal"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    golden_id: Mapped[int] = mapped_column(ForeignKey("golden_records.id"), index=True)
    kind: Mapped[str] = mapped_column(String(20))
    summary: Mapped[str]
    before: Mapped[dict[str, Any]]
    after: Mapped[dict[str, Any]]
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=_NOW)
    undone_by: Mapped[int | None] = mapped_column(ForeignKey("journal.id"))


class JournalGolden(Base):
    """Which golden records a journal entry touches, so that each shows its whole history."""

    __tablename__ = "journal_golden"
    journal_id: Mapped[int] = mapped_column(ForeignKey("journal.id"), primary_key=True)
    golden_id: Mapped[int] = mapped_column(ForeignKey("golden_records.id"), primary_key=True, index=True)


class Job(Base):
    """Background work with its progress; kept after it has ended."""

    __tablename__ = "jobs"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(String(30))
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    title: Mapped[str]
    arguments: Mapped[dict[str, Any]]
    status: Mapped[str] = mapped_column(String(12), server_default="queued", index=True)
    stage: Mapped[str] = mapped_column(server_default="")
    stage_began_at: Mapped[datetime | None]
    done: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    total: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    message: Mapped[str] = mapped_column(server_default="")
    result: Mapped[dict[str, Any] | None]
    cancel_requested: Mapped[bool] = mapped_column(server_default=text("false"))
    created_at: Mapped[datetime] = mapped_column(server_default=_NOW)
    started_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
