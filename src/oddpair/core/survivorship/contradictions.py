"""Contradictions: what members of one golden record say of it that cannot all be true.

Two valid and different identifiers, two birth dates, two countries. A slip of one another is none, nor is a date with which systems fill
gaps, nor one number with and without its country in front.
"""

from collections.abc import Callable, Sequence
from itertools import combinations

from ..fields import FRESHNESS_FIELD, Field, FieldKind, Layout
from ..tidying.validity import is_valid
from .choosing import is_remembered
from .members import Contributor
from .support import slips_apart

_BIRTH_DATES = frozenset({"birth_date"})
_DAY, _MONTH = slice(8, 10), slice(5, 7)


def contradicting_fields(layout: Layout) -> tuple[Field, ...]:
    """Return the fields of which a golden record can have one value only, however many members say something else."""
    return tuple(
        field
        for field in layout.fields
        if field.kind in (FieldKind.IDENTIFIER, FieldKind.COUNTRY)
        or (field.kind is FieldKind.DATE and field.name in _BIRTH_DATES and field.name != FRESHNESS_FIELD)
    )


def contradictions(fields: Sequence[Field], contributors: Sequence[Contributor]) -> dict[str, tuple[str, ...]]:
    """Return field → the tidy values that contradict each other, in order; of ``contradicting_fields``."""
    found: dict[str, tuple[str, ...]] = {}
    if len(contributors) < 2:
        return found
    for field in fields:
        said = {value for one in contributors if (value := one.tidy.get(field.name))}
        if len(said) < 2:
            continue
        apart, counts = _JUDGED[field.kind]
        valid = sorted({one.tidy[field.name] for one in contributors if counts(field, one)})
        if any(apart(one, other) for one, other in combinations(valid, 2)):
            found[field.name] = tuple(valid)
    return found


def _numbers_apart(one: str, other: str) -> bool:
    return not (one.endswith(other) or other.endswith(one) or slips_apart(one, other) <= 1)


def _dates_apart(one: str, other: str) -> bool:
    swapped = one[:4] == other[:4] and (one[_DAY], one[_MONTH]) == (other[_MONTH], other[_DAY])
    return not swapped and slips_apart(one, other) > 1


def _says_a_number(field: Field, one: Contributor) -> bool:
    return bool(one.tidy.get(field.name)) and is_valid(field, one.tidy)


def _says_a_date(field: Field, one: Contributor) -> bool:
    return is_remembered(one.tidy.get(field.name, ""))


def _says_a_country(field: Field, one: Contributor) -> bool:
    return bool(one.tidy.get(field.name))


_JUDGED: dict[FieldKind, tuple[Callable[[str, str], bool], Callable[[Field, Contributor], bool]]] = {
    FieldKind.IDENTIFIER: (_numbers_apart, _says_a_number),
    FieldKind.DATE: (_dates_apart, _says_a_date),
    FieldKind.COUNTRY: (lambda one, other: True, _says_a_country),
}
