"""Web addresses that are told what happens in a register."""

import base64
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from urllib.parse import urlsplit

from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...store import events as store
from ...store import journal
from ...store.locks import lock_settings
from ...store.registers import register_by_slug
from ...store.tables import Receiver, Register
from .feed import check_kinds

_MOST = 50
#: The form of a secret by the Standard Webhooks specification (version 1): 24 to 64 random bytes in base 64.
SECRET_PREFIX = "whsec_"
_SECRET_BYTES = 32


@dataclass(frozen=True, slots=True)
class ReceiverShown:
    """A receiver with how many events wait for it."""

    receiver: Receiver
    waiting: int


def check_address(address: str) -> str:
    """Return a web address that can be asked or told; raise Refused for any other."""
    address = address.strip()
    parts = urlsplit(address)
    try:
        named = parts.hostname is not None and (parts.port is None or parts.port > 0)
    except ValueError:
        named = False
    if parts.scheme not in ("http", "https") or not named:
        raise Refused(f"'{address}' is no web address; it begins with https:// or http://.")
    if parts.username or parts.password:
        raise Refused("An address with a password in it would stand in lists and logs; give one without.")
    return address


def receivers(session: Session, slug: str) -> list[ReceiverShown]:
    """Return the addresses that are told what happens in a register."""
    register = register_by_slug(session, slug)
    return [ReceiverShown(one, store.waiting_for(session, one)) for one in store.receivers_of(session, register.id)]


def add_receiver(session: Session, slug: str, address: str, kinds: Sequence[str], *, actor: str) -> Receiver:
    """Tell an address what happens from now on; its secret is shown this once."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    address = check_address(address)
    check_kinds(kinds)
    present = store.receivers_of(session, register.id)
    if any(one.address == address for one in present):
        raise Refused(f"{address} is told already.")
    if len(present) >= _MOST:
        raise Refused(f"{_MOST} addresses are told already; remove one first.")
    secret = SECRET_PREFIX + base64.b64encode(secrets.token_bytes(_SECRET_BYTES)).decode()
    receiver = Receiver(
        register_id=register.id, address=address, secret=secret, kinds=sorted(set(kinds)), position=store.last_position(session),
        actor=actor,
    )  # fmt: skip
    session.add(receiver)
    session.flush()
    _note(session, register, receiver, actor, f"{address} is told what happens")
    return receiver


def set_receiver(
    session: Session, slug: str, receiver_id: int, *, kinds: Sequence[str], on: bool, seen_version: int, actor: str
) -> Receiver:
    """Change what an address is told, or tell it nothing for a while: what happens meanwhile waits for it."""
    register, receiver = _receiver(session, slug, receiver_id)
    check_kinds(kinds)
    if receiver.version != seen_version:
        raise Conflict("This was changed meanwhile. Reload to see it.")
    receiver.kinds, receiver.on, receiver.version = sorted(set(kinds)), on, receiver.version + 1
    receiver.failures, receiver.why, receiver.failing_since, receiver.next_at = 0, "", None, datetime.now().astimezone()
    session.flush()
    _note(session, register, receiver, actor, f"Changed what {receiver.address} is told")
    return receiver


def tell_again(session: Session, slug: str, receiver_id: int, since: datetime, *, actor: str) -> Receiver:
    """Tell an address once more everything that happened since a moment."""
    register, receiver = _receiver(session, slug, receiver_id)
    receiver.position = min(receiver.position, store.first_since(session, register.id, since))
    receiver.next_at = datetime.now().astimezone()
    session.flush()
    _note(
        session,
        register,
        receiver,
        actor,
        f"{receiver.address} is told again what happened since {since:%Y-%m-%d %H:%M}",
    )
    return receiver


def remove_receiver(session: Session, slug: str, receiver_id: int, *, actor: str) -> None:
    """Tell an address nothing any more."""
    register, receiver = _receiver(session, slug, receiver_id)
    _note(session, register, receiver, actor, f"{receiver.address} is told nothing any more")
    session.delete(receiver)
    session.flush()


def _receiver(session: Session, slug: str, receiver_id: int) -> tuple[Register, Receiver]:
    register = lock_settings(session, register_by_slug(session, slug).id)
    receiver = session.get(Receiver, receiver_id, with_for_update=True)
    if receiver is None or receiver.register_id != register.id:
        raise NotFound("receiver", receiver_id)
    return register, receiver


def _note(session: Session, register: Register, receiver: Receiver, actor: str, summary: str) -> None:
    data = {"receiver": receiver.id, "kinds": receiver.kinds, "on": receiver.on}
    journal.append(session, register.id, "receiver", actor=actor, data=data, personal={"summary": summary})
