"""Tells receivers what happened: a loop of its own in the worker, so that a slow address holds up nothing else."""

import ssl
import threading
import time
from contextlib import suppress
from functools import cache

import httpx

from ..core.errors import OddPairError
from ..services.events.feed import place_all
from ..services.events.telling import PATIENCE_S, Message, next_message, was_not_taken, was_taken
from ..services.transactions import SessionFactory

_LOOK_EVERY_S = 1.0
#: So many receivers are told at the same time.
_TELLERS = 4


def place_events(sessions: SessionFactory, stop: threading.Event) -> None:
    """Give what was noted its place among the events, until told to stop."""
    while not stop.wait(_LOOK_EVERY_S):
        with suppress(OddPairError):
            place_all(sessions)


def tell_receivers(sessions: SessionFactory, stop: threading.Event) -> None:
    """Tell receivers what waits for them, until told to stop."""
    with httpx.Client(timeout=PATIENCE_S, follow_redirects=False, trust_env=False, verify=_trusted()) as client:
        while not stop.is_set():
            told = False
            with suppress(OddPairError):
                told = tell_next(sessions, client)
            if not told:
                stop.wait(_LOOK_EVERY_S)


@cache
def _trusted() -> ssl.SSLContext:
    """Return whom tellers trust, which is read once for them all."""
    return httpx.create_ssl_context(trust_env=False)


def tell_next(sessions: SessionFactory, client: httpx.Client) -> bool:
    """Tell the receiver that waits longest its next events; return whether one took any."""
    message = next_message(sessions, time.time())
    if message is None:
        return False
    why = _send(client, message) if message.events else ""
    if why:
        was_not_taken(sessions, message, why)
    else:
        was_taken(sessions, message)
    return not why


def _send(client: httpx.Client, message: Message) -> str:
    """Send a message; return why it was not taken, "" if it was."""
    try:
        # What it answers besides is not read: that could be without end.
        with client.stream("POST", message.address, headers=dict(message.headers), content=message.body) as answer:
            return "" if answer.is_success else f"answered {answer.status_code} {answer.reason_phrase}"
    except httpx.TimeoutException:
        return f"no answer within {PATIENCE_S:.0f} seconds"
    except Exception as error:  # whatever an address does, the others are told
        return str(error) or type(error).__name__


def tellers(sessions: SessionFactory, stop: threading.Event) -> list[threading.Thread]:
    """Return the threads that tell receivers, not started yet."""
    return [
        threading.Thread(target=place_events, args=(sessions, stop), name="places of events", daemon=True),
        *(
            threading.Thread(target=tell_receivers, args=(sessions, stop), name="teller", daemon=True)
            for _ in range(_TELLERS)
        ),
    ]
