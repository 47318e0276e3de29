"""Signing in and out, and what keeps strangers from guessing passwords without keeping anybody out.

Tries are counted before they are looked at, for three things: a name from one network (5 are free), a name from anywhere (100, as NIST
SP 800-63B, section 3.2.2, asks), and a network (50). Beyond that each try lets the next one wait twice as long, up to a quarter of an
hour; tries that come too early are refused unseen and do not count, so that whoever goes on guessing does not lengthen the wait. In a
browser where the person signed in before, only what is tried in that browser counts. So no account is locked for longer than that.
"""

import ipaddress
import math
from collections.abc import Callable, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from ...core.errors import GuessedTooOften, NotSignedIn, Refused
from ...store import people as store
from ...store.tables import KnownBrowser, Person, SignedIn
from .passwords import is_dated, is_right, keep
from .secret_words import digest, fresh_secret

#: Signed in for so long at most, as NIST SP 800-63B (section 2.1.3) asks.
LASTS = timedelta(days=30)
KNOWN_LASTS = store.KNOWN_FOR
_MOST_WAIT_S = 900.0
_FREE_HERE, _FREE_ANYWHERE, _FREE_OF_NETWORK = 5, 100, 50
_LONGEST_BROWSER = 200
Transactions = Callable[[], AbstractContextManager[Session]]


@dataclass(frozen=True, slots=True)
class Asking:
    """From where somebody signs in: address, browser as it calls itself, and the mark of a browser in which somebody did before."""

    address: str
    browser: str = ""
    known: str = ""


@dataclass(frozen=True, slots=True)
class SignedInNow:
    """Who is signed in now, the secrets for the two cookies, and how many wrong passwords were tried since the last time."""

    person: Person
    cookie: str
    known: str
    wrong_before: int


def sign_in(transactions: Transactions, sign_in: str, password: str, asking: Asking, now: datetime) -> SignedInNow:
    """Sign somebody in by a password; raise NotSignedIn if it is wrong, GuessedTooOften if it was not looked at."""
    name = sign_in.strip().casefold()
    with transactions() as session:
        person = store.person_who_signs_in(session, name)
        known = (
            person is not None and bool(asking.known) and store.knows_browser(session, digest(asking.known), person.id)
        )
        own, others = _limits(name, asking, known)
        wait_s = _count(session, [*own, *others], now)
    if wait_s:
        raise GuessedTooOften(wait_s)
    if not is_right(password, person.password if person else None) or person is None:
        raise NotSignedIn("This name and password do not go together.")
    with transactions() as session:
        wrong = store.tried(session, _by_name(name).about) - (0 if known else 1)
        store.forget_guesses(session, [limit.about for limit in own])
        fresh = store.person_by_id(session, person.id)
        # While the password was looked at, it may have been changed or forgotten, or the account have ended.
        if fresh.ended_at is not None or fresh.password is None or fresh.password != person.password:
            raise NotSignedIn("This name and password do not go together.")
        if is_dated(fresh.password):
            fresh.password = keep(password)
        return begin(session, fresh, asking, now, wrong_before=max(0, wrong))


def begin(session: Session, person: Person, asking: Asking, now: datetime, *, wrong_before: int = 0) -> SignedInNow:
    """Sign a person in who has shown who they are."""
    store.forget_old(session, now)
    cookie, known = fresh_secret(), asking.known
    if known and store.knows_browser(session, digest(known), person.id):
        store.see_browser(session, digest(known), now)
    else:
        known = fresh_secret()
        session.add(KnownBrowser(secret=digest(known), person_id=person.id))
    session.add(
        SignedIn(
            person_id=person.id, secret=digest(cookie), address=asking.address, browser=asking.browser[:_LONGEST_BROWSER],
            until=now + LASTS,
        )
    )  # fmt: skip
    session.flush()
    return SignedInNow(person, cookie, known, wrong_before)


def sign_out(session: Session, cookie: str) -> None:
    """End the browser that shows a cookie."""
    store.end_by_secret(session, digest(cookie))


def check_password(transactions: Transactions, person_id: int, password: str, now: datetime) -> None:
    """Raise unless this is the password of a person who is signed in: asked again before it is changed."""
    limit = _Limit(digest(f"again\0{person_id}"), _FREE_HERE)
    with transactions() as session:
        wait_s = _count(session, [limit], now)
        kept = store.person_by_id(session, person_id).password
    if wait_s:
        raise GuessedTooOften(wait_s)
    if not is_right(password, kept):
        raise Refused("This is not your present password.")
    with transactions() as session:
        store.forget_guesses(session, [limit.about])


@dataclass(frozen=True, slots=True)
class _Limit:
    """What tries are counted for, and how many are free."""

    about: str
    free: int


def _by_name(name: str) -> _Limit:
    return _Limit(digest(f"name\0{name}"), _FREE_ANYWHERE)


def _limits(name: str, asking: Asking, known: bool) -> tuple[list[_Limit], list[_Limit]]:
    """Return what a try counts for: what a right password lets be forgotten, and what it does not, being others' as well."""
    if known:
        return [_Limit(digest(f"browser\0{asking.known}"), _FREE_HERE)], []
    network = _network(asking.address)
    here = _Limit(digest(f"name and network\0{name}\0{network}"), _FREE_HERE)
    return [here, _by_name(name)], [_Limit(digest(f"network\0{network}"), _FREE_OF_NETWORK)]


def _count(session: Session, limits: Sequence[_Limit], now: datetime) -> int:
    """Count a try before it is looked at; return how many seconds it comes too early, or 0. To be committed whatever becomes of it."""
    for limit in limits:
        if store.count_guess(session, limit.about, now, free=limit.free, most_wait_s=_MOST_WAIT_S) is None:
            until = store.wait_until(session, limit.about) or now
            return max(1, math.ceil((until - now).total_seconds()))
    return 0


def _network(address: str) -> str:
    """Return what one subscriber has: an IPv4 address, or the first 64 bits of an IPv6 one."""
    try:
        found = ipaddress.ip_address(address)
    except ValueError:
        return address
    return str(ipaddress.ip_network(f"{found}/64", strict=False)) if found.version == 6 else str(found)
