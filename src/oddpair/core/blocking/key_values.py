"""The key values of records: one row per record and key value, sorted by value, ready to be cut into blocks."""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from ..records import Column, RecordSet, further
from ..sorting import stable_order
from ..text.words import counted_words
from .keys import BlockingKey, KeyPart
from .takers import TAKERS, Taken

Codes = npt.NDArray[np.int64]


def taken_of(records: RecordSet, part: KeyPart, column: Column) -> Taken:
    """Return what a part of a key takes of the values of one of its columns."""
    return TAKERS[part.take].take(column, part.number, lambda own: counted_words(own, records, part.field))


def _part_values(
    records: RecordSet, part: KeyPart, among: npt.NDArray[np.bool_] | None
) -> tuple[Codes, Codes, Callable[[int], str]]:
    """Return (record numbers ascending, key numbers, spelling) of one part over all values of its field."""
    owners, keys = [], []
    spelled: dict[int, str] = {}
    texts: dict[str, int] = {}
    places = records.places(part.field)
    for place in range(places):
        column = records.column(further(part.field, place))
        taken = taken_of(records, part, column)
        if not len(taken.keys):
            continue
        numbers = taken.keys
        if places > 1:
            # Values at different places are numbered apart: bring them into one numbering.
            present = np.unique(numbers[numbers >= 0])
            table = {int(key): texts.setdefault(taken.spell(int(key)), len(texts)) for key in present.tolist()}
            numbers = np.array([[table.get(int(key), -1) for key in row] for row in numbers.tolist()], dtype=np.int64)
        rows = np.flatnonzero(column.codes >= 0 if among is None else (column.codes >= 0) & among)
        for choice in range(numbers.shape[1]):
            chosen = numbers[column.codes[rows], choice]
            owners.append(rows[chosen >= 0])
            keys.append(chosen[chosen >= 0])
        if places == 1:
            spell = taken.spell
    if places > 1 or not owners:
        spelled = {number: text for text, number in texts.items()}
        spell = spelled.__getitem__
    if not owners:
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64), spell
    if len(owners) == 1:
        return owners[0], keys[0], spell
    joined_owners, joined_keys = np.concatenate(owners), np.concatenate(keys)
    order = stable_order(joined_owners)
    return joined_owners[order], joined_keys[order], spell


def _join(left: tuple[Codes, Codes], right: tuple[Codes, Codes], records: int) -> tuple[Codes, Codes, Codes, Codes]:
    """Pair every value of one part with every value of the other, per record.

    Returns (owners, distinct combination numbers, and the two values of each combination).
    """
    counts = np.bincount(right[0], minlength=records)
    starts = np.concatenate(([0], np.cumsum(counts)))
    sizes = counts[left[0]]
    owners = np.repeat(left[0], sizes)
    within = np.arange(len(owners)) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    one = np.repeat(left[1], sizes)
    other = right[1][np.repeat(starts[left[0]], sizes) + within] if len(owners) else right[1][:0]
    order = stable_order(one, other)
    fresh = np.concatenate(([True], (np.diff(one[order]) != 0) | (np.diff(other[order]) != 0))) if len(order) else order
    numbers = np.empty(len(order), dtype=np.int64)
    numbers[order] = np.cumsum(fresh) - 1
    firsts = order[np.flatnonzero(fresh)] if len(order) else order
    return owners, numbers, one[firsts], other[firsts]


def key_values(
    records: RecordSet, key: BlockingKey, among: npt.NDArray[np.bool_] | None = None
) -> tuple[Codes, Codes, Callable[[int], str]]:
    """Return (record numbers, key values as numbers, a function that spells a value out), sorted by value and record.

    A record stands once for each of its values. ``among`` flags the records that are wanted, where not all are; what is taken of a
    value (its rarest words) may depend on all.
    """
    owners, values, spell = _part_values(records, key.parts[0], among)
    for part in key.parts[1:]:
        more_owners, more_values, spell_more = _part_values(records, part, among)
        owners, values, one, other = _join((owners, values), (more_owners, more_values), len(records))
        spell = _spelled_jointly(spell, spell_more, one, other)
    several = len(key.parts) > 1 or _may_repeat(key, records)
    order = stable_order(values, owners) if several else stable_order(values)
    owners, values = owners[order], values[order]
    if len(owners):
        fresh = np.concatenate(([True], (np.diff(owners) != 0) | (np.diff(values) != 0)))
        owners, values = owners[fresh], values[fresh]
    return owners, values, spell


def _may_repeat(key: BlockingKey, records: RecordSet) -> bool:
    return key.parts[0].number > 1 or records.places(key.parts[0].field) > 1


def _spelled_jointly(
    spell_one: Callable[[int], str], spell_other: Callable[[int], str], one: Codes, other: Codes
) -> Callable[[int], str]:
    return lambda value: f"{spell_one(int(one[value]))} + {spell_other(int(other[value]))}"
