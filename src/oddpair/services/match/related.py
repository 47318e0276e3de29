"""Brings the values of related records to those that they refer to, as a plan asks for."""

from collections.abc import Iterator, Mapping

import numpy as np
from sqlalchemy.orm import Session

from ...core.errors import PlanInvalid, did_you_mean
from ...core.fields import FieldKind
from ...core.plan import MatchPlan, Related
from ...core.records import RecordSet
from ...core.related import with_related
from ...store.references import referring_values
from ...store.registers import register_by_slug
from ...store.tables import Register
from ..state.layouts import layout_of
from .numbers import Numbers


def bring_related(session: Session, register: Register, plan: MatchPlan, records: RecordSet, ids: Numbers) -> RecordSet:
    """Return the tidy records of a register with the values of related ones; raise PlanInvalid if no such field refers to it."""
    for related in plan.related:
        records = with_related(records, _values(session, register, related, ids))
    return records


def check_related(session: Session, register: Register, plan: MatchPlan) -> None:
    """Raise PlanInvalid with all that is wrong with a plan's related registers: unknown ones, fields that lead elsewhere or are none."""
    problems = [problem for related in plan.related for problem in _problems(session, register, related)]
    if problems:
        raise PlanInvalid(problems)


def _problems(session: Session, register: Register, related: Related) -> Iterator[str]:
    layout = layout_of(register_by_slug(session, related.register_slug))
    leading = [
        field.name for field in layout.fields if field.kind is FieldKind.REFERENCE and field.register == register.slug
    ]
    if related.by not in leading:
        yield f"related: no field '{related.by}' of {related.register_slug} refers to this register.{did_you_mean(related.by, leading)}"
    for name in related.take.values():
        if name not in layout.names:
            yield f"related: {related.register_slug} has no field '{name}'.{did_you_mean(name, layout.names)}"


def _values(
    session: Session, register: Register, related: Related, ids: Numbers
) -> Iterator[tuple[int, str, Mapping[str, str]]]:
    check = list(_problems(session, register, related))
    if check:
        raise PlanInvalid(check)
    order = np.argsort(ids)
    ordered = ids[order]
    other = register_by_slug(session, related.register_slug)
    for target, tidy in referring_values(session, other.id, related.by):
        place = int(np.searchsorted(ordered, target))
        if place == len(ordered) or int(ordered[place]) != target:
            continue
        for own, theirs in related.take.items():
            yield from ((int(order[place]), own, columns) for columns in _columns(tidy, theirs, own))


def _columns(tidy: Mapping[str, str], theirs: str, own: str) -> Iterator[Mapping[str, str]]:
    """Yield what a record holds of one of its fields, a mapping per value, under the names of the field it is taken for."""
    by_place: dict[str, dict[str, str]] = {}
    for name, value in tidy.items():
        column, _, number = name.partition("#")
        if value and (column == theirs or column.startswith(f"{theirs}.")):
            by_place.setdefault(number, {})[own + column[len(theirs) :]] = value
    yield from (by_place[number] for number in sorted(by_place))
