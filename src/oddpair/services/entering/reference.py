"""A trusted reference, such as a business register, asked by name or number through a small HTTP interface (docs/standing.md)."""

from collections.abc import Mapping
from dataclasses import dataclass
from time import monotonic

import httpx
from pydantic import BaseModel, ConfigDict, ValidationError
from sqlalchemy.orm import Session

from ...core.errors import NoAnswer, Refused
from ...store import journal
from ...store.locks import lock_settings
from ...store.registers import register_by_slug
from ...store.tables import Register
from ..events.receivers import check_address
from ..state.layouts import layout_of

_PATIENCE_S, _MOST_FOUND, _MOST_BYTES = 5.0, 20, 500_000


@dataclass(frozen=True, slots=True)
class Reference:
    """A trusted reference: what people call it, and where it is asked."""

    name: str
    address: str


class _One(BaseModel):
    model_config = ConfigDict(extra="ignore", str_max_length=2000)
    number: str
    name: str
    status: str = ""
    values: dict[str, str]


class _Answer(BaseModel):
    model_config = ConfigDict(extra="ignore")
    found: list[_One]


@dataclass(frozen=True, slots=True)
class Referred:
    """What a trusted reference knows of somebody: its number and name for it, a word on its status, and values by our fields."""

    number: str
    name: str
    status: str
    values: Mapping[str, str]


def reference_of(session: Session, slug: str) -> Reference | None:
    """Return the trusted reference of a register, if it has one."""
    told = register_by_slug(session, slug).reference
    return Reference(**told) if told else None


def set_reference(session: Session, slug: str, reference: Reference | None, *, actor: str) -> None:
    """Let a register ask a trusted reference, or none any more."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    if reference is not None:
        name = " ".join(reference.name.split())
        if not name:
            raise Refused("A trusted reference needs a name by which people know it.")
        reference = Reference(name, check_address(reference.address))
    register.reference = {"name": reference.name, "address": reference.address} if reference else None
    session.flush()
    summary = f"{reference.name} is the trusted reference" if reference else "There is no trusted reference any more"
    journal.append(
        session,
        register.id,
        "reference",
        actor=actor,
        data={"on": reference is not None},
        personal={"summary": summary},
    )


def ask(register: Register, name: str, number: str) -> list[Referred]:
    """Ask the trusted reference of a register for a name or a number.

    Raises Refused where there is none to ask, and NoAnswer where it does not answer as it should.
    """
    if not register.reference:
        raise Refused("This register has no trusted reference to ask.")
    if not (name.strip() or number.strip()):
        raise Refused("Ask for a name or a number.")
    reference = Reference(**register.reference)
    asked = {"number": number.strip()} if number.strip() else {"name": name.strip()}
    try:
        with httpx.Client(timeout=_PATIENCE_S, follow_redirects=False, trust_env=False) as client:
            found = _Answer.model_validate_json(_read(client, reference, asked)).found
    except httpx.TimeoutException as error:
        raise NoAnswer(f"{reference.name} gave no answer within {_PATIENCE_S:.0f} seconds.") from error
    except (httpx.HTTPError, httpx.InvalidURL, ValidationError) as error:
        raise NoAnswer(f"{reference.name} does not answer as it should.") from error
    known = layout_of(register).names
    return [
        Referred(
            one.number,
            one.name,
            one.status,
            {name: value for name, value in one.values.items() if name in known and value},
        )
        for one in found[:_MOST_FOUND]
    ]


def _read(client: httpx.Client, reference: Reference, asked: Mapping[str, str]) -> bytes:
    """Return what a trusted reference answers; raise NoAnswer where that has no end, in bytes or in time."""
    until_s = monotonic() + _PATIENCE_S
    content = bytearray()
    with client.stream("GET", reference.address, params=asked, headers={"Accept": "application/json"}) as answer:
        answer.raise_for_status()
        for part in answer.iter_bytes():
            content += part
            if len(content) > _MOST_BYTES or monotonic() > until_s:
                raise NoAnswer(f"{reference.name} answers more than can be read.")
    return bytes(content)
