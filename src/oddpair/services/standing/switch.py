"""Whether a register recognises what is delivered as it comes in."""

from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import Refused
from ...core.sign_off import Facts, Matter
from ...store import journal
from ...store.counters import counters_of
from ...store.locks import lock_settings
from ...store.registers import register_by_slug
from ...store.tables import Job, Register
from .. import work
from ..proposals.gate import Intent, ask_second_yes
from ..state.bring_up_to_date import RECOGNISE
from ..state.layouts import layout_of
from .parents import PARENTS

_TITLE = "Recognise what came in"
RECOGNISABLE, ORPHANS = "recognisable", "parents"


def ask_to_recognise(session: Session, slug: str, *, actor: str) -> Job:
    """Ask for the recognition of what came in, whether or not that is done by itself; raise Refused if it is under way."""
    return work.ask_for(session, slug, RECOGNISE, _TITLE, {"register": slug, "actor": actor})


def switch_recognition(session: Session, slug: str, on: bool, *, actor: str) -> Register:
    """Let a register recognise deliveries, or leave matching and merging to people; what came in until now is matched at once."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    if register.recognises == on:
        return register
    summary = "Deliveries are recognised as they come in" if on else "Deliveries wait for a person to match them"
    _ask(session, register, RECOGNISE, {"on": on}, summary, actor)
    register.recognises = on
    register.version += 1
    session.flush()
    journal.append(
        session,
        register.id,
        "recognition",
        actor=actor,
        data={"before": not on, "after": on},
        personal={"summary": summary},
    )
    if on and counters_of(session, register.id).records:
        work.follow_up(session, slug, RECOGNISE, _TITLE, {"register": slug})
    return register


def choose_recognisable(session: Session, slug: str, field: str, values: Sequence[str], *, actor: str) -> Register:
    """Let only those golden records be recognised whose field holds one of some values; all, where no field is named."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    wished = {"field": field, "values": sorted({value.strip() for value in values if value.strip()})} if field else None
    if wished:
        layout_of(register).field(field)
        if not wished["values"]:
            raise Refused("Say which values golden records that may be recognised have.")
    if register.recognisable != wished:
        told = "Changed which golden records may be recognised"
        _ask(session, register, RECOGNISABLE, {"field": field, "values": list(values)}, told, actor)
        before, register.recognisable = register.recognisable, wished
        _changed(session, register, "recognisable", before, wished, told, actor)
    return register


def choose_parents(session: Session, slug: str, parents: str, *, actor: str) -> Register:
    """Say what becomes of records that refer to something that is not there: told ("tell"), put "aside", or it is made ("make")."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    if parents not in PARENTS:
        raise Refused(f"'{parents}' is not one of {', '.join(PARENTS)}.")
    if register.parents != parents:
        told = "Changed what becomes of records without a parent"
        _ask(session, register, ORPHANS, {"parents": parents}, told, actor)
        before, register.parents = register.parents, parents
        _changed(session, register, "parents", before, parents, told, actor)
        if register.recognises and counters_of(session, register.id).records:
            work.follow_up(session, slug, RECOGNISE, _TITLE, {"register": slug})
    return register


def _ask(session: Session, register: Register, act: str, arguments: Mapping[str, Any], told: str, actor: str) -> None:
    shows = [(name, "", str(value)) for name, value in arguments.items()]
    intent = Intent(act, arguments, Facts(Matter.PLAN, act), told, shows, leads_to="bring-in")
    ask_second_yes(session, register, intent, actor=actor)


def _changed(
    session: Session, register: Register, what: str, before: object, after: object, summary: str, actor: str
) -> None:
    register.version += 1
    session.flush()
    data = {"what": what, "before": before, "after": after}
    journal.append(session, register.id, "recognition", actor=actor, data=data, personal={"summary": summary})
