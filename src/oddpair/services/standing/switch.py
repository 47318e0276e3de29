"""Whether a register recognises what is delivered as it comes in."""

from sqlalchemy.orm import Session

from ...store import journal
from ...store.locks import lock_settings
from ...store.registers import register_by_slug
from ...store.tables import Job, Register
from .. import work
from ..state.bring_up_to_date import RECOGNISE

_TITLE = "Recognise what came in"


def ask_to_recognise(session: Session, slug: str, *, actor: str) -> Job:
    """Ask for the recognition of what came in, whether or not that is done by itself; raise Refused if it is under way."""
    return work.ask_for(session, slug, RECOGNISE, _TITLE, {"register": slug, "actor": actor})


def switch_recognition(session: Session, slug: str, on: bool, *, actor: str) -> Register:
    """Let a register recognise deliveries, or leave matching and merging to people; what came in until now is matched at once."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    if register.recognises == on:
        return register
    register.recognises = on
    register.version += 1
    session.flush()
    summary = "Deliveries are recognised as they come in" if on else "Deliveries wait for a person to match them"
    journal.append(
        session,
        register.id,
        "recognition",
        actor=actor,
        data={"before": not on, "after": on},
        personal={"summary": summary},
    )
    if on:
        work.follow_up(session, slug, RECOGNISE, _TITLE, {"register": slug})
    return register
