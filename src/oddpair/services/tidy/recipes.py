"""A register's tidy steps: read, tried on real values, saved, applied again, and what they may do to verdicts."""

from collections import deque
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import Conflict
from ...core.processes import Task, processes
from ...core.tidying import FieldSteps, Recipe, recipe_from, tidy_rows
from ...core.tidying.steps import document_of
from ...store import tidying as store
from ...store.golden import IN_FORCE
from ...store.registers import lock_register, register_by_slug
from ...store.tables import GoldenRecord, Register, TidyRecipe
from ..state.golden_values import refresh
from ..state.layouts import layout_of
from ..state.recipe_in_force import recipe_of, word_tables
from .references import resolve

Progress = Callable[[str, int, int], None]
Document = Mapping[str, Sequence[Mapping[str, object]]]
_TRIED_COMBINATIONS = 20_000
_SHOWN = 60
_RECORDS_AT_ONCE = 20_000
_PARTS_UNDER_WAY = 3


def draft_recipe(session: Session, register: Register, steps: Document) -> Recipe:
    """Return the recipe that a document says, with the tables as they are now; raise InputError."""
    return recipe_from(steps, word_tables(session), layout_of(register).names)


def save_recipe(session: Session, slug: str, steps: Document, *, seen_version: int, actor: str) -> TidyRecipe:
    """Keep a new version of the tidy steps; raise InputError, or Conflict if they changed meanwhile."""
    register = lock_register(session, register_by_slug(session, slug).id)
    recipe = draft_recipe(session, register, steps)
    present = store.recipe_in_force(session, register.id)
    version = present.version if present else 0
    if version != seen_version:
        by = f" by {present.actor}" if present else ""
        raise Conflict(f"The tidy steps were changed{by} meanwhile (version {version}). Reload to see them.")
    kept = {name: [document_of(step) for step in of_field] for name, of_field in recipe.steps.items()}
    saved = TidyRecipe(register_id=register.id, version=version + 1, steps=kept, actor=actor)
    session.add(saved)
    session.flush()
    return saved


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
    recipe = draft_recipe(session, register, {field: steps})
    ready = FieldSteps(recipe.steps.get(field, ()), recipe.tables)
    combinations = store.distinct_values(
        session, register.id, [field, *ready.reads], limit=_TRIED_COMBINATIONS, search=search
    )
    changed_by_step = [0] * len(recipe.steps.get(field, ()))
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


def tidy_again(session: Session, slug: str, progress: Progress) -> dict[str, Any]:
    """Recompute the tidy values of all records of a register, and its golden records; delivered values stay."""
    register = lock_register(session, register_by_slug(session, slug).id)
    recipe, layout = recipe_of(session, register), layout_of(register)
    total = store.count_records(session, register.id)
    done = changed = 0
    running: deque[tuple[list[int], Task[list[dict[str, str]]]]] = deque()

    def write_oldest() -> None:
        nonlocal done, changed
        records, task = running.popleft()
        changed += store.write_tidy(session, list(zip(records, task.result(), strict=True)))
        done += len(records)
        progress("tidy", done, total)

    with processes(total > _RECORDS_AT_ONCE) as pool:
        for part in store.fields_of_records(session, register.id, _RECORDS_AT_ONCE):
            names = sorted({name for _, fields in part for name in fields})
            columns = {name: [fields.get(name, "") for _, fields in part] for name in names}
            running.append(([record for record, _ in part], pool.start(tidy_rows, layout, columns, len(part), recipe)))
            if len(running) > _PARTS_UNDER_WAY:
                write_oldest()
        while running:
            write_oldest()
    session.expire_all()
    register = lock_register(session, register_by_slug(session, slug).id)
    resolve(session, register)
    progress("golden records", 0, 0)
    active = select(GoldenRecord.id).where(GoldenRecord.register_id == register.id, IN_FORCE)
    refresh(session, register, list(session.scalars(active)))
    return {"records": total, "changed": changed}
