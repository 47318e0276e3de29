"""Finds what records of two registers share, with how rare it is; nothing is scored against anything and nothing joined."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..blocking import build_index, parse_key
from ..blocking.pairs import iterate_pairs
from ..compare import comparison
from ..joint_codes import distinct_rows, joint_codes
from ..plan import ComparisonRule
from ..records import Column, IntArray, RecordSet, column_from_codes
from ..scoring.several_values import prepare_rule
from ..sides import Sides
from ..tidying import Progress
from .plan import FAMILY, FindingsPlan, Shared, Using

_MOST_OF_BLOCK = 1_000
#: Keys under which records of both sides meet, by what they are held against each other; "x" stands for the field.
_KEYS: Mapping[Using, tuple[str, ...]] = {
    "phone": ("x.end",), "email": ("x",), "identifier": ("x",), "value": ("x",),
    "address": ("x.postcode + x.number", "x.street|first 5 + x.number + x.city|first 3"),
    FAMILY: ("x.postcode + kin", "x.street|first 5 + x.city|first 3 + kin"),
}  # fmt: skip
#: By which levels of which comparison two records share a thing.
_LEVELS: Mapping[Using, tuple[str, tuple[str, ...]]] = {
    "phone": ("phone", ("equal",)), "email": ("email", ("equal",)), "identifier": ("identifier", ("equal",)),
    "value": ("exact", ("equal",)), "address": ("address", ("equal",)),
    FAMILY: ("address", ("equal", "other unit", "same street", "other number")),
}  # fmt: skip
#: What of an address tells a door from others, and what tells a street.
_DOOR, _STREET = ("street", "number", "city"), ("street", "city")


@dataclass(frozen=True, slots=True)
class Side:
    """The tidy records of one side, and which of them are of one entity (the same number)."""

    records: RecordSet
    owners: IntArray


@dataclass(frozen=True, slots=True)
class SharedThing:
    """A thing that two records share: which rule of the plan says so, its value, how many of either side hold it, and the information in
    that in bits: how often one of the other side would hold it by chance."""

    rule: int
    value: str
    one_holders: int
    other_holders: int
    bits: float
    one: int
    other: int


@dataclass(frozen=True, slots=True)
class Found:
    """Two entities that share something: their numbers, and what it is, the rarest first."""

    one: int
    other: int
    things: tuple[SharedThing, ...]

    @property
    def bits(self) -> float:
        """Return the information in all that is shared; what an address says is not said again by a family name in it."""
        return round(sum(thing.bits for thing in self.things), 2)


@dataclass(frozen=True, slots=True)
class _Pairs:
    """Pairs that share a thing, with what identifies it on either side and how many hold it."""

    one: IntArray
    other: IntArray
    holders: tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]
    values: Sequence[str]


def find(
    one: Side, other: Side, plan: FindingsPlan, progress: Progress | None = None
) -> tuple[list[Found], dict[str, int]]:
    """Return what entities of the two sides share, the most telling first, and per rule how many pairs were left out because too many
    hold what they share. The outcome does not depend on the order of records."""
    by_entities: dict[tuple[int, int], dict[tuple[int, str], SharedThing]] = {}
    common: dict[str, int] = {}
    for number, rule in enumerate(plan.shared):
        if progress:
            progress("compare", number, len(plan.shared))
        found = _sharing(one, other, rule)
        rare = (found.holders[0] <= plan.most_holders) & (found.holders[1] <= plan.most_holders)
        common[rule.title] = int((~rare).sum())
        for place in np.flatnonzero(rare).tolist():
            a, b = int(found.one[place]), int(found.other[place])
            thing = _thing(number, found, place, len(other.records))
            entities = by_entities.setdefault((int(one.owners[a]), int(other.owners[b])), {})
            # A door may be written in several ways, and is one all the same.
            key = (number, "" if rule.using in ("address", FAMILY) else thing.value)
            known = entities.get(key)
            if known is None or _order(thing) < _order(known):
                entities[key] = thing
    return sorted(_joined(by_entities, plan), key=lambda item: (-item.bits, item.one, item.other)), common


def _thing(number: int, found: _Pairs, place: int, others: int) -> SharedThing:
    holders = int(found.holders[0][place]), int(found.holders[1][place])
    bits = float(np.log2(max(others, 1) / max(holders[1], 1)) + 1.0)
    return SharedThing(
        number, found.values[place], *holders, round(max(bits, 0.0), 2), int(found.one[place]), int(found.other[place])
    )


def _order(thing: SharedThing) -> tuple[float, int, str]:
    """Return by what one of several ways of writing a thing is chosen, whatever the order of records: the most telling, the longest."""
    return -thing.bits, -len(thing.value), thing.value


def _joined(
    by_entities: Mapping[tuple[int, int], Mapping[tuple[int, str], SharedThing]], plan: FindingsPlan
) -> Iterable[Found]:
    """Yield a finding per two entities; that a family name stands in the name adds nothing where the door itself is shared."""
    kin = {number for number, rule in enumerate(plan.shared) if rule.using == FAMILY}
    doors = {number for number, rule in enumerate(plan.shared) if rule.using == "address"}
    for (a, b), things in by_entities.items():
        shares_door = any(number in doors for number, _ in things)
        own = [thing for (number, _), thing in things.items() if not (shares_door and number in kin)]
        yield Found(a, b, tuple(sorted(own, key=lambda thing: (-thing.bits, thing.rule, thing.value))))


def _sharing(one: Side, other: Side, rule: Shared) -> _Pairs:
    """Return the pairs of records that share what a rule asks for."""
    count = len(one.records)
    both = _both(one.records, other.records, rule)
    is_one = np.arange(len(both)) < count
    keys = [parse_key(key) for key in _KEYS[rule.using]]
    sides = Sides(is_one, ~is_one)
    index = build_index(both, keys, (), _MOST_OF_BLOCK, sides=sides)
    using, levels = _LEVELS[rule.using]
    measure = prepare_rule(ComparisonRule(field="x", using=using, label=rule.title), both)
    wanted = [comparison(using).level_number(level) for level in levels]
    lefts, rights = [np.zeros(0, dtype=np.int32)], [np.zeros(0, dtype=np.int32)]
    meets = np.array([[False, True], [True, False]])
    for _, (left, right) in iterate_pairs(index, both.source_codes, meets, lambda chunk: (chunk.left, chunk.right)):
        shared = np.isin(measure(left, right).levels, wanted)
        lefts.append(left[shared])
        rights.append(right[shared])
    left, right = np.concatenate(lefts), np.concatenate(rights)
    if using == "address":
        placed = _places_known(both, left, right)
        left, right = left[placed], right[placed]
    if rule.using == FAMILY:
        same = _same_kin(both, left, right)
        left, right = left[same], right[same]
    owners = np.concatenate((one.owners, other.owners))
    code = _identity(both, rule.using)
    holders = tuple(_holders(code, owners, side)[end] for side, end in ((is_one, left), (~is_one, right)))
    values = [_value(both, int(record), rule.using) for record in left.tolist()]
    return _Pairs(left, (right - count).astype(np.int32), (holders[0], holders[1]), values)


def _both(one: RecordSet, other: RecordSet, rule: Shared) -> RecordSet:
    """Return the records of both sides with what a rule asks for as field "x", names for how common it is, and "kin": words of the
    names of one side, family names of the other."""
    columns: dict[str, Column] = {}
    asked = [_parts(one, rule.one), _parts(other, rule.other)]
    for part in sorted({*asked[0], *asked[1]}):
        columns[f"x{part}"] = _stacked(one, asked[0].get(part, ""), other, asked[1].get(part, ""))
    if rule.using == FAMILY:
        words = _words(one)
        for place, column in enumerate(words):
            kin = other.column("name.family") if place == 0 else Column((), np.full(len(other), -1, dtype=np.int32))
            columns["kin" if place == 0 else f"kin#{place + 1}"] = _joined_column(column, kin)
    codes = np.repeat(np.array([0, 1], dtype=np.int32), [len(one), len(other)])
    return RecordSet(("one", "other"), codes, one.ids + other.ids, columns)


def _parts(records: RecordSet, field: str) -> dict[str, str]:
    """Return the columns of a field: what stands behind its name, and the whole name."""
    return {
        name[len(field) :]: name
        for name in records.columns
        if name == field or name.startswith((f"{field}.", f"{field}#"))
    }


def _stacked(one: RecordSet, first: str, other: RecordSet, second: str) -> Column:
    return _joined_column(one.column(first), other.column(second))


def _joined_column(first: Column, second: Column) -> Column:
    shifted = np.where(second.codes >= 0, second.codes + len(first.values), -1)
    return column_from_codes([*first.values, *second.values], np.concatenate((first.codes, shifted)).astype(np.int32))


_MOST_WORDS = 6


def _words(records: RecordSet) -> list[Column]:
    """Return the words of organisations' names, one column per place in the name."""
    column = records.column("name")
    split = [value.split() for value in column.values]
    return [
        column_from_codes([words[place] if place < len(words) else "" for words in split], column.codes)
        for place in range(_MOST_WORDS)
    ]


def _places_known(both: RecordSet, left: IntArray, right: IntArray) -> npt.NDArray[np.bool_]:
    """Whether town or postcode is known of both: without a place a street name says nothing."""
    known = np.zeros(len(left), dtype=np.bool_)
    for part in ("x.city", "x.postcode"):
        filled = both.column(part).codes >= 0
        known |= filled[left] & filled[right]
    return known


def _same_kin(both: RecordSet, left: IntArray, right: IntArray) -> npt.NDArray[np.bool_]:
    """Whether the family name of the right record stands among the words of the left one's name."""
    family = both.column("kin")
    names = np.array([*family.values, ""], dtype=object)[family.codes]
    same = np.zeros(len(left), dtype=np.bool_)
    for place in range(_MOST_WORDS):
        column = both.column("kin" if place == 0 else f"kin#{place + 1}")
        words = np.array([*column.values, "-"], dtype=object)[column.codes]
        same |= words[left] == names[right]
    return same


def _identity(both: RecordSet, using: Using) -> npt.NDArray[np.int64]:
    """Return, per record, a number for the thing itself: the same door, the same number."""
    parts = {"address": _DOOR, FAMILY: (*_STREET,)}.get(using)
    if parts is None:
        return both.column("x.end" if using == "phone" else "x").codes.astype(np.int64)
    return joint_codes([both.column(f"x.{part}").codes for part in parts])


def _holders(code: npt.NDArray[np.int64], owners: IntArray, side: npt.NDArray[np.bool_]) -> npt.NDArray[np.int64]:
    """Return, per record, how many entities of a side hold what it holds."""
    own = np.flatnonzero(side & (code >= 0))
    counts = np.zeros(int(code.max(initial=0)) + 1, dtype=np.int64)
    if len(own):
        first, _ = distinct_rows([code[own], owners[own]])
        np.add.at(counts, code[own[first]], 1)
    return counts[np.maximum(code, 0)]


def _value(both: RecordSet, record: int, using: Using) -> str:
    """Return a thing as it is told."""
    if using not in ("address", FAMILY):
        return both.column("x").at(record) or both.column("x.end").at(record)
    parts = ("number", "street", "city", "postcode") if using == "address" else ("street", "city")
    return " ".join(text for part in parts if (text := both.column(f"x.{part}").at(record)))
