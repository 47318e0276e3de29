"""Signing in and out."""

from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from ...core.errors import GuessedTooOften, NotSignedIn, Refused
from ...store import people as store
from ...store.tables import KnownBrowser, Person, SignedIn
from .passwords import is_dated, is_right, keep
from .secret_words import digest, fresh_secret
from .throttle import try_again, try_by_name, wrong_before

#: Signed in for so long at most, as NIST SP 800-63B (section 2.1.3) asks.
LASTS = timedelta(days=30)
KNOWN_LASTS = store.KNOWN_FOR
_LONGEST_BROWSER = 200
Transactions = Callable[[], AbstractContextManager[Session]]
#: Whether a password is the one that was kept.
LooksAt = Callable[[str, str | None], bool]


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


def sign_in(
    transactions: Transactions, sign_in: str, password: str, asking: Asking, now: datetime, looks_at: LooksAt = is_right
) -> SignedInNow:
    """Sign somebody in by a password; raise NotSignedIn if it is wrong, GuessedTooOften if it was not looked at."""
    name = sign_in.strip().casefold()
    with transactions() as session:
        person = store.person_who_signs_in(session, name)
        is_known = person and asking.known and store.knows_browser(session, digest(asking.known), person.id)
        known = asking.known if is_known else ""
        this_try = try_by_name(name, asking.address, known)
        wait_s = this_try.count(store.KeptGuesses(session), now)
    if wait_s:
        raise GuessedTooOften(wait_s)
    if not looks_at(password, person.password if person else None) or person is None:
        raise NotSignedIn("This name and password do not go together.")
    with transactions() as session:
        guesses = store.KeptGuesses(session)
        wrong = wrong_before(guesses, name, known)
        this_try.was_right(guesses)
        fresh = store.person_by_id(session, person.id)
        # While the password was looked at, it may have been changed or forgotten, or the account have ended.
        if fresh.ended_at is not None or fresh.password is None or fresh.password != person.password:
            raise NotSignedIn("This name and password do not go together.")
        if is_dated(fresh.password):
            fresh.password = keep(password)
        return begin(session, fresh, asking, now, wrong_before=wrong)


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
    this_try = try_again(person_id)
    with transactions() as session:
        wait_s = this_try.count(store.KeptGuesses(session), now)
        kept = store.person_by_id(session, person_id).password
    if wait_s:
        raise GuessedTooOften(wait_s)
    if not is_right(password, kept):
        raise Refused("This is not your present password.")
    with transactions() as session:
        this_try.was_right(store.KeptGuesses(session))
