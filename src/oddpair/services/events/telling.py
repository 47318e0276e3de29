"""What a receiver is to be told next, and what came of telling it.

A receiver is told events in their order, and the next ones only once it took those before. So of every golden record it hears in order,
whatever fails; one that sleeps for a day is told everything when it wakes. An event may come twice, with the same id.
"""

import hmac
from base64 import b64decode, b64encode
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from hashlib import sha256
from typing import Any

import orjson

from ...store import events as store
from ..transactions import SessionFactory, transaction
from .feed import cloud_event
from .receivers import SECRET_PREFIX

#: Events told at a time; so long may a receiver take for them, and so long nobody else tells it meanwhile.
_AT_ONCE, PATIENCE_S, _LEASE_S = 100, 15.0, 60.0
#: The pauses between tries grow from the first to the longest.
_FIRST_PAUSE_S, _LONGEST_PAUSE_S = 5.0, 3600.0
_LONGEST_WHY = 300


@dataclass(frozen=True, slots=True)
class Message:
    """Events for a receiver: where it is, what it is sent (nothing, where none is of the kinds that it asked for), and between which places
    they lie."""

    receiver_id: int
    address: str
    headers: Mapping[str, str]
    body: bytes
    events: int
    from_position: int
    position: int
    failures: int


def sign(secret: str, message_id: str, moment_s: int, body: bytes) -> str:
    """Return the signature of a message by the Standard Webhooks specification: HMAC-SHA256 (RFC 2104) over id, seconds and body."""
    key = b64decode(secret.removeprefix(SECRET_PREFIX))
    signed = hmac.new(key, f"{message_id}.{moment_s}.".encode() + body, sha256).digest()
    return f"v1,{b64encode(signed).decode()}"


def next_message(sessions: SessionFactory, now_s: float) -> Message | None:
    """Return what is to be told now, None if no receiver waits for anything; whoever asks must say what came of it."""
    with transaction(sessions) as session:
        leased = store.lease_receiver(session, _LEASE_S)
        if leased is None:
            return None
        receiver, slug = leased
        found = store.events_after(session, receiver.register_id, receiver.position, _AT_ONCE)
        told = [cloud_event(event, slug) for event in found if not receiver.kinds or event.kind in receiver.kinds]
        body, moment_s = orjson.dumps(told), int(now_s)
        message_id = f"{receiver.id}.{found[-1].position if found else receiver.position}"
        headers = {
            "Content-Type": "application/cloudevents-batch+json", "User-Agent": "odd-pair", "webhook-id": message_id,
            "webhook-timestamp": str(moment_s), "webhook-signature": sign(receiver.secret, message_id, moment_s, body),
        }  # fmt: skip
        position = found[-1].position if found else receiver.position
        return Message(
            receiver.id, receiver.address, headers, body, len(told), receiver.position, position, receiver.failures
        )


def was_taken(sessions: SessionFactory, message: Message) -> None:
    """Note that a receiver took a message."""
    with transaction(sessions) as session:
        store.note_told(session, message.receiver_id, message.from_position, message.position)


def was_not_taken(sessions: SessionFactory, message: Message, why: str) -> None:
    """Note why a receiver did not take a message; it is told again after a pause."""
    pause_s = min(_FIRST_PAUSE_S * 2**message.failures, _LONGEST_PAUSE_S) if message.failures < 20 else _LONGEST_PAUSE_S
    with transaction(sessions) as session:
        store.note_failure(session, message.receiver_id, why[:_LONGEST_WHY], pause_s)


def verify(secret: str, headers: Mapping[str, str], body: bytes, now_s: float, tolerance_s: float = 300.0) -> bool:
    """Whether a message is signed with a secret, and not older than so many seconds: what a receiver checks."""
    message_id, moment = headers.get("webhook-id", ""), headers.get("webhook-timestamp", "")
    if not moment.isdigit() or abs(now_s - int(moment)) > tolerance_s:
        return False
    wanted = sign(secret, message_id, int(moment), body)
    return any(hmac.compare_digest(wanted, given) for given in headers.get("webhook-signature", "").split())


def told_of(body: bytes) -> Sequence[dict[str, Any]]:
    """Return the events of a message."""
    events: list[dict[str, Any]] = orjson.loads(body)
    return events
