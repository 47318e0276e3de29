"""All distinct values that members hold of a unit: what did not win is not lost."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from ..fields import Field, FieldKind, Layout
from ..records import further
from .members import Contributor, holders_of, tidy_key, without_fillers

#: Kinds of which one delivered value may hold several ("01632 960001 / 01632 960444").
_SEVERAL_IN_ONE = frozenset({FieldKind.PHONE, FieldKind.EMAIL})
_MOST_IN_ONE = 9
_COUNTRY = "address.country"


@dataclass(frozen=True, slots=True)
class HeldValue:
    """A distinct value of a unit, by field, and the members (source, id) that hold it."""

    unit: str
    values: Mapping[str, str]
    holders: tuple[tuple[str, str], ...]


def all_values(
    layout: Layout, contributors: Sequence[Contributor], golden: Mapping[str, str],
    in_form: Callable[[Mapping[str, str]], Mapping[str, str]],
) -> list[HeldValue]:  # fmt: skip
    """Return the distinct values of every unit of which there are several: the ``golden`` one first, then by how many hold them.

    Values that mean the same are one, written as ``in_form`` writes the first of them; what it writes alike is one too.
    """
    found: list[HeldValue] = []
    contributors = list(map(without_fillers, contributors))
    for unit, fields in layout.groups.items():
        names = [field.name for field in fields]
        groups: dict[str, tuple[Mapping[str, str], list[tuple[str, str]]]] = {}
        for contributor, values in holders_of(names, contributors):
            # How a number is written hangs on the country of whoever gives it.
            country = contributor.values.get(_COUNTRY) or golden.get(_COUNTRY, "")
            for key, own in _apart(unit, fields, contributor, values):
                own = {_COUNTRY: country, **own} if country else own
                groups.setdefault(key, (own, []))[1].append((contributor.source, contributor.record))
        of_unit: dict[tuple[tuple[str, str], ...], list[tuple[str, str]]] = {}
        for own, holders in groups.values():
            written = {name: value for name, value in in_form(own).items() if name in names and value}
            of_unit.setdefault(tuple(written.items()), []).extend(holders)
        if len(of_unit) > 1:
            first = tuple((name, golden[name]) for name in names if golden.get(name))
            ranked = sorted(of_unit.items(), key=lambda item: (item[0] != first, -len(item[1]), item[0]))
            found += [HeldValue(unit, dict(written), tuple(sorted(set(holders)))) for written, holders in ranked]
    return found


def _apart(
    unit: str, fields: Sequence[Field], contributor: Contributor, values: Mapping[str, str]
) -> list[tuple[str, Mapping[str, str]]]:
    """Return (what makes it one with others, value) of every value that a contributor holds of a unit."""
    tidy = contributor.tidy
    if len(fields) == 1 and fields[0].kind in _SEVERAL_IN_ONE and tidy.get(further(unit, 1)):
        parts = [tidy.get(further(unit, place), "") for place in range(_MOST_IN_ONE)]
        return [(f"{unit}={part}", {unit: part}) for part in parts if part]
    return [(tidy_key(contributor, unit.split(".")[0], values), values)]
