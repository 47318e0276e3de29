"""Checks that a steward puts in force: which agreement with a record that is there warns whoever is about to enter one, or forbids it."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...core.fields import Layout
from ...core.tidying import tidy_row
from ...store import checks as store
from ...store import journal
from ...store.checks import Tried
from ...store.locks import lock_settings
from ...store.registers import register_by_slug
from ...store.tables import Check, Register
from ..standing.look_up import Candidate
from ..state.layouts import layout_of
from ..state.tidy_steps_in_force import tidy_steps_of

__all__ = ["HOWS", "Part", "Told", "Tried", "checks", "look_into", "put_in_force", "remove", "try_check"]
HOWS = ("same", "first", "last", "plan same", "plan unsure")
_MOST_CHECKS, _MOST_PARTS, _MOST_LETTERS, _MOST_TOLD = 20, 5, 50, 5
#: How deliveries' records come out that the plan would have told as the same, or as unsure or the same.
_OUTCOMES = {"plan same": ("recognised", "refused"), "plan unsure": ("recognised", "refused", "doubtful")}


@dataclass(frozen=True, slots=True)
class Part:
    """What has to agree: a field that is the ``same``, or has the same ``first`` or ``last`` so many letters; or, without a field, what the
    plan says: "plan same", or "plan unsure" for unsure or the same."""

    how: str
    field: str = ""
    letters: int = 0

    def says(self, layout: Layout) -> str:
        """Return what agrees, in words."""
        if self.how.startswith("plan"):
            return "the plan says the same" if self.how == "plan same" else "the plan is unsure, or says the same"
        label = layout.field(self.field).label.lower()
        return f"the same {label}" if self.how == "same" else f"the {self.how} {self.letters} letters of {label}"


@dataclass(frozen=True, slots=True)
class Told:
    """What a check tells of a record that is about to be entered: what agrees, with which golden records, and whether it ``forbids``."""

    check_id: int
    says: str
    forbids: bool
    golden_keys: Sequence[str]


def parts_of(check: Check) -> list[Part]:
    """Return the parts of a check."""
    return [Part(**part) for part in check.parts]


def says(parts: Sequence[Part], layout: Layout) -> str:
    """Return what agrees, in words."""
    return ", ".join(part.says(layout) for part in parts)


def _check_parts(parts: Sequence[Part], layout: Layout) -> None:
    if not 1 <= len(parts) <= _MOST_PARTS:
        raise Refused(f"A check has one to {_MOST_PARTS} parts.")
    for part in parts:
        if part.how not in HOWS:
            raise Refused(f"'{part.how}' is no way to agree; there are {', '.join(HOWS)}.")
        if part.how.startswith("plan"):
            if len(parts) > 1 or part.field:
                raise Refused("What the plan says stands alone, without a field.")
            continue
        layout.field(part.field)
        if part.how != "same" and not 1 <= part.letters <= _MOST_LETTERS:
            raise Refused(f"'{part.how}' needs how many letters: 1 to {_MOST_LETTERS}.")


def _is_by_plan(parts: Sequence[Mapping[str, Any]]) -> bool:
    return str(parts[0]["how"]).startswith("plan")


def checks(session: Session, slug: str) -> Sequence[Check]:
    """Return the checks in force."""
    return store.checks_of(session, register_by_slug(session, slug).id)


def put_in_force(session: Session, slug: str, parts: Sequence[Part], *, forbids: bool, actor: str) -> Check:
    """Put a check in force; raise Refused or NotFound where its parts make no sense."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    layout = layout_of(register)
    _check_parts(parts, layout)
    if len(store.checks_of(session, register.id)) >= _MOST_CHECKS:
        raise Refused(f"{_MOST_CHECKS} checks are in force; remove one first.")
    check = Check(register_id=register.id, parts=[asdict(part) for part in parts], forbids=forbids, actor=actor)
    session.add(check)
    session.flush()
    if not _is_by_plan(check.parts):
        store.make_index(session, check)
    effect = "forbids" if forbids else "warns"
    _note(session, register, check, f"A check {effect}: {says(parts, layout)}", actor, on=True)
    return check


def remove(session: Session, slug: str, check_id: int, *, actor: str) -> None:
    """Take a check out of force."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    check = session.get(Check, check_id)
    if check is None or check.register_id != register.id:
        raise NotFound("check", check_id)
    store.drop_index(session, check.id)
    told = says(parts_of(check), layout_of(register))
    _note(session, register, check, f"A check was taken out of force: {told}", actor, on=False)
    session.delete(check)
    session.flush()


def _note(session: Session, register: Register, check: Check, summary: str, actor: str, *, on: bool) -> None:
    data = {"check": check.id, "parts": check.parts, "forbids": check.forbids, "on": on}
    journal.append(session, register.id, "check", actor=actor, data=data, personal={"summary": summary})


def try_check(session: Session, slug: str, parts: Sequence[Part], days: int) -> Tried:
    """Return of how many of the records that came in the latest days a check would have told that one like it was there."""
    register = register_by_slug(session, slug)
    _check_parts(parts, layout_of(register))
    if parts[0].how.startswith("plan"):
        return store.try_verdict(session, register.id, _OUTCOMES[parts[0].how], days)
    return store.try_parts(session, register.id, [asdict(part) for part in parts], days, _MOST_TOLD)


def look_into(
    session: Session, register: Register, values: Mapping[str, str], candidates: Sequence[Candidate]
) -> list[Told]:
    """Return what the checks tell of a record that is about to be entered, of which a look-up found the ``candidates``."""
    layout = layout_of(register)
    tidy = tidy_row(layout, values, tidy_steps_of(session, register))
    told = []
    for check in store.checks_of(session, register.id):
        if _is_by_plan(check.parts):
            verdicts = ("same",) if check.parts[0]["how"] == "plan same" else ("same", "unsure")
            keys: Sequence[str] = [one.golden_key for one in candidates if one.verdict in verdicts][:_MOST_TOLD]
        else:
            keys = store.agreeing(session, check, tidy, values, _MOST_TOLD)
        if keys:
            told.append(Told(check.id, says(parts_of(check), layout), check.forbids, keys))
    return told
