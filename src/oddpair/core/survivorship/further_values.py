"""All distinct values that members hold of a unit: what did not win is not lost."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from ..fields import FRESHNESS_FIELD, Field, FieldKind, Layout
from ..records import MOST_VALUES, further
from .members import Contributor, as_signed, tidy_key

#: Kinds of which one delivered value may hold several ("01632 960001 / 01632 960444").
_SEVERAL_IN_ONE = frozenset({FieldKind.PHONE, FieldKind.EMAIL})
_COUNTRY = "address.country"
Values = Mapping[str, str]


class Holder(NamedTuple):
    """Who holds a value: a source and its id, and the label under which it was delivered ("billing"), if any."""

    source: str
    record: str
    label: str


@dataclass(frozen=True, slots=True)
class HeldValue:
    """A distinct value of a unit, by field, and the members that hold it."""

    unit: str
    values: Values
    holders: tuple[Holder, ...]


def all_values(
    layout: Layout, contributors: Sequence[Contributor], golden: Values, in_form: Callable[[Values], Values],
    labels: Mapping[str, Values],
) -> list[HeldValue]:  # fmt: skip
    """Return the distinct values of every unit of which there are several: the ``golden`` one first, then by how many hold them.

    Values that mean the same are one, written as ``in_form`` writes the first of them; what it writes alike is one too. ``labels`` says,
    per source, under which label the value at a place of a field was delivered.
    """
    found: list[HeldValue] = []
    contributors = list(map(as_signed, contributors))
    for unit, fields in layout.groups.items():
        if unit == FRESHNESS_FIELD:
            # Every record has its own, and it is none of the entity's.
            continue
        names = [field.name for field in fields]
        groups: dict[str, tuple[Values, list[Holder]]] = {}
        for contributor in contributors:
            # How a number is written hangs on the country of whoever gives it.
            country = contributor.values.get(_COUNTRY) or golden.get(_COUNTRY, "")
            for place, key, own in _each(unit, fields, contributor):
                of_source = labels.get(contributor.source, {})
                label = next((of_source[name] for field in names if (name := further(field, place)) in of_source), "")
                own = {_COUNTRY: country, **own} if country else own
                key = f"{country}|{key}" if fields[0].kind is FieldKind.PHONE else key
                groups.setdefault(key, (own, []))[1].append(Holder(contributor.source, contributor.record, label))
        of_unit: dict[tuple[tuple[str, str], ...], list[Holder]] = {}
        for own, holders in groups.values():
            written = {name: value for name, value in in_form(own).items() if name in names and value}
            of_unit.setdefault(tuple(written.items()), []).extend(holders)
        if len(of_unit) > 1:
            first = tuple((name, golden[name]) for name in names if golden.get(name))
            ranked = sorted(of_unit.items(), key=lambda item: (item[0] != first, -len(item[1]), item[0]))
            found += [HeldValue(unit, dict(written), tuple(sorted(set(holders)))) for written, holders in ranked]
    return found


def _each(unit: str, fields: Sequence[Field], contributor: Contributor) -> Iterator[tuple[int, str, Values]]:
    """Yield (its place, what makes it one with others, the value) of every value that a contributor holds of a unit."""
    tidy = contributor.tidy
    for place in range(MOST_VALUES):
        values = {
            field.name: value for field in fields if (value := contributor.values.get(further(field.name, place)))
        }
        if place and values:
            yield place, "|".join(f"{name}={value}" for name, value in sorted(values.items())), values
        elif not values:
            continue
        elif _holds_several(unit, fields, contributor):
            for part in filter(None, (tidy.get(further(unit, further_place)) for further_place in range(MOST_VALUES))):
                yield 0, f"{unit}={part}", {unit: part}
        else:
            yield 0, tidy_key(contributor, unit.split(".")[0], values), values


def _holds_several(unit: str, fields: Sequence[Field], contributor: Contributor) -> bool:
    """Whether the one value that was delivered holds several."""
    second = further(unit, 1)
    is_one = len(fields) == 1 and fields[0].kind in _SEVERAL_IN_ONE
    return is_one and bool(contributor.tidy.get(second)) and not contributor.values.get(second)
