"""The tidy steps that are in force in a register, with the swap lists and value maps they use."""

from collections.abc import Iterable

from sqlalchemy.orm import Session

from ...core.tidying import NOTHING, Recipe, recipe_from
from ...core.tidying.word_tables import TableKind, WordTable
from ...store import tidying as store
from ...store.tables import Register
from .layouts import layout_of


def word_tables(session: Session, names: Iterable[str] | None = None) -> dict[str, WordTable]:
    """Return all tables, or the named ones, as the tidy steps use them."""
    return {
        row.name: WordTable(row.name, TableKind(row.kind), tuple((source, target) for source, target in row.entries))
        for row in store.tables_in_force(session, names)
    }


def recipe_of(session: Session, register: Register) -> Recipe:
    """Return the recipe of a register; one that changes nothing where there is none."""
    kept = store.recipe_in_force(session, register.id)
    if kept is None or not kept.steps:
        return NOTHING
    names = {str(step["table"]) for steps in kept.steps.values() for step in steps if "table" in step}
    return recipe_from(kept.steps, word_tables(session, names), layout_of(register).names)
