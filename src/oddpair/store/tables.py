"""The tables.

Deliveries, versions of records and the journal are only ever added to. Everything else is a projection of them: what records,
decisions, golden records, doubts and counters are now can be computed again and compared (services/state/rebuild.py). Bulk
tables have no foreign keys: their rows are made from rows read in the same statement and are never deleted, and a foreign key
would lock every row it looks up (docs/decisions/0007).
"""

from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    Boolean,
    DateTime,
    ForeignKey,
    Identity,
    Index,
    Integer,
    MetaData,
    SmallInteger,
    String,
    Text,
    text,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, REAL, TSVECTOR
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
    """A register: its kind, the prefix of its golden keys, its survivorship rules, and what its layout has beyond the usual.

    ``version`` rises with every change of rules, layout, quality rules or sources, so that a stale one is refused.
    """

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
    version: Mapped[int] = mapped_column(server_default=text("1"))
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


class RecordVersion(Base):
    """Every version of a source record, append-only."""

    __tablename__ = "record_versions"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    record_id: Mapped[int] = mapped_column(BigInteger, index=True)
    delivery_id: Mapped[int] = mapped_column(index=True)
    delivered: Mapped[dict[str, Any]]
    fields: Mapped[dict[str, Any]]
    content_hash: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=_NOW)


class DeliveryRecord(Base):
    """What a delivery said of a record: which version of it, or none where it said that the record has ended.

    A record's present state is what the latest delivery that was not taken back says of it.
    """

    __tablename__ = "delivery_records"
    delivery_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    record_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, index=True, autoincrement=False)
    version_id: Mapped[int | None] = mapped_column(BigInteger)


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
    at: Mapped[datetime] = mapped_column(server_default=_NOW)


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


class Counters(Base):
    """Counts that every screen shows, kept by what changes them; ``records_version`` rises when records change."""

    __tablename__ = "counters"
    register_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    records: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    golden: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    without_golden: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    waiting: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    put_off: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    records_version: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))


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
    at: Mapped[datetime] = mapped_column(server_default=_NOW)
    withdrawn_at: Mapped[datetime | None]
    withdrawn_by: Mapped[str | None]
    journal_id: Mapped[int | None] = mapped_column(BigInteger)


_IN_FORCE = text("leads_to IS NULL AND withdrawn_at IS NULL")


class GoldenRecord(Base):
    """A golden record: a projection of members, rules and pins.

    A retired key leads to the record it went into; one whose records were all withdrawn is withdrawn too. ``size`` is how
    many records it stands for, ``sort_name`` by what it is ordered among others. Where its values come from is computed when
    somebody asks.
    """

    __tablename__ = "golden_records"
    __table_args__ = (
        Index("ix_golden_records_by_number", "register_id", "number", postgresql_where=_IN_FORCE),
        Index("ix_golden_records_by_size", "register_id", text("size DESC"), "number", postgresql_where=_IN_FORCE),
        Index("ix_golden_records_by_sort_name", "register_id", "sort_name", "number", postgresql_where=_IN_FORCE),
        Index("ix_golden_records_by_updated_at", "register_id", text("updated_at DESC"), "number", postgresql_where=_IN_FORCE),
        Index("ix_golden_records_leads_to", "leads_to", postgresql_where=text("leads_to IS NOT NULL")),
    )  # fmt: skip
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    number: Mapped[int] = mapped_column(BigInteger)
    key: Mapped[str] = mapped_column(String(40), unique=True)
    leads_to: Mapped[int | None] = mapped_column(BigInteger)
    values: Mapped[dict[str, Any]]
    size: Mapped[int] = mapped_column(server_default=text("0"))
    sort_name: Mapped[str] = mapped_column(server_default="")
    version: Mapped[int] = mapped_column(server_default=text("1"))
    updated_at: Mapped[datetime] = mapped_column(server_default=_NOW)
    withdrawn_at: Mapped[datetime | None]


class GoldenMember(Base):
    """Which golden record a source record belongs to: the crosswalk."""

    __tablename__ = "golden_members"
    record_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    golden_id: Mapped[int] = mapped_column(BigInteger, index=True)


class RecordWords(Base):
    """The folded words of a record's values, each behind its register's number, by which it is searched."""

    __tablename__ = "record_words"
    __table_args__ = (Index("ix_record_words_words", "words", postgresql_using="gin"),)
    record_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    words: Mapped[str] = mapped_column(TSVECTOR)


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
    at: Mapped[datetime] = mapped_column(server_default=_NOW)
    lifted_at: Mapped[datetime | None]
    journal_id: Mapped[int | None] = mapped_column(BigInteger)


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
    at: Mapped[datetime] = mapped_column(server_default=_NOW)


class JournalEntry(Base):
    """An act of a person or the machine. Append-only: the database refuses changes, but for the erasure of personal values.

    ``chain`` is the register (0: what all registers share), ``position`` counts its entries; each holds the hash of the one before.
    ``data`` says what was done in ids, counts and names of fields, ``personal`` in values and words; the hash covers a salted
    digest of the latter. ``undoes`` is the entry, and ``undoes_part`` the part of it, that this one takes back; ``rests_on``
    are entries without which this one would not have been possible.
    """

    __tablename__ = "journal"
    __table_args__ = (
        Index("uq_journal_chain_position", "chain", "position", unique=True),
        Index("ix_journal_kind", "chain", "kind", "position"),
        Index("ix_journal_undoes", "undoes", postgresql_where=text("undoes IS NOT NULL")),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    chain: Mapped[int]
    position: Mapped[int] = mapped_column(BigInteger)
    kind: Mapped[str] = mapped_column(String(30))
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=_NOW)
    data: Mapped[dict[str, Any]]
    personal: Mapped[dict[str, Any] | None]
    salt: Mapped[str]
    digest: Mapped[str] = mapped_column(String(64))
    undoes: Mapped[int | None] = mapped_column(BigInteger)
    undoes_part: Mapped[int | None]
    rests_on: Mapped[list[int]] = mapped_column(ARRAY(BigInteger), server_default=text("'{}'"))
    previous: Mapped[str] = mapped_column(String(64))
    hash: Mapped[str] = mapped_column(String(64))


class JournalTouch(Base):
    """What an entry touches besides the golden records of its moves: ``what`` is golden, record, source or delivery."""

    __tablename__ = "journal_touches"
    __table_args__ = (Index("ix_journal_touches_touched", "what", "touched", "journal_id"),)
    journal_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    what: Mapped[str] = mapped_column(String(12), primary_key=True)
    touched: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)


class Move(Base):
    """A record that an act put from one golden record (or none) into another (or none); parts are undone one by one.

    Append-only. The latest move of every record says to which golden record it belongs.
    """

    __tablename__ = "moves"
    __table_args__ = (
        Index("ix_moves_journal_id_part", "journal_id", "part"),
        Index("ix_moves_record_id_id", "record_id", "id"),
        Index("ix_moves_from_golden", "from_golden", "id", postgresql_where=text("from_golden IS NOT NULL")),
        Index("ix_moves_to_golden", "to_golden", "id", postgresql_where=text("to_golden IS NOT NULL")),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    journal_id: Mapped[int] = mapped_column(BigInteger)
    part: Mapped[int]
    record_id: Mapped[int] = mapped_column(BigInteger)
    from_golden: Mapped[int | None] = mapped_column(BigInteger)
    to_golden: Mapped[int | None] = mapped_column(BigInteger)


class Job(Base):
    """Background work with its progress; kept after it has ended.

    Small work goes by the ``lane`` quick, beside the slow one. Whoever runs it says at ``beat_at`` that it still does; work
    that broke off through no fault of its own is begun again, up to a few ``attempts``.
    """

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
    lane: Mapped[str] = mapped_column(String(8), server_default="slow")
    attempts: Mapped[int] = mapped_column(server_default=text("0"))
    beat_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = mapped_column(server_default=_NOW)
    started_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
