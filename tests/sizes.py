"""Two sizes of one test by one setting: the everyday one, which always runs, and the long one (``--long``)."""

from typing import TypeVar

T = TypeVar("T")
_asked = {"long": False}


def is_long() -> bool:
    """Whether the long tests were asked for."""
    return _asked["long"]


def ask_for_long() -> None:
    """Let every test of this process run at its long size."""
    _asked["long"] = True


def size(*, everyday: T, long: T) -> T:
    """Return how much a test does: so much every day, and so much where the long tests were asked for."""
    return long if is_long() else everyday
