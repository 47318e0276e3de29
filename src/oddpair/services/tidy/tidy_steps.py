"""A register's tidy steps: read, tried on real values, saved, applied again, and what they may do to verdicts."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import Conflict, Refused
from ...core.sign_off import Facts, Matter
from ...core.tidying import FieldSteps, TidySteps, tidy_steps_from
from ...core.tidying.steps import document_of
from ...store import journal
from ...store import tidying as store
from ...store.golden import active_ids
from ...store.locks import lock_membership, lock_settings
from ...store.registers import register_by_slug
from ...store.settling import count_touched, touch_register
from ...store.tables import Job, Register, TidyStepsVersion
from .. import work
from ..proposals.gate import Intent, ask_second_yes, changed_entries
from ..state.bring_up_to_date import RecordChange, bring_up_to_date
from ..state.golden_values import refresh
from ..state.layouts import layout_of
from ..state.tidy_steps_in_force import word_tables

Progress = Callable[[str, int, int], None]
Document = Mapping[str, Sequence[Mapping[str, object]]]
_TRIED_COMBINATIONS = 20_000
_SHOWN = 60


def draft_tidy_steps(session: Session, register: Register, steps: Document) -> TidySteps:
    """Return the tidy steps that a document says, with the tables as they are now; raise InputError."""
    return tidy_steps_from(steps, word_tables(session), layout_of(register).names)


def save_tidy_steps(session: Session, slug: str, steps: Document, *, seen_version: int, actor: str) -> Job:
    """Keep a new version of the tidy steps, and return the work that applies them to all records.

    Raises InputError, or Conflict if they changed meanwhile. Steps whose patterns run away on a value that the register holds are refused.
    """
    register = lock_settings(session, register_by_slug(session, slug).id)
    tidy_steps = draft_tidy_steps(session, register, steps)
    present = store.tidy_steps_in_force(session, register.id)
    version = present.version if present else 0
    if version != seen_version:
        by = f" by {present.actor}" if present else ""
        raise Conflict(f"The tidy steps were changed{by} meanwhile (version {version}). Reload to see them.")
    document = {name: [document_of(step) for step in of_field] for name, of_field in tidy_steps.steps.items()}
    for name, of_field in document.items():
        if any("pattern" in step for step in of_field):
            tried = try_steps(session, slug, name, of_field)
            if tried.stopped:
                raise Refused(f"{layout_of(register).field(name).label}: {tried.stopped[0]}")
    arguments = {"steps": {name: list(of_field) for name, of_field in document.items()}, "seen_version": seen_version}
    told = f"Set the tidy steps, version {version + 1}"
    shows = changed_entries(present.steps if present else {}, document)
    step = Intent("tidy steps", arguments, Facts(Matter.PLAN, "tidy steps"), told, shows, leads_to="tidy/steps")
    ask_second_yes(session, register, step, actor=actor)
    saved = TidyStepsVersion(register_id=register.id, version=version + 1, steps=document, actor=actor)
    session.add(saved)
    journal.append(
        session, register.id, "tidy steps", actor=actor,
        data={"version": saved.version, "before": present.steps if present else {}, "after": document},
        personal={"summary": told},
    )  # fmt: skip
    return work.follow_up(session, slug, "tidy", "Tidy again", {"register": slug})


def steps_in_force(session: Session, slug: str) -> tuple[TidyStepsVersion | None, list[str]]:
    """Return (the newest version of the tidy steps, if any, the names of all tables)."""
    register = register_by_slug(session, slug)
    return store.tidy_steps_in_force(session, register.id), [table.name for table in store.tables_in_force(session)]


@dataclass(frozen=True, slots=True)
class TriedValue:
    """A value that ``records`` records hold: before, and after every step."""

    records: int
    before: str
    after: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class TriedSteps:
    """What steps make of the real values of a field.

    ``changed_by_step`` counts records per step, ``changed`` those that differ in the end, of ``records`` looked at;
    ``complete`` tells whether these were all. ``stopped`` tells of patterns that ran away.
    """

    records: int
    complete: bool
    changed: int
    changed_by_step: tuple[int, ...]
    values: list[TriedValue]
    stopped: list[str]


def try_steps(
    session: Session,
    slug: str,
    field: str,
    steps: Sequence[Mapping[str, object]],
    *,
    search: str = "",
    only_changed: bool = True,
) -> TriedSteps:
    """Apply steps to the distinct values of a field without keeping anything."""
    register = register_by_slug(session, slug)
    tidy_steps = draft_tidy_steps(session, register, {field: steps})
    ready = FieldSteps(tidy_steps.steps.get(field, ()), tidy_steps.tables)
    combinations = store.distinct_values(
        session, register.id, [field, *ready.reads], limit=_TRIED_COMBINATIONS, search=search
    )
    changed_by_step = [0] * len(tidy_steps.steps.get(field, ()))
    changed = 0
    shown: list[TriedValue] = []
    stopped: dict[str, None] = {}
    for records, (value, *others) in combinations:
        tried = ready.trace(value, dict(zip(ready.reads, others, strict=True)))
        for place, (before, after) in enumerate(pairwise((value, *tried.after))):
            changed_by_step[place] += records * (before != after)
        differs = bool(tried.after) and tried.after[-1] != value
        changed += records * differs
        if tried.stopped:
            stopped[tried.stopped] = None
        if len(shown) < _SHOWN and (value or differs) and (differs or not only_changed):
            shown.append(TriedValue(records, value, tried.after))
    return TriedSteps(
        sum(records for records, _ in combinations), len(combinations) < _TRIED_COMBINATIONS, changed, tuple(changed_by_step), shown,
        list(stopped),
    )  # fmt: skip


def tidy_register(session: Session, slug: str, progress: Progress) -> dict[str, Any]:
    """Bring all records of a register up to date with its steps, tables and layout; delivered values stay."""
    register = lock_membership(session, register_by_slug(session, slug).id)
    touch_register(session, register.id)
    outcome = bring_up_to_date(session, register, RecordChange(), progress)
    active = active_ids(session, register.id)
    refresh(session, register, active, progress)
    return {"records": count_touched(session), "changed": outcome.tidied}


def check_steps(session: Session, slug: str, steps: Document) -> None:
    """Raise InputError if steps cannot be applied in a register."""
    draft_tidy_steps(session, register_by_slug(session, slug), steps)
