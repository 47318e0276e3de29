"""Accounts and roles, and how people and programs show who they are."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import delete, func, select, text, update
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .database import DriverConnection
from .tables import AccessToken, Guesses, KnownBrowser, OneTimeLink, Person, Register, RoleGiven, SignedIn

#: A browser in which nobody signed in for so long is known no more; its cookie lasts as long.
KNOWN_FOR = timedelta(days=400)


def all_people(session: Session) -> Sequence[Person]:
    """Return all accounts by name, ended ones too."""
    return session.scalars(select(Person).order_by(func.lower(Person.name))).all()


def person_by_name(session: Session, name: str) -> Person:
    """Return the account whose acts are kept under a name; raise NotFound."""
    person = session.scalar(select(Person).where(func.lower(Person.name) == name.strip().lower()))
    if person is None:
        raise NotFound("person", name)
    return person


def person_by_id(session: Session, person_id: int) -> Person:
    """Return an account; raise NotFound."""
    person = session.get(Person, person_id)
    if person is None:
        raise NotFound("person", person_id)
    return person


def person_who_signs_in(session: Session, sign_in: str) -> Person | None:
    """Return the account that has not ended with such a name to sign in, or None."""
    return session.scalar(select(Person).where(Person.sign_in == sign_in, Person.ended_at.is_(None)))


def person_by_subject(session: Session, issuer: str, subject: str) -> Person | None:
    """Return the account that an identity provider knows under a name of its own, or None."""
    return session.scalar(select(Person).where(Person.issuer == issuer, Person.subject == subject))


def person_without_subject(session: Session, email: str) -> Person | None:
    """Return the account of an address that has not ended and that no identity provider knows yet, or None."""
    is_so = func.lower(Person.email) == email.lower(), Person.subject == "", Person.ended_at.is_(None)
    return session.scalar(select(Person).where(*is_so).with_for_update())


def is_taken(session: Session, *, name: str, sign_in: str, email: str) -> str:
    """Return which of a name, a name to sign in and an address somebody has already: "name", "sign-in", "email" or ""."""
    if session.scalar(select(Person.id).where(func.lower(Person.name) == name.lower())):
        return "name"
    if session.scalar(select(Person.id).where(Person.sign_in == sign_in)):
        return "sign-in"
    has = func.lower(Person.email) == email.lower(), Person.ended_at.is_(None)
    return "email" if email and session.scalar(select(Person.id).where(*has)) else ""


def anybody(session: Session) -> bool:
    """Whether there is any account, ended or not."""
    return session.scalar(select(Person.id).limit(1)) is not None


def roles_of(session: Session, person_ids: Collection[int]) -> list[tuple[int, str | None, str]]:
    """Return (person, short name of the register or None for every one, role) of some people."""
    query = select(RoleGiven.person_id, Register.slug, RoleGiven.role).outerjoin(Register)
    query = query.where(RoleGiven.person_id.in_(person_ids))
    ordered = query.order_by(RoleGiven.person_id, Register.id.nulls_first(), RoleGiven.role)
    return [(row[0], row[1], row[2]) for row in session.execute(ordered)]


def replace_roles(session: Session, person_id: int, roles: Collection[tuple[int | None, str]]) -> None:
    """Give a person these (register or None, role) and no others."""
    session.execute(delete(RoleGiven).where(RoleGiven.person_id == person_id))
    session.add_all(
        RoleGiven(person_id=person_id, register_id=register, role=role)
        for register, role in sorted(set(roles), key=lambda one: (one[0] or 0, one[1]))
    )
    session.flush()
    rights = [[slug, role] for _, slug, role in roles_of(session, [person_id])]
    session.execute(update(Person).where(Person.id == person_id).values(rights=rights))


def still_here(session: Session, names: Collection[str]) -> set[str]:
    """Return which of some names belong to nobody whose account has ended."""
    gone = select(Person.name).where(Person.name.in_(names), Person.ended_at.is_not(None))
    return set(names) - set(session.scalars(gone)) if names else set()


def operators_of_all(session: Session) -> int:
    """Return how many accounts that have not ended have the operator's role in every register."""
    query = select(func.count()).select_from(RoleGiven).join(Person)
    return session.scalar(
        query.where(RoleGiven.role == "operator", RoleGiven.register_id.is_(None), Person.ended_at.is_(None))
    ) or 0  # fmt: skip


@dataclass(frozen=True, slots=True)
class Shown:
    """Whom a cookie or a token stands for: the account, its roles as (register or None, role), and, of a token, what it is cut down to."""

    person_id: int
    name: str
    signed_in_id: int | None
    seen_at: datetime | None
    roles: list[tuple[str | None, str]]
    only_roles: list[str] | None
    only_registers: list[str] | None


#: Asked before every request, so in the driver's own words: what lies between costs as much again.
_BY_COOKIE = """
    SELECT p.id, p.name, s.id, s.seen_at, p.rights, NULL::text[], NULL::text[]
    FROM signed_in s JOIN people p ON p.id = s.person_id
    WHERE s.secret = %s AND p.ended_at IS NULL AND s.until > now() AND s.seen_at > now() - make_interval(secs => %s)
"""
_BY_TOKEN = """
    SELECT p.id, p.name, NULL::bigint, t.used_at, p.rights, t.roles, t.registers
    FROM access_tokens t JOIN people p ON p.id = t.person_id
    WHERE t.secret = %s AND p.ended_at IS NULL AND t.ends_on >= current_date
"""
_SEEN = "UPDATE signed_in SET seen_at = now() WHERE secret = %s"
_USED = "UPDATE access_tokens SET used_at = now() WHERE secret = %s"


def shown_by_cookie(connection: DriverConnection, secret: str, idle_s: float) -> Shown | None:
    """Return whom the digest of a cookie stands for, if it was seen within so many seconds."""
    return _shown(connection.execute(_BY_COOKIE, (secret, idle_s), prepare=True).fetchone())


def shown_by_token(connection: DriverConnection, secret: str) -> Shown | None:
    """Return whom the digest of a token stands for, with what the token is cut down to."""
    return _shown(connection.execute(_BY_TOKEN, (secret,), prepare=True).fetchone())


def _shown(row: tuple[Any, ...] | None) -> Shown | None:
    if row is None:
        return None
    person_id, name, signed_in, seen_at, rights, only_roles, only_registers = row
    return Shown(
        person_id, name, signed_in, seen_at, [(slug, role) for slug, role in rights], only_roles, only_registers
    )


def note_seen(connection: DriverConnection, secret: str, *, token: bool) -> None:
    """Note that a cookie or a token was used now."""
    connection.execute(_USED if token else _SEEN, (secret,))


def browsers_of(session: Session, person_id: int) -> Sequence[SignedIn]:
    """Return where a person is signed in, the latest first."""
    query = select(SignedIn).where(SignedIn.person_id == person_id, SignedIn.until > func.now())
    return session.scalars(query.order_by(SignedIn.seen_at.desc())).all()


def end_browsers(session: Session, person_id: int, *, only: int | None = None, but: int | None = None) -> int:
    """End where a person is signed in: everywhere, in one browser only, or everywhere but in one; return how many ended."""
    query = delete(SignedIn).where(SignedIn.person_id == person_id)
    if only is not None:
        query = query.where(SignedIn.id == only)
    if but is not None:
        query = query.where(SignedIn.id != but)
    return len(session.execute(query.returning(SignedIn.id)).all())


def end_by_secret(session: Session, secret: str) -> None:
    """End the browser whose cookie has this digest."""
    session.execute(delete(SignedIn).where(SignedIn.secret == secret))


def tokens_of(session: Session, person_id: int) -> Sequence[AccessToken]:
    """Return a person's tokens, the latest first."""
    query = select(AccessToken).where(AccessToken.person_id == person_id)
    return session.scalars(query.order_by(AccessToken.id.desc())).all()


def end_token(session: Session, person_id: int, token_id: int) -> AccessToken:
    """End a person's token; raise NotFound."""
    token = session.get(AccessToken, token_id)
    if token is None or token.person_id != person_id:
        raise NotFound("token", token_id)
    session.delete(token)
    session.flush()
    return token


def end_tokens(session: Session, person_id: int) -> None:
    """End all tokens of a person."""
    session.execute(delete(AccessToken).where(AccessToken.person_id == person_id))


def link_by_secret(session: Session, secret: str, now: datetime) -> OneTimeLink | None:
    """Return the one-time link of a digest that is still good, locked until the transaction ends."""
    query = select(OneTimeLink).where(OneTimeLink.secret == secret, OneTimeLink.until > now)
    return session.scalar(query.with_for_update())


def forget_links(session: Session, person_id: int | None) -> None:
    """Let earlier links of a person, or for the first account, lead nowhere."""
    of = OneTimeLink.person_id.is_(None) if person_id is None else OneTimeLink.person_id == person_id
    session.execute(delete(OneTimeLink).where(of))


_COUNT = text("""
    INSERT INTO guesses AS g (about, tried, last_at, not_before)
    VALUES (:about, 1, :now, :now)
    ON CONFLICT (about) DO UPDATE SET
        tried = CASE WHEN g.last_at < CAST(:now AS timestamptz) - interval '1 day' THEN 1 ELSE g.tried + 1 END,
        last_at = :now,
        not_before = CAST(:now AS timestamptz) + make_interval(secs => CASE
            WHEN g.last_at < CAST(:now AS timestamptz) - interval '1 day' OR g.tried + 1 < :free THEN 0
            ELSE least(:most_wait_s, power(2, least(g.tried + 1 - :free, 20))) END)
    WHERE g.not_before <= :now
    RETURNING tried
""")


@dataclass(frozen=True, slots=True)
class KeptGuesses:
    """Tries to sign in, counted in the database. After so many free ones each lets the next one wait twice as long, up to a limit;
    after a day all is forgotten."""

    session: Session

    def count(self, about: str, now: datetime, *, free: int, most_wait_s: float) -> int | None:
        """Count a try before it is looked at; return how many there were, or None if it comes too early and does not count."""
        values = {"about": about, "now": now, "free": free, "most_wait_s": most_wait_s}
        counted: int | None = self.session.scalar(_COUNT, values)
        return counted

    def wait_until(self, about: str) -> datetime | None:
        """Return from when on the next try counts."""
        return self.session.scalar(select(Guesses.not_before).where(Guesses.about == about))

    def tried(self, about: str) -> int:
        """Return how many tries were counted for something."""
        return self.session.scalar(select(Guesses.tried).where(Guesses.about == about)) or 0

    def forget(self, about: Collection[str]) -> None:
        """Forget what was tried, as something was right."""
        self.session.execute(delete(Guesses).where(Guesses.about.in_(about)))


def forget_old(session: Session, now: datetime) -> None:
    """Forget guesses, links, sign-ins and known browsers whose time is over."""
    session.execute(
        text("DELETE FROM guesses WHERE last_at < CAST(:now AS timestamptz) - interval '2 days'"), {"now": now}
    )
    session.execute(delete(OneTimeLink).where(OneTimeLink.until < now))
    session.execute(delete(SignedIn).where(SignedIn.until < now))
    session.execute(delete(KnownBrowser).where(KnownBrowser.seen_at < now - KNOWN_FOR))


def see_browser(session: Session, secret: str, now: datetime) -> None:
    """Note that a known browser was used."""
    session.execute(update(KnownBrowser).where(KnownBrowser.secret == secret).values(seen_at=now))


def knows_browser(session: Session, secret: str, person_id: int) -> bool:
    """Whether a person signed in before in the browser whose mark has this digest."""
    known = session.get(KnownBrowser, secret)
    return known is not None and known.person_id == person_id
