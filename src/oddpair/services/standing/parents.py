"""Records that refer to something that is not there: linked when it comes, and, as a register says, put aside until then or made."""

import re
from hashlib import sha256
from pathlib import Path

from sqlalchemy.orm import Session

from ...core.text.tables import phrase
from ...store import references as store
from ...store.registers import register_by_slug
from ...store.tables import Register
from .. import work
from ..bring_in.made_rows import bring_in_rows
from ..state.bring_up_to_date import RECOGNISE
from ..state.layouts import layout_of
from ..state.references import reference_fields, resolve
from .reconcile import name_field

TELL, ASIDE, MAKE = "tell", "aside", "make"
PARENTS = (TELL, ASIDE, MAKE)


def link_to_parents(session: Session, register: Register, folder: Path | None, *, actor: str) -> int:
    """Link the records of a register to what they refer to, as it is now; return how many of those were made, in files of a ``folder``."""
    fields = reference_fields(register)
    if register.parents == TELL or not fields:
        return 0
    resolve(session, register)
    made = 0
    if register.parents == MAKE and folder is not None:
        for field in fields:
            names = _nameable(store.unresolved_values(session, register.id, field.name))
            if names:
                parent = name_field(layout_of(register_by_slug(session, field.register))).name
                source = re.sub(r"[^\w .\-]", "", f"named in {register.name}")[:60]
                rows = {own: {parent: name} for own, name in names.items()}
                bring_in_rows(session, field.register, source, source, rows, folder, actor=actor)
                made += len(names)
        if made:
            resolve(session, register)
    return made


def _nameable(values: list[str]) -> dict[str, str]:
    """Return names by ids that are the same whenever somebody is named alike; what has no letters is an id, and names nobody."""
    named = [value for value in values if any(letter.isalpha() for letter in value)]
    return {sha256((phrase(value) or value).encode()).hexdigest()[:12]: value for value in sorted(named, reverse=True)}


def follow_children(session: Session, register: Register) -> None:
    """Ask for the recognition of registers with records that may refer to what has just come into this one."""
    for child in store.waiting_children(session, register.slug):
        work.follow_up(session, child, RECOGNISE, "Recognise what came in", {"register": child})
