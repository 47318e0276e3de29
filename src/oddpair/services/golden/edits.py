"""Golden records changed by hand: records taken out, values pinned, pins lifted. Each needs the version that was seen."""

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import func
from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...core.sign_off import Facts, Matter
from ...store import golden as store
from ...store import journal
from ...store.bulk import copy_ids
from ...store.counters import add_to, count_waiting
from ...store.golden_values import pins_of
from ...store.locks import lock_golden, lock_membership, share_desk
from ...store.membership import members_of
from ...store.registers import register_by_slug
from ...store.tables import GoldenRecord, Pin, Register
from ..proposals.gate import Intent, ask_second_yes
from ..state.decisions import keep_apart
from ..state.golden_values import refresh
from ..state.layouts import layout_of
from ..state.membership import make_moves, moves_between, new_golden
from ..state.words import counted


def _as_seen(session: Session, golden: GoldenRecord, seen_version: int) -> None:
    """Raise Conflict if a golden record is another now than the version that was seen."""
    if golden.leads_to is not None:
        raise Conflict(f"{golden.key} has become part of {store.follow(session, golden).key} meanwhile.")
    if golden.version != seen_version:
        raise Conflict(f"{golden.key} was changed meanwhile (version {golden.version}). Reload to see it.")


def _alone(session: Session, slug: str, key: str, seen_version: int) -> tuple[Register, GoldenRecord]:
    """Return a golden record whose values nobody else computes until the transaction ends, with its register."""
    register = register_by_slug(session, slug)
    golden = store.golden_by_key(session, register.id, key)
    copy_ids(session, "asked_golden", [golden.id])
    lock_golden(session, "asked_golden")
    session.refresh(golden)
    _as_seen(session, golden, seen_version)
    return register, golden


def split(
    session: Session, slug: str, key: str, record_ids: Sequence[int], *, seen_version: int, reason: str, actor: str
) -> str:
    """Take records out of a golden record into a new one; return the new key. Later runs keep them apart."""
    register = lock_membership(session, register_by_slug(session, slug).id)
    golden = store.golden_by_key(session, register.id, key)
    session.refresh(golden)
    _as_seen(session, golden, seen_version)
    members = members_of(session, [golden.id])[golden.id]
    taken = sorted(set(record_ids))
    if not taken or not set(taken) <= set(members):
        raise Refused(f"Choose records that belong to {key} to take out.")
    rest = [record for record in members if record not in taken]
    if not rest:
        raise Refused(f"At least one record must stay in {key}.")
    arguments = {"key": golden.key, "record_ids": taken, "seen_version": seen_version, "reason": reason}
    told = f"Take {counted(len(taken), 'record')} out of {golden.key}" + (f": {reason}" if reason else "")
    shows = [
        (golden.key, counted(len(members), "record"), counted(len(rest), "record")),
        ("A new golden record", "", counted(len(taken), "record")),
    ]
    _ask(session, register, golden, "split", arguments, Matter.MEMBERSHIP, "", told, shows, actor)
    [fresh] = new_golden(session, register, 1)
    fresh_key = store.fresh_keys(session, [fresh])[fresh]
    entry_id = journal.reserve(session)
    moves = moves_between(1, {golden.id: members}, {golden.id: rest, fresh: taken})
    about = make_moves(session, entry_id, moves)
    refresh(session, register, [golden.id, fresh])
    summary = f"Took {counted(len(taken), 'record')} out of {key} into {fresh_key}" + (f": {reason}" if reason else "")
    share_desk(session, register.id)
    keep_apart(session, register, [rest, taken], actor=actor, remark=summary, journal_id=entry_id)
    add_to(session, register.id, golden=1)
    count_waiting(session, register.id)
    journal.append(
        session, register.id, "split", actor=actor, data={"moves": about, "apart": [[rest, taken]]},
        personal={"summary": summary, "reason": reason}, entry_id=entry_id,
    )  # fmt: skip
    return fresh_key


def pin(
    session: Session, slug: str, key: str, *, field: str, value: str, reason: str, seen_version: int, actor: str
) -> GoldenRecord:
    """Set a value by hand; an earlier pin of the field is lifted. An empty value pins the field as empty."""
    register, golden = _alone(session, slug, key, seen_version)
    label = layout_of(register).field(field).label
    value, reason = value.strip(), reason.strip()
    if not reason:
        raise Refused("A pin needs a reason, so that others can understand it in a year.")
    was = golden.values.get(field, "")
    told = f"Pinned {label} to '{value}': {reason}"
    arguments = {"key": golden.key, "field": field, "value": value, "reason": reason, "seen_version": seen_version}
    _ask(
        session,
        register,
        golden,
        "pin",
        arguments,
        Matter.VALUE,
        field,
        told,
        [(label, was, value), ("Reason", "", reason)],
        actor,
    )
    for earlier in pins_of(session, [golden.id]).get(golden.id, []):
        if earlier.field == field and earlier.golden_id == golden.id:
            earlier.lifted_at = datetime.now(UTC)
    session.flush()
    entry_id = journal.reserve(session)
    fresh = Pin(
        golden_id=golden.id, field=field, value=value, reason=reason, actor=actor, at=func.now(), journal_id=entry_id
    )
    session.add(fresh)
    session.flush()
    _changed(session, register, golden)
    journal.append(
        session, register.id, "pin", actor=actor, data={"golden": golden.id, "field": field, "pin": fresh.id},
        personal={"summary": told, "was": was, "value": value, "reason": reason},
        touches=[("golden", golden.id)], entry_id=entry_id,
    )  # fmt: skip
    return golden


def lift_pin(session: Session, slug: str, key: str, pin_id: int, *, seen_version: int, actor: str) -> GoldenRecord:
    """Lift a pin, so that the survivorship rule decides again."""
    register, golden = _alone(session, slug, key, seen_version)
    if pin_id not in {pin.id for pin in pins_of(session, [golden.id]).get(golden.id, [])}:
        raise NotFound("pin", pin_id)
    found = store.pin_by_id(session, pin_id)
    label = layout_of(register).field(found.field).label
    told, shows = f"Lifted the pin of {label}", [(label, found.value, "as the rule decides")]
    arguments = {"key": golden.key, "pin_id": pin_id, "seen_version": seen_version}
    _ask(session, register, golden, "lift", arguments, Matter.VALUE, found.field, told, shows, actor)
    found.lifted_at = datetime.now(UTC)
    session.flush()
    _changed(session, register, golden)
    journal.append(
        session, register.id, "lift", actor=actor, data={"golden": found.golden_id, "field": found.field, "pin": pin_id},
        personal={"summary": told}, touches=[("golden", golden.id)],
        undoes=(found.journal_id, 0) if found.journal_id else None,
    )  # fmt: skip
    return golden


def _ask(
    session: Session, register: Register, golden: GoldenRecord, act: str, arguments: Mapping[str, Any], matter: Matter, field: str,
    told: str, shows: Sequence[tuple[str, str, str]], actor: str,
) -> None:  # fmt: skip
    facts = Facts(matter, f"golden {golden.key} {field}".strip(), field=field)
    step = Intent(act, arguments, facts, told, shows, touches=[("golden", golden.id)], leads_to=f"golden/{golden.key}")
    ask_second_yes(session, register, step, actor=actor)


def _changed(session: Session, register: Register, golden: GoldenRecord) -> None:
    """Compute a golden record anew; its version rises even where its values stay, since its pins are others."""
    version = golden.version
    refresh(session, register, [golden.id])
    session.refresh(golden)
    if golden.version == version:
        golden.version += 1
    session.flush()
