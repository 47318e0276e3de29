"""Passwords: which may be chosen, and how they are kept.

The rules are those of NIST SP 800-63B (revision 4, section 3.1.1) for a password that is all there is: 15 letters at least, any letter
there is, no rules of composition, and none that is expected or easily guessed. Kept by Argon2id (RFC 9106) with its package's defaults.
"""

import unicodedata
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from zxcvbn import zxcvbn

from ...core.errors import Busy, Refused

SHORTEST, LONGEST = 15, 256
#: The estimate of how many guesses a password takes, as a power of ten, looks at so many of its letters.
_LOOKED_AT = 72
_GUESSES_LOG10 = 9.0
_HASHER = PasswordHasher()
#: Each takes 64 MiB and a core: more at a time would be a way to fill the machine from outside.
_AT_A_TIME, _PATIENCE_S = BoundedSemaphore(2), 3.0
#: Verified where there is no account, so that an answer takes as long whether there is one or not.
_NOBODYS = _HASHER.hash("nobody has this password")


@contextmanager
def _turn() -> Iterator[None]:
    if not _AT_A_TIME.acquire(timeout=_PATIENCE_S):
        raise Busy("Too many people sign in at once")
    try:
        yield
    finally:
        _AT_A_TIME.release()


def _normal(password: str) -> str:
    """The same letters typed on another system are the same password."""
    return unicodedata.normalize("NFKC", password)


def check_choice(password: str, about: Iterable[str]) -> None:
    """Raise Refused unless a password may be chosen; ``about`` is what strangers know of the person: names, addresses."""
    password = _normal(password)
    if len(password) < SHORTEST:
        raise Refused(
            f"A password has {SHORTEST} letters at least; several words that do not belong together are easy to keep."
        )
    if len(password) > LONGEST:
        raise Refused(f"A password has {LONGEST} letters at most.")
    known = [word for text in ("odd pair oddpair", *about) for word in (text, *text.replace("@", " ").split())]
    if float(zxcvbn(password[:_LOOKED_AT], user_inputs=known)["guesses_log10"]) < _GUESSES_LOG10:
        raise Refused(
            "This password is easily guessed: it repeats itself, is a usual one, or holds your name. Choose another."
        )


def keep(password: str) -> str:
    """Return what is kept of a password."""
    with _turn():
        return _HASHER.hash(_normal(password))


def is_right(password: str, kept: str | None) -> bool:
    """Whether a password is the one that was kept; takes as long where nothing is kept."""
    password = _normal(password)
    if len(password) > LONGEST:
        return False
    with _turn():
        try:
            return _HASHER.verify(kept or _NOBODYS, password) and kept is not None
        except (VerificationError, InvalidHashError):
            return False


def is_dated(kept: str) -> bool:
    """Whether what is kept was made by weaker numbers than are usual now."""
    return _HASHER.check_needs_rehash(kept)
