"""People: accounts, the roles they have, how they sign in, and what keeps strangers from guessing."""

from datetime import date, datetime
from typing import Any

from sqlalchemy import BigInteger, Boolean, Date, ForeignKey, Identity, Index, Integer, String, text
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, TEXT
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class Person(Base):
    """An account. The ``name`` is what acts are kept under: it belongs to one person for ever, also after the account has ended.

    ``sign_in`` is the name that is typed to sign in, ``password`` an Argon2id hash in PHC form, None until one was chosen. Whoever signs
    in by an identity provider is found by ``issuer`` and ``subject``, the first time by ``email``. A made-up person of the ``demo`` signs
    in without a password. ``rights`` are the roles given, [short name of the register or None, role], beside the account for whoever asks.
    """

    __tablename__ = "people"
    __table_args__ = (
        Index("uq_people_name", text("lower(name)"), unique=True),
        Index("uq_people_sign_in", "sign_in", unique=True),
        Index("uq_people_email", text("lower(email)"), unique=True, postgresql_where=text("email <> '' AND ended_at IS NULL")),
        Index("uq_people_subject", "issuer", "subject", unique=True, postgresql_where=text("subject <> ''")),
    )  # fmt: skip
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str]
    sign_in: Mapped[str]
    email: Mapped[str] = mapped_column(server_default="")
    issuer: Mapped[str] = mapped_column(server_default="")
    subject: Mapped[str] = mapped_column(server_default="")
    password: Mapped[str | None]
    demo: Mapped[bool] = mapped_column(Boolean, server_default=text("false"))
    rights: Mapped[list[Any]] = mapped_column(JSONB, server_default=text("'[]'"))
    added_at: Mapped[datetime] = mapped_column(server_default=NOW)
    ended_at: Mapped[datetime | None]


class RoleGiven(Base):
    """A role of a person in a register, or in every one, also those to come, where ``register_id`` is None."""

    __tablename__ = "roles_given"
    __table_args__ = (
        Index("uq_roles_given", "person_id", text("coalesce(register_id, 0)"), "role", unique=True),
    )  # fmt: skip
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("people.id"))
    register_id: Mapped[int | None] = mapped_column(ForeignKey("registers.id"))
    role: Mapped[str] = mapped_column(String(12))


class SignedIn(Base):
    """A browser in which somebody is signed in. ``secret`` is the SHA-256 of what its cookie holds; it ends at ``until`` at the latest."""

    __tablename__ = "signed_in"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("people.id"), index=True)
    secret: Mapped[str] = mapped_column(String(64), unique=True)
    address: Mapped[str]
    browser: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)
    seen_at: Mapped[datetime] = mapped_column(server_default=NOW)
    until: Mapped[datetime] = mapped_column(index=True)


class AccessToken(Base):
    """What a program shows instead of a password: it acts as a person, with those of the person's roles that it names.

    ``registers`` are the short names of the registers for which it is good, all where it is None.
    """

    __tablename__ = "access_tokens"
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("people.id"), index=True)
    label: Mapped[str]
    secret: Mapped[str] = mapped_column(String(64), unique=True)
    roles: Mapped[list[str]] = mapped_column(ARRAY(TEXT))
    registers: Mapped[list[str] | None] = mapped_column(ARRAY(TEXT))
    made_at: Mapped[datetime] = mapped_column(server_default=NOW)
    ends_on: Mapped[date] = mapped_column(Date)
    used_at: Mapped[datetime | None]


class OneTimeLink(Base):
    """A link by which a password is chosen, once; without a person it makes the first account."""

    __tablename__ = "one_time_links"
    secret: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[int | None] = mapped_column(ForeignKey("people.id"))
    until: Mapped[datetime]


class Guesses(Base):
    """Passwords tried since one was right, for what is guessed at (a digest: a name, a name from an address, an address)."""

    __tablename__ = "guesses"
    about: Mapped[str] = mapped_column(String(64), primary_key=True)
    tried: Mapped[int] = mapped_column(Integer)
    last_at: Mapped[datetime] = mapped_column(index=True)
    not_before: Mapped[datetime]


class KnownBrowser(Base):
    """A browser in which a person signed in before: what strangers guess elsewhere does not keep it waiting."""

    __tablename__ = "known_browsers"
    secret: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("people.id"), index=True)
    seen_at: Mapped[datetime] = mapped_column(server_default=NOW)
