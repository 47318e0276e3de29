"""Registers with their sources, match plans and counters."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, Boolean, ForeignKey, Identity, Index, Integer, String, Text, text
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class Register(Base):
    """A register: its kind, the prefix of its golden keys, its survivorship rules, and what its layout has beyond the usual.

    ``form`` says how golden values are written: "as delivered", or "standard"; ``value_field`` by which field doubts are worth more or
    less to decide ("" for none). ``recognises`` says whether what is delivered is matched and merged as it comes in, ``recognisable`` by
    which values of a field golden records may be (all, where it is None); ``reference`` is the trusted reference, its name and address.
    ``parents`` says what becomes of records that refer to something that is not there: told ("tell"), put "aside", or it is made ("make").
    ``personal`` fields are hidden from those who do not need them. ``sign_off`` says what needs a second person's yes; it is None where
    nothing ever did.

    ``version`` rises with every change of rules, layout, quality rules or sources, so that a stale one is refused.
    """

    __tablename__ = "registers"
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    slug: Mapped[str] = mapped_column(String(80), unique=True)
    name: Mapped[str]
    kind: Mapped[str] = mapped_column(String(20))
    prefix: Mapped[str] = mapped_column(String(8))
    rules: Mapped[dict[str, Any]]
    form: Mapped[str] = mapped_column(String(20), server_default="as delivered")
    value_field: Mapped[str] = mapped_column(server_default="")
    recognises: Mapped[bool] = mapped_column(Boolean, server_default=text("false"))
    recognisable: Mapped[dict[str, Any] | None]
    parents: Mapped[str] = mapped_column(String(10), server_default="tell")
    reference: Mapped[dict[str, Any] | None]
    personal: Mapped[list[str]] = mapped_column(ARRAY(Text), server_default=text("'{}'"))
    sign_off: Mapped[dict[str, Any] | None]
    layout: Mapped[list[dict[str, str]] | None]
    quality: Mapped[list[dict[str, str]] | None]
    next_number: Mapped[int] = mapped_column(BigInteger, server_default=text("1"))
    version: Mapped[int] = mapped_column(server_default=text("1"))
    created_at: Mapped[datetime] = mapped_column(server_default=NOW)


class Source(Base):
    """A system that delivers records.

    It remembers its column mapping, how its files are read, whether it ``delivers`` everything ("full") or only what
    changed ("changes"), and what becomes of records that a full delivery no longer holds (``gone``: "keep" or "end").
    ``creates`` says whether golden records are made of what it alone knows ("always", "never"), or of what is there already ("unless
    known": its records are refused where they are duplicates); ``supplies`` whether its values may change golden records.
    ``erasing_salt`` goes into the digests by which records that were erased are known.
    """

    __tablename__ = "sources"
    __table_args__ = (Index(None, "register_id", "name", unique=True),)
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    name: Mapped[str]
    trust_rank: Mapped[int] = mapped_column(Integer)
    erasing_salt: Mapped[str] = mapped_column(server_default="")
    own_duplicates: Mapped[bool] = mapped_column(Boolean, server_default=text("true"))
    mapping: Mapped[list[dict[str, str]] | None]
    columns: Mapped[list[str] | None] = mapped_column(ARRAY(Text))
    reading: Mapped[dict[str, Any] | None]
    delivers: Mapped[str] = mapped_column(String(10), server_default="full")
    gone: Mapped[str] = mapped_column(String(10), server_default="keep")
    query: Mapped[dict[str, Any] | None]
    creates: Mapped[str] = mapped_column(String(14), server_default="always")
    supplies: Mapped[bool] = mapped_column(Boolean, server_default=text("true"))


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
    at: Mapped[datetime] = mapped_column(server_default=NOW)


class PlanDraft(Base):
    """A plan that somebody works on: any text, valid or not; made from a version, and changed by whom last."""

    __tablename__ = "plan_drafts"
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    title: Mapped[str]
    yaml: Mapped[str]
    based_on: Mapped[int]
    version: Mapped[int] = mapped_column(server_default=text("1"))
    actor: Mapped[str]
    changed_by: Mapped[str]
    changed_at: Mapped[datetime] = mapped_column(server_default=NOW)


class Counters(Base):
    """Counts that every screen shows, kept by what changes them; ``records_version`` rises when records change.

    ``kinds`` says how many doubts of each kind wait or are put off.
    """

    __tablename__ = "counters"
    register_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    records: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    golden: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    without_golden: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    waiting: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    put_off: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    kinds: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'"))
    records_version: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
