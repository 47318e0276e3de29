"""What keeps strangers from guessing passwords without keeping anybody out.

Tries are counted before they are looked at, for three things: a name from one network (5 are free), a name from anywhere (100, as NIST
SP 800-63B, section 3.2.2, asks), and a network (50). Beyond that each try lets the next one wait twice as long, up to a quarter of an
hour; tries that come too early are refused unseen and do not count, so that whoever goes on guessing does not lengthen the wait. In a
browser where the person signed in before, only what is tried in that browser counts. So no account is locked for longer than that.
"""

import ipaddress
import math
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from .secret_words import digest

MOST_WAIT_S = 900.0
_FREE_HERE, _FREE_ANYWHERE, _FREE_OF_NETWORK = 5, 100, 50


class Guesses(Protocol):
    """Where tries are counted."""

    def count(self, about: str, now: datetime, *, free: int, most_wait_s: float) -> int | None:
        """Count a try; return how many there were, or None if it comes too early and does not count."""

    def wait_until(self, about: str) -> datetime | None:
        """Return from when on the next try counts."""

    def tried(self, about: str) -> int:
        """Return how many tries were counted."""

    def forget(self, about: Collection[str]) -> None:
        """Forget what was tried."""


@dataclass(frozen=True, slots=True)
class _Limit:
    """What tries are counted for, and how many are free."""

    about: str
    free: int


@dataclass(frozen=True, slots=True)
class Try:
    """One try: what it counts for that the right password lets be forgotten, and what it counts for besides, being others' as well."""

    own: tuple[_Limit, ...]
    others: tuple[_Limit, ...] = ()

    def count(self, guesses: Guesses, now: datetime) -> int:
        """Count it before it is looked at; return how many seconds it comes too early, or 0. To be committed whatever becomes of it."""
        for limit in (*self.own, *self.others):
            if guesses.count(limit.about, now, free=limit.free, most_wait_s=MOST_WAIT_S) is None:
                until = guesses.wait_until(limit.about) or now
                return max(1, math.ceil((until - now).total_seconds()))
        return 0

    def was_right(self, guesses: Guesses) -> None:
        """Forget the tries before it."""
        guesses.forget([limit.about for limit in self.own])


def try_by_name(name: str, address: str, known: str) -> Try:
    """Return the try to sign in under a name, from an address, or in a browser that is ``known`` by its mark as the person's own."""
    if known:
        return Try((_Limit(digest(f"browser\0{known}"), _FREE_HERE),))
    network = _network(address)
    here = _Limit(digest(f"name and network\0{name}\0{network}"), _FREE_HERE)
    anywhere = _Limit(_by_name(name), _FREE_ANYWHERE)
    return Try((here, anywhere), (_Limit(digest(f"network\0{network}"), _FREE_OF_NETWORK),))


def try_again(person_id: int) -> Try:
    """Return the try to show once more that one is who is signed in."""
    return Try((_Limit(digest(f"again\0{person_id}"), _FREE_HERE),))


def wrong_before(guesses: Guesses, name: str, known: str) -> int:
    """Return how many wrong passwords were tried under a name where it was not known, before this right one."""
    return max(0, guesses.tried(_by_name(name)) - (0 if known else 1))


def _by_name(name: str) -> str:
    return digest(f"name\0{name}")


def _network(address: str) -> str:
    """Return what one subscriber has: an IPv4 address, or the first 64 bits of an IPv6 one."""
    try:
        found = ipaddress.ip_address(address)
    except ValueError:
        return address
    return str(ipaddress.ip_network(f"{found}/64", strict=False)) if found.version == 6 else str(found)
