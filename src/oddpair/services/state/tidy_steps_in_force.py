"""The tidy steps that are in force in a register, with the swap lists and value maps they use."""

from collections.abc import Iterable

from sqlalchemy.orm import Session

from ...core.tidying import NOTHING, TidySteps, tidy_steps_from
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


def tidy_steps_of(session: Session, register: Register) -> TidySteps:
    """Return the tidy steps of a register; none where nobody set any."""
    version = store.tidy_steps_in_force(session, register.id)
    if version is None or not version.steps:
        return NOTHING
    names = {str(step["table"]) for steps in version.steps.values() for step in steps if "table" in step}
    return tidy_steps_from(version.steps, word_tables(session, names), layout_of(register).names)
