"""Accounts, passwords, guesses and tokens, over a real database."""

from collections.abc import Callable
from contextlib import AbstractContextManager
from datetime import UTC, datetime, timedelta
from functools import partial

import pytest
from sqlalchemy import update

from oddpair.core.errors import GuessedTooOften, NotFound, NotSignedIn, Refused
from oddpair.core.rights import Permission, Role
from oddpair.services.journal.entries import verify
from oddpair.services.people import accounts, browsers, passwords, tokens, who
from oddpair.services.people import sign_in as signing_in
from oddpair.services.people.secret_words import digest
from oddpair.services.people.sign_in import Asking
from oddpair.services.transactions import Session, SessionFactory, transaction
from oddpair.store import journal
from oddpair.store.database import driver_of
from oddpair.store.tables import OneTimeLink, Person, SignedIn

PASSWORD = "heron under seven lanterns"
HERE, ELSEWHERE = Asking("192.0.2.1"), Asking("198.51.100.7")
NOON = datetime(2026, 11, 27, 12, tzinfo=UTC)
Open = Callable[[], AbstractContextManager[Session]]


@pytest.fixture
def opened(sessions: SessionFactory) -> Open:
    """A house with one person, who may do everything and has a password."""
    with sessions.begin() as session:
        secret = accounts.link_for_first(session)
        assert secret
        accounts.choose_password(session, secret, PASSWORD, name="Ada Quay", sign_in="Ada")
    return partial(transaction, sessions)


def signs_in(
    opened: Open, password: str = PASSWORD, asking: Asking = HERE, now: datetime = NOON
) -> signing_in.SignedInNow:
    return signing_in.sign_in(opened, "ADA ", password, asking, now)


def person(session: Session, name: str = "Ada Quay") -> Person:
    return accounts.person_named(session, name)


def who_shows(session: Session, **shown: str) -> who.Who:
    return who.who_shows(driver_of(session.connection().connection), **shown)


def test_the_first_link_makes_one_account_and_no_second(opened: Open, sessions: SessionFactory) -> None:
    with sessions.begin() as session:
        assert accounts.link_for_first(session) is None
        [first] = accounts.people(session)
        assert {role for _, role in first.roles} == set(Role)
        with pytest.raises(NotFound):
            accounts.choose_password(session, "made up", PASSWORD)


def test_a_link_is_good_once_and_for_three_days(opened: Open, sessions: SessionFactory) -> None:
    with sessions.begin() as session:
        _, earlier = accounts.add_person(session, name="Bo", sign_in="bo", roles={None: [Role.CLERK]}, actor="Ada Quay")
        later = accounts.reset_person(session, person(session, "bo").id, actor="Ada Quay")
    with sessions.begin() as session:
        with pytest.raises(NotFound):
            accounts.welcome(session, earlier)
        assert accounts.welcome(session, later).name == "Bo"
        accounts.choose_password(session, later, PASSWORD + " and more")
        with pytest.raises(NotFound):
            accounts.choose_password(session, later, PASSWORD)
        dated = accounts.reset_person(session, person(session, "bo").id, actor="Ada Quay")
        session.execute(update(OneTimeLink).values(until=datetime.now(UTC) - timedelta(seconds=1)))
        with pytest.raises(NotFound):
            accounts.welcome(session, dated)


@pytest.mark.parametrize(
    ("password", "why"),
    [
        ("short", "15 letters at least"), ("x" * 400, "at most"), ("aaaaaaaaaaaaaaaaaa", "easily guessed"),
        ("passwordpassword", "easily guessed"), ("Ada QuayAda QuayAda", "easily guessed"), ("oddpairoddpair1", "easily guessed"),
        ("123456789012345678", "easily guessed"),
    ],
)  # fmt: skip
def test_a_password_that_is_easily_guessed_is_not_taken(password: str, why: str) -> None:
    with pytest.raises(Refused, match=why):
        passwords.check_choice(password, ("Ada Quay", "ada"))


def test_any_letters_make_a_password_however_they_are_written() -> None:
    for password in (
        "Kajüte mit sieben Möwen",
        "七つの提灯の下にいる鷺のことを想う",
        "a b c d e f g 9 h 8 i",
        "🐦 lantern 🐦 heron ⚓ eel",
    ):
        passwords.check_choice(password, ("Ada Quay",))
    kept = passwords.keep("Kaju\u0308te mit sieben Mo\u0308wen")
    assert kept.startswith("$argon2id$")
    assert passwords.is_right("Kajüte mit sieben Möwen", kept)
    assert not passwords.is_right("Kajute mit sieben Mowen", kept)
    assert not passwords.is_right(PASSWORD, None)


def test_guesses_wait_where_they_are_made_and_whoever_is_meant_signs_in_and_learns_of_them(opened: Open) -> None:
    known = Asking(HERE.address, known=signs_in(opened).known)
    for _ in range(5):
        with pytest.raises(NotSignedIn):
            signs_in(opened, "no", ELSEWHERE)
    with pytest.raises(GuessedTooOften) as early:
        signs_in(opened, asking=ELSEWHERE)
    assert signs_in(opened, asking=known).wrong_before == 5
    assert signs_in(opened, asking=ELSEWHERE, now=NOON + timedelta(seconds=early.value.wait_s)).wrong_before == 5


def test_who_is_not_there_waits_as_long_as_who_is(opened: Open) -> None:
    for name in ("ada", "nobody"):
        for _ in range(5):
            with pytest.raises(NotSignedIn, match="do not go together"):
                signing_in.sign_in(opened, name, "no", HERE, NOON)
        with pytest.raises(GuessedTooOften):
            signing_in.sign_in(opened, name, "no", HERE, NOON)


def test_what_is_ended_has_ended_at_once(opened: Open, sessions: SessionFactory) -> None:
    here, there = signs_in(opened), signs_in(opened, asking=ELSEWHERE)

    def is_in(cookie: str) -> bool:
        try:
            with sessions.begin() as session:
                return who_shows(session, cookie=cookie).name == "Ada Quay"
        except NotSignedIn:
            return False

    assert is_in(here.cookie)
    assert is_in(there.cookie)
    with sessions.begin() as session:
        signed_in = browsers.browsers(session, here.person.id)
        assert [one.address for one in signed_in] == [ELSEWHERE.address, HERE.address]
        assert digest(here.cookie) in {one.secret for one in signed_in}
        mine = next(one for one in signed_in if one.secret == digest(here.cookie))
        assert browsers.end_others(session, here.person.id, mine.id) == 1
    assert is_in(here.cookie)
    assert not is_in(there.cookie)
    with sessions.begin() as session:
        session.execute(update(SignedIn).values(seen_at=datetime.now(UTC) - timedelta(hours=13)))
    assert not is_in(here.cookie)
    again = signs_in(opened)
    with sessions.begin() as session:
        signing_in.sign_out(session, again.cookie)
    assert not is_in(again.cookie)


def test_an_account_that_ends_leaves_its_name_and_nothing_that_opens(opened: Open, sessions: SessionFactory) -> None:
    with sessions.begin() as session:
        bo, link = accounts.add_person(session, name="Bo", sign_in="bo", roles={None: [Role.STEWARD]}, actor="Ada Quay")
        accounts.choose_password(session, link, PASSWORD)
        today = datetime.now(UTC).date()
        _, token = tokens.make_token(
            session, bo.id, label="nightly", roles=[Role.STEWARD], registers=None, ends_on=today
        )
    bo_in = signing_in.sign_in(opened, "bo", PASSWORD, HERE, NOON)
    with sessions.begin() as session:
        assert who_shows(session, token=token).may(Permission.DECIDE, "customers")
        accounts.end_person(session, bo.id, actor="Ada Quay")
    for shown in ({"cookie": bo_in.cookie}, {"token": token}):
        with sessions.begin() as session, pytest.raises(NotSignedIn):
            who_shows(session, **shown)
    with pytest.raises(NotSignedIn):
        signing_in.sign_in(opened, "bo", PASSWORD, HERE, NOON)
    with sessions.begin() as session:
        with pytest.raises(Refused, match="belongs to somebody already"):
            accounts.add_person(session, name="BO", sign_in="other", roles={}, actor="Ada Quay")
        assert all(not chain.problems for chain in verify(session))
        told = [entry.personal for entry in journal.entries(session, 0, limit=3)]
    assert told[0] == {"summary": "Ended the account of Bo"}
    assert PASSWORD not in str(told)
    assert token not in str(told)


def test_somebody_is_left_who_may_give_roles(opened: Open, sessions: SessionFactory) -> None:
    with pytest.raises(Refused, match="Nobody would be left"), sessions.begin() as session:
        accounts.end_person(session, person(session).id, actor="Ada Quay")
    with pytest.raises(Refused, match="Nobody would be left"), sessions.begin() as session:
        accounts.change_person(session, person(session).id, email="", roles={None: [Role.STEWARD]}, actor="Ada Quay")


def test_a_token_is_good_for_a_year_at_most_and_says_when_it_was_used(opened: Open, sessions: SessionFactory) -> None:
    today = datetime.now(UTC).date()
    with sessions.begin() as session:
        ada = person(session).id
        for ends_on in (today - timedelta(days=1), today + timedelta(days=400)):
            with pytest.raises(Refused, match="within a year"):
                tokens.make_token(session, ada, label="x", roles=[Role.CLERK], registers=None, ends_on=ends_on)
        made, secret = tokens.make_token(session, ada, label="x", roles=[Role.CLERK], registers=None, ends_on=today)
        assert made.used_at is None
    with sessions.begin() as session:
        assert who_shows(session, token=secret).everywhere == {Role.CLERK}
    with sessions.begin() as session:
        [shown] = tokens.tokens(session, ada)
        assert shown.used_at is not None
        assert secret not in (shown.secret, shown.label)
        tokens.end_token(session, ada, shown.id, actor="Ada Quay")
    with sessions.begin() as session, pytest.raises(NotSignedIn):
        who_shows(session, token=secret)


@pytest.mark.parametrize("meanwhile", ["reset", "changed", "ended"])
def test_what_became_of_an_account_while_its_password_was_looked_at_counts(
    opened: Open, sessions: SessionFactory, meanwhile: str
) -> None:
    with sessions.begin() as session:
        bo, link = accounts.add_person(session, name="Bo", sign_in="bo", roles={None: [Role.CLERK]}, actor="Ada Quay")
        accounts.choose_password(session, link, PASSWORD)
        bo_id = bo.id

    def looked_at_slowly(password: str, kept: str | None) -> bool:
        with sessions.begin() as session:
            if meanwhile == "reset":
                accounts.reset_person(session, bo_id, actor="Ada Quay")
            elif meanwhile == "changed":
                accounts.change_password(session, bo_id, PASSWORD + " and another")
            else:
                accounts.end_person(session, bo_id, actor="Ada Quay")
        return True

    with pytest.raises(NotSignedIn):
        signing_in.sign_in(opened, "bo", PASSWORD, HERE, NOON, looked_at_slowly)
    with sessions() as session:
        assert browsers.browsers(session, bo_id) == []


def test_a_browser_that_was_long_away_is_known_no_more(opened: Open) -> None:
    known = Asking(HERE.address, known=signs_in(opened).known)
    half = signs_in(opened, asking=known, now=NOON + timedelta(days=399))
    assert half.known == known.known
    assert signs_in(opened, asking=known, now=NOON + timedelta(days=798)).known == known.known
    signs_in(opened, asking=ELSEWHERE, now=NOON + timedelta(days=798 + 401))
    assert signs_in(opened, asking=known, now=NOON + timedelta(days=798 + 401)).known != known.known
