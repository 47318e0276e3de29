"""The desk: what waits for a person, decisions about pairs and groups of records, and second looks at them."""

from datetime import date, datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, Integer, SmallInteger, String, Text, text
from sqlalchemy.dialects.postgresql import ARRAY, REAL
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base

_WAITS = text("state <> 'decided'")


class Doubt(Base):
    """What waits for a person, until it is decided or no longer in question.

    Of the standing run: the strongest doubtful pair for every two clusters, ``one`` and ``other``, since one decision says
    whether the two are one; and awkward clusters (``what`` is "cluster", both are its number). And pairs and groups that were decided
    on values that have changed since (``decision_id``, ``group_id``). ``distance`` is
    how far the score lies from even odds, ``records`` how many records a *same* would put together, ``since`` when the doubt first
    arose, ``value`` the larger value of the two records in the register's field of value; ``state`` is open, later,
    proposed (what somebody decided waits for a second yes) or decided. One put off comes back on the day ``until``, if any; somebody
    was ``asked`` about it, if that is not "".
    """

    __tablename__ = "doubts"
    __table_args__ = (
        Index("uq_doubts_clusters", "run_id", "one", "other", "what", unique=True,
              postgresql_where=text("decision_id IS NULL AND group_id IS NULL")),
        Index("uq_doubts_decision", "run_id", "decision_id", unique=True, postgresql_where=text("decision_id IS NOT NULL")),
        Index("uq_doubts_group", "run_id", "group_id", unique=True, postgresql_where=text("group_id IS NOT NULL")),
        Index("ix_doubts_distance", "run_id", "state", "distance", "id", postgresql_where=_WAITS),
        Index("ix_doubts_score", "run_id", "state", text("score DESC"), "id", postgresql_where=_WAITS),
        Index("ix_doubts_records", "run_id", "state", text("records DESC"), "id", postgresql_where=_WAITS),
        Index("ix_doubts_since", "run_id", "state", "since", "id", postgresql_where=_WAITS),
        Index("ix_doubts_value", "run_id", "state", text("value DESC"), "id", postgresql_where=_WAITS),
        Index("ix_doubts_until", "until", postgresql_where=text("state = 'later' AND until IS NOT NULL")),
        Index("ix_doubts_kind", "run_id", "kind", "state", postgresql_where=_WAITS),
        Index("ix_doubts_what", "run_id", "state", postgresql_where=text("what = 'cluster' AND state <> 'decided'")),
        Index("ix_doubts_came_back", "run_id", postgresql_where=text("state = 'open' AND (until IS NOT NULL OR kind = 'changed')")),
        Index("ix_doubts_asked", "asked", postgresql_where=text("state = 'later' AND asked <> ''")),
    )  # fmt: skip
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int]
    run_id: Mapped[int]
    what: Mapped[str] = mapped_column(String(8), server_default="pair")
    left_id: Mapped[int] = mapped_column(BigInteger, index=True)
    right_id: Mapped[int] = mapped_column(BigInteger, index=True)
    one: Mapped[int] = mapped_column(BigInteger, index=True)
    other: Mapped[int] = mapped_column(BigInteger, index=True)
    kind: Mapped[str]
    score: Mapped[float] = mapped_column(REAL)
    distance: Mapped[float] = mapped_column(REAL)
    records: Mapped[int]
    since: Mapped[datetime] = mapped_column(server_default=NOW)
    value: Mapped[float] = mapped_column(server_default=text("0"))
    sources: Mapped[list[int]] = mapped_column(ARRAY(Integer), server_default=text("'{}'"))
    state: Mapped[str] = mapped_column(String(10))
    until: Mapped[date | None]
    asked: Mapped[str] = mapped_column(server_default="")
    decision_id: Mapped[int | None] = mapped_column(BigInteger)
    group_id: Mapped[int | None] = mapped_column(BigInteger)


class Decision(Base):
    """What a person said of a pair. Append-only but for the marks that it was withdrawn, and what changed since.

    ``basis`` is what it rested on: the tidy values of the compared ``fields`` of the ``left`` and ``right`` record.
    ``changed`` lists the fields in which the records are others now; the decision stays in force and is asked again.
    A *later* may name the day ``until`` which it waits, and who is ``asked``. ``journal_id`` is the act that made it.
    """

    __tablename__ = "decisions"
    __table_args__ = (
        Index("ix_decisions_pair", "register_id", "left_id", "right_id"),
        Index("ix_decisions_register_id_id", "register_id", "id"),
        Index("ix_decisions_actor", "register_id", "actor", "id"),
        Index("ix_decisions_at", "register_id", "at"),
        Index("ix_decisions_asked", "asked", postgresql_where=text("asked <> ''")),
        Index("ix_decisions_journal_id", "journal_id", postgresql_where=text("journal_id IS NOT NULL")),
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
    until: Mapped[date | None]
    asked: Mapped[str] = mapped_column(server_default="")
    journal_id: Mapped[int | None] = mapped_column(BigInteger)


class GroupDecision(Base):
    """What a person said of a group of records as a whole: all the same, those of different sides different, or later.

    So a split of sixty records is one decision, not hundreds. Append-only but for the marks that it was withdrawn, and what changed
    since; ``fields`` are the tidy fields that it rests on, whose values each member keeps.
    """

    __tablename__ = "group_decisions"
    __table_args__ = (
        Index("ix_group_decisions_register_id", "register_id", "id"),
        Index("ix_group_decisions_at", "register_id", "at"),
        Index("ix_group_decisions_asked", "asked", postgresql_where=text("asked <> ''")),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    verdict: Mapped[str] = mapped_column(String(10))
    remark: Mapped[str]
    actor: Mapped[str]
    fields: Mapped[list[str]] = mapped_column(ARRAY(Text))
    changed: Mapped[list[str] | None] = mapped_column(ARRAY(Text))
    until: Mapped[date | None]
    asked: Mapped[str] = mapped_column(server_default="")
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    withdrawn_at: Mapped[datetime | None]
    withdrawn_by: Mapped[str | None]
    journal_id: Mapped[int | None] = mapped_column(BigInteger)


class GroupMember(Base):
    """A record of a group decision, on which ``side`` it stands, and the tidy values that the decision rests on."""

    __tablename__ = "group_members"
    group_id: Mapped[int] = mapped_column(ForeignKey("group_decisions.id"), primary_key=True, autoincrement=False)
    record_id: Mapped[int] = mapped_column(ForeignKey("source_records.id"), primary_key=True, index=True)
    side: Mapped[int] = mapped_column(SmallInteger)
    basis: Mapped[dict[str, Any]]


class SecondLook(Base):
    """What a person said of a decided pair that was shown again unmarked; the decision stays."""

    __tablename__ = "second_looks"
    __table_args__ = (
        Index("uq_second_looks", "decision_id", "actor", unique=True),
        Index("ix_second_looks_register_id", "register_id", "id"),
    )
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    decision_id: Mapped[int] = mapped_column(ForeignKey("decisions.id"))
    verdict: Mapped[str] = mapped_column(String(10))
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)


class PieceOfWork(Base):
    """Doubts that are given to ``people`` to decide, until ``due_on``: of a kind, with a record of a source, pairs or clusters, of at least
    and at most so many records (0: no limit), and of these those whose place between 0 and 100 lies in the share. An empty one is of all.

    Of several that fit a doubt, the one given first counts.
    """

    __tablename__ = "pieces_of_work"
    __table_args__ = (
        Index("ix_pieces_of_work_register_id", "register_id", "id", postgresql_where=text("ended_at IS NULL")),
    )
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    people: Mapped[list[str]] = mapped_column(ARRAY(Text))
    kind: Mapped[str] = mapped_column(server_default="")
    source_id: Mapped[int | None] = mapped_column(ForeignKey("sources.id"))
    what: Mapped[str] = mapped_column(String(8), server_default="")
    least_records: Mapped[int] = mapped_column(server_default=text("0"))
    most_records: Mapped[int] = mapped_column(server_default=text("0"))
    share_from: Mapped[int] = mapped_column(SmallInteger, server_default=text("0"))
    share_to: Mapped[int] = mapped_column(SmallInteger, server_default=text("100"))
    due_on: Mapped[date | None]
    remark: Mapped[str] = mapped_column(server_default="")
    given_by: Mapped[str]
    given_at: Mapped[datetime] = mapped_column(server_default=NOW)
    ended_at: Mapped[datetime | None]


class Lease(Base):
    """What somebody has before them at a ``desk`` (one open window), so that nobody else gets it; not kept over a crash."""

    __tablename__ = "leases"
    __table_args__ = (Index("ix_leases_register_id", "register_id", "until"), {"prefixes": ["UNLOGGED"]})
    left_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    right_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    register_id: Mapped[int]
    actor: Mapped[str]
    desk: Mapped[str]
    until: Mapped[datetime]
