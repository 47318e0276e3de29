"""Guesses are slowed down, and nobody is kept out: counted in memory, and once in the database."""

from collections.abc import Collection
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from oddpair.services.people.throttle import MOST_WAIT_S, try_by_name, wrong_before
from oddpair.services.transactions import SessionFactory
from oddpair.store.people import KeptGuesses

from ..sizes import size

NOON = datetime(2026, 11, 27, 12, tzinfo=UTC)


@dataclass
class CountedHere:
    """Counts tries as the database does."""

    kept: dict[str, tuple[int, datetime, datetime]] = field(default_factory=dict)

    def count(self, about: str, now: datetime, *, free: int, most_wait_s: float) -> int | None:
        tried, last, not_before = self.kept.get(about, (0, now, now))
        if not_before > now:
            return None
        tried = 1 if now - last > timedelta(days=1) else tried + 1
        wait_s = min(most_wait_s, 2.0 ** min(tried - free, 20)) if tried >= max(free, 2) else 0.0
        self.kept[about] = (tried, now, now + timedelta(seconds=wait_s))
        return tried

    def wait_until(self, about: str) -> datetime | None:
        return self.kept[about][2] if about in self.kept else None

    def tried(self, about: str) -> int:
        return self.kept[about][0] if about in self.kept else 0

    def forget(self, about: Collection[str]) -> None:
        for one in about:
            self.kept.pop(one, None)


@settings(max_examples=size(everyday=15, long=100), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    steps=st.lists(
        st.tuples(st.sampled_from("ab"), st.sampled_from([0, 1, 3, 40, 1000, 90_000]), st.booleans()), max_size=12
    ),
    free=st.integers(1, 4),
)
def test_what_counts_here_counts_as_the_database_does(
    sessions: SessionFactory, steps: list[tuple[str, int, bool]], free: int
) -> None:
    here, now = CountedHere(), NOON
    with sessions() as session:
        there = KeptGuesses(session)
        for about, later_s, is_forgotten in steps:
            now += timedelta(seconds=later_s)
            counted = [guesses.count(about, now, free=free, most_wait_s=MOST_WAIT_S) for guesses in (here, there)]
            assert counted[0] == counted[1]
            assert here.wait_until(about) == there.wait_until(about)
            assert here.tried(about) == there.tried(about)
            if is_forgotten:
                here.forget([about])
                there.forget([about])
        session.rollback()


def wait_s(guesses: CountedHere, address: str, after_s: float, known: str = "") -> int:
    return try_by_name("ada", address, known).count(guesses, NOON + timedelta(seconds=after_s))


def test_thousands_of_guesses_are_throttled_and_lock_nobody_out() -> None:
    guesses = CountedHere()
    # Two a second, from three networks.
    waits = [wait_s(guesses, f"203.0.113.{number % 3}", number / 2) for number in range(2000)]
    looked_at = waits.count(0)
    assert looked_at < 60
    assert max(waits) <= MOST_WAIT_S
    # Whoever is meant signs in meanwhile, where they did before and elsewhere, and learns of it.
    assert wait_s(guesses, "192.0.2.1", 1000, known="mark") == 0
    assert wrong_before(guesses, "ada", "mark") == looked_at
    assert wait_s(guesses, "198.51.100.7", 1000) == 0
    assert wrong_before(guesses, "ada", "") == looked_at
    # From where it was guessed, the right password counts again after a quarter of an hour.
    assert 0 < wait_s(guesses, "203.0.113.1", 1000) <= MOST_WAIT_S
    assert wait_s(guesses, "203.0.113.1", 1000 + MOST_WAIT_S) == 0


def test_guesses_from_everywhere_wait_too_but_not_where_one_is_known() -> None:
    guesses = CountedHere()
    assert [wait_s(guesses, f"2001:db8:{number:x}::1", 0) for number in range(100)] == [0] * 100
    assert wait_s(guesses, "2001:db8:ffff::1", 0) > 0
    assert wait_s(guesses, "198.51.100.7", 0) > 0
    assert wrong_before(guesses, "ada", "mark") == 100
    # The mark of one's own browser opens no way to guess in it.
    assert [wait_s(guesses, "192.0.2.1", 0, known="mark") > 0 for _ in range(6)] == [False] * 5 + [True]


def test_one_network_is_one_guesser_whatever_names_it_tries() -> None:
    guesses = CountedHere()
    waits = [try_by_name(f"name {n}", f"2001:db8::{n:x}", "").count(guesses, NOON) for n in range(51)]
    assert [wait > 0 for wait in waits] == [False] * 50 + [True]
