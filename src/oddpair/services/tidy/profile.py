"""Profiles of a register's fields, for all of its records or those of one source or delivery."""

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...core.fields import Field
from ...core.profiling import CHECKED_KINDS, ColumnProfile, ColumnProfiler, is_valid
from ...core.records import MOST_VALUES, further
from ...store import deliveries as delivery_store
from ...store import profiles as store
from ...store.registers import register_by_slug, source_by_name
from ...store.tables import Register
from ..state.layouts import layout_of

Progress = Callable[[str, int, int], None]
#: Fewer records than this are looked at while a person waits; more are work for the background.
_WHILE_WAITING = 40_000
_RECORDS_AT_ONCE = 10_000


@dataclass(frozen=True, slots=True)
class Scope:
    """Whose records are looked at: all of a register, those of a source, or those of a delivery."""

    source: str = ""
    delivery_id: int = 0

    @property
    def name(self) -> str:
        """Return the name under which the scope's profile is kept."""
        return f"delivery {self.delivery_id}" if self.delivery_id else f"source {self.source}" if self.source else "all"


def profile_of(
    session: Session, slug: str, scope: Scope, *, while_waiting: int = _WHILE_WAITING
) -> dict[str, Any] | None:
    """Return the profile of a scope, made now if that is quick; None if it has to be made in the background."""
    register = register_by_slug(session, slug)
    where = _checked(session, register, scope)
    state = store.state_of_records(session, register.id)
    stored = store.kept_profile(session, register.id, scope.name)
    if stored is not None and stored.state == state:
        return stored.result
    if store.count_in_scope(session, register.id, where) > while_waiting:
        return None
    return make_profile(session, slug, scope, lambda stage, done, total: None)


def _checked(session: Session, register: Register, scope: Scope) -> store.Where:
    source_id = 0
    if scope.source:
        source = source_by_name(session, register.id, scope.source)
        if source is None:
            raise NotFound("source", scope.source)
        source_id = source.id
    if scope.delivery_id:
        delivery = delivery_store.delivery_by_id(session, scope.delivery_id)
        if delivery_store.register_of(session, delivery).id != register.id:
            raise NotFound("delivery", scope.delivery_id)
    return store.Where(source_id, scope.delivery_id)


def make_profile(session: Session, slug: str, scope: Scope, progress: Progress) -> dict[str, Any]:
    """Make the profile of a scope and keep it; return it."""
    register = register_by_slug(session, slug)
    where = _checked(session, register, scope)
    state = store.state_of_records(session, register.id)
    total = store.count_in_scope(session, register.id, where)
    fields = {further(field.name, place): field for field in layout_of(register).fields for place in range(MOST_VALUES)}
    profilers = {name: ColumnProfiler() for name in fields}
    done = 0
    for part in store.fields_and_tidy(session, register.id, where, _RECORDS_AT_ONCE):
        filled = {name for values, _ in part for name in values}
        for name, field in fields.items():
            if name in filled or "#" not in name:
                _add(profilers[name], field, name, part)
        done += len(part)
        progress("look at values", done, total)
    result = {"records": total, "fields": [_field_profile(field, profilers) for field in layout_of(register).fields]}
    store.keep_profile(session, register.id, scope.name, state, result, datetime.now(UTC))
    return result


def _add(profiler: ColumnProfiler, field: Field, name: str, part: store.Part) -> None:
    values = [fields.get(name, "") for fields, _ in part]
    # What is tidied of further values stands at places of its own, so only first values are told to be valid.
    if field.kind in CHECKED_KINDS and name == field.name:
        profiler.add(
            values, [not value or is_valid(field, tidy) for value, (_, tidy) in zip(values, part, strict=True)]
        )
    else:
        profiler.add(values)


def _field_profile(field: Field, profilers: Mapping[str, ColumnProfiler]) -> dict[str, Any]:
    """Return what is said of a field: the profile of its first values, and how many records hold further ones."""
    more = [profilers[further(field.name, place)].result().filled for place in range(1, MOST_VALUES)]
    first = profile_document(profilers[field.name].result())
    checked = field.kind in CHECKED_KINDS
    return {
        **first,
        "name": field.name,
        "label": field.label,
        "kind": field.kind.value,
        "checked": checked,
        "further": more,
    }


def profile_document(profile: ColumnProfile) -> dict[str, Any]:
    """Return a profile as it is kept: with lists, as it will be read."""
    return {name: list(value) if isinstance(value, tuple) else value for name, value in asdict(profile).items()}
