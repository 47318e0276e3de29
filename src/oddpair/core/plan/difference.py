"""What is different between two plans, in words."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from .model import MatchPlan


@dataclass(frozen=True, slots=True)
class PlanChange:
    """A change: of which ``part`` of the plan, and what it was and is; "" where it was not there, or is not any more."""

    part: str
    before: str
    after: str

    @property
    def sentence(self) -> str:
        """Return the change as a sentence."""
        if not self.before:
            return f"{self.part}: {self.after}, new."
        if not self.after:
            return f"{self.part}: {self.before}, gone."
        return f"{self.part}: {self.before} → {self.after}."


#: Lists whose items have a name of their own, and what it is called.
_NAMED = {"comparisons": "name", "further": "name", "conditions": "title", "passes": "title"}


def plan_changes(before: MatchPlan, after: MatchPlan) -> tuple[PlanChange, ...]:
    """Return what is different in ``after``, part by part in the order of a plan; empty if both say the same."""
    return tuple(_changes(_document(before), _document(after), ""))


def _document(plan: MatchPlan) -> dict[str, Any]:
    return plan.model_dump(mode="json", by_alias=True)


def _changes(before: Any, after: Any, part: str) -> Iterator[PlanChange]:
    if before == after:
        return
    if isinstance(before, Mapping) and isinstance(after, Mapping):
        for name in [*before, *(name for name in after if name not in before)]:
            yield from _changes(before.get(name), after.get(name), _inside(part, name))
    elif isinstance(before, Sequence) and isinstance(after, Sequence) and not isinstance(before, str):
        yield from _list_changes(before, after, part)
    else:
        yield PlanChange(part, _said(before), _said(after))


def _list_changes(before: Sequence[Any], after: Sequence[Any], part: str) -> Iterator[PlanChange]:
    kind = part.rpartition(", ")[2]
    if kind in _NAMED:
        one, other = ({_name(item, kind): item for item in items} for items in (before, after))
        for name in [*one, *(name for name in other if name not in one)]:
            yield from _changes(one.get(name), other.get(name), f"{part} '{name}'")
        if list(one) != list(other) and set(one) == set(other):
            yield PlanChange(f"{part}, order", ", ".join(one), ", ".join(other))
        return
    gone, fresh = [item for item in before if item not in after], [item for item in after if item not in before]
    if len(gone) == len(fresh) == 1 and isinstance(gone[0], Mapping):
        yield from _changes(gone[0], fresh[0], part)
        return
    yield from (PlanChange(part, _said(item), "") for item in gone)
    yield from (PlanChange(part, "", _said(item)) for item in fresh)
    if not gone and not fresh:
        yield PlanChange(f"{part}, order", _said(before), _said(after))


def _name(item: Mapping[str, Any], kind: str) -> str:
    return str(item.get("called") or item["field"]) if _NAMED[kind] == "name" else str(item[_NAMED[kind]])


def _inside(part: str, name: str) -> str:
    return f"{part}, {name}" if part else name


def _said(value: Any) -> str:
    """Return a value in words; parts that say nothing are left out."""
    if value is None or value in ({}, [], ""):
        return ""
    if isinstance(value, Mapping):
        told = [(name, _said(inner)) for name, inner in value.items()]
        return ", ".join(f"{name} {said}" for name, said in told if said)
    if isinstance(value, list):
        return ", ".join(_said(item) for item in value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)
