"""Waiting for a condition."""

import time
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")


def until(ask: Callable[[], T], seconds: float = 60) -> T:
    """Ask again and again until the answer is true, and return it; give up after so many seconds."""
    deadline = time.monotonic() + seconds
    while not (answer := ask()):
        assert time.monotonic() < deadline, f"never came: {ask.__qualname__}"
        time.sleep(0.02)
    return answer
