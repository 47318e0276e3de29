"""Records as columns of dictionary-encoded values.

Each column keeps its distinct values once and an integer code per record, so that parsing and comparing work on
distinct values and only gather per record. Records are held in canonical order (source name, then record id) and
values are numbered in the order of the first record that holds them: that is what makes every later result independent
of the order in which rows or files arrived.

A field may hold several values per record (two phones, a name and a trading name). The first stands in the column of
the field, further ones in columns of their own, named by ``further``.
"""

from array import array
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from .census import AT_HAND, Census
from .errors import InputError
from .sorting import stable_order

IntArray = npt.NDArray[np.int32]
MISSING = -1
#: How many values of one field are kept.
MOST_VALUES = 3


@dataclass(frozen=True, slots=True, weakref_slot=True, eq=False)
class Column:
    """Distinct ``values``, numbered by their first record, and per record the number of its value (``MISSING`` if none)."""

    values: tuple[str, ...]
    codes: IntArray

    def __len__(self) -> int:
        return len(self.codes)

    def at(self, record: int) -> str:
        """Return the record's value, or an empty string where it has none."""
        code = int(self.codes[record])
        return self.values[code] if code >= 0 else ""

    def counts(self) -> npt.NDArray[np.int64]:
        """Return how many records hold each distinct value."""
        return np.bincount(self.codes[self.codes >= 0], minlength=len(self.values)).astype(np.int64)


def further(field: str, place: int) -> str:
    """Return the name of the column that holds a field's values number ``place`` (0 is the field's own column)."""
    return field if place == 0 else f"{field}#{place + 1}"


def column_from_codes(values: Sequence[str], codes: IntArray) -> Column:
    """Return a Column from values in any order; equal ones are joined, empty and unused ones fall away."""
    distinct = dict.fromkeys(values)
    distinct.pop("", None)
    numbers = dict(zip(distinct, range(len(distinct)), strict=True))
    # Empty values and, through the last entry, code -1.
    numbers[""] = MISSING
    joined = np.full(len(values) + 1, MISSING, dtype=np.int32)
    joined[:-1] = np.fromiter(map(numbers.__getitem__, values), dtype=np.int32, count=len(values))
    return _in_order_of_records(list(distinct), joined[codes])


def _in_order_of_records(values: Sequence[str], codes: IntArray) -> Column:
    """Number distinct values by the first record that holds them."""
    first = np.full(len(values), len(codes), dtype=np.int64)
    filled = np.flatnonzero(codes >= 0)
    np.minimum.at(first, codes[filled], filled)
    order = stable_order(first)
    used = order[: int((first < len(codes)).sum())]
    rank = np.full(len(values) + 1, MISSING, dtype=np.int32)
    rank[used] = np.arange(len(used))
    return Column(tuple(map(values.__getitem__, used.tolist())), rank[codes])


def encode(values: Iterable[str | None]) -> Column:
    """Return the dictionary-encoded form of one value per record."""
    seen: dict[str, int] = {}
    codes = [seen.setdefault(value, len(seen)) if value else MISSING for value in values]
    return Column(tuple(seen), np.array(codes, dtype=np.int32))


@dataclass(frozen=True, slots=True)
class RecordSet:
    """Records of one register in canonical order.

    ``sources`` are the source names in sorted order, ``source_codes`` says which one delivered each record, and ``ids``
    are the sources' own ids. ``columns`` holds one Column per field name; all have the same length. The ``census`` says how common
    values are; ``counted`` which records count for that (all, where it is not given): what an entity holds often is no more common.
    """

    sources: tuple[str, ...]
    source_codes: IntArray
    ids: tuple[str, ...]
    columns: Mapping[str, Column]
    census: Census = AT_HAND
    counted: npt.NDArray[np.bool_] | None = None

    def __len__(self) -> int:
        return len(self.ids)

    def with_census(self, census: Census) -> "RecordSet":
        """Return the records, with a census that says how common values are."""
        return self if census is self.census else replace(self, census=census)

    def column(self, field: str) -> Column:
        """Return the column of ``field``; one without any value if no record has it."""
        return self.columns.get(field) or Column((), np.full(len(self), MISSING, dtype=np.int32))

    def counts(self, column: Column) -> npt.NDArray[np.int64]:
        """Return how many of the records that count hold each value of a column, which they hold once or several times over."""
        if self.counted is None:
            return column.counts()
        counted = np.tile(self.counted, len(column) // max(len(self), 1))
        return np.bincount(column.codes[counted & (column.codes >= 0)], minlength=len(column.values)).astype(np.int64)

    def places(self, field: str) -> int:
        """Return how many values the records hold at most of ``field`` and the fields below it; at least 1."""
        below = field + "."
        return max(
            (
                int(name.partition("#")[2] or 1)
                for name in self.columns
                if name.partition("#")[0] == field or name.startswith(below)
            ),
            default=1,
        )

    def source_of(self, record: int) -> str:
        """Return the name of the source that delivered the record."""
        return self.sources[int(self.source_codes[record])]

    def row(self, record: int) -> dict[str, str]:
        """Return the record's filled fields."""
        return {name: value for name, column in self.columns.items() if (value := column.at(record))}


def records_of_source(source: str, ids: Sequence[str], columns: Mapping[str, Column]) -> RecordSet:
    """Return the records of one source, given in any order, whose columns are dictionary-encoded; raise InputError if an id occurs
    twice.
    """
    order = sorted(range(len(ids)), key=ids.__getitem__)
    ordered = tuple(map(ids.__getitem__, order))
    _refuse_twice(source, ordered)
    rows = np.array(order, dtype=np.int64)
    in_order = {name: _in_order_of_records(column.values, column.codes[rows]) for name, column in columns.items()}
    sources = (source,) if ordered else ()
    return RecordSet(sources, np.zeros(len(ordered), dtype=np.int32), ordered, in_order)


def _refuse_twice(source: str, ordered: Sequence[str]) -> None:
    for one, other in pairwise(ordered):
        if one == other:
            raise InputError(f"the id '{one}' occurs twice", file=source)


class RecordSetBuilder:
    """Takes records one at a time or many at once, in any order, and builds a RecordSet in canonical order."""

    def __init__(self) -> None:
        self._sources: list[str] = []
        self._ids: list[str] = []
        #: Per field value → number; the empty value has number 0.
        self._dictionaries: dict[str, dict[str, int]] = {}
        self._codes: dict[str, array[int]] = {}

    def __len__(self) -> int:
        return len(self._ids)

    def add(self, source: str, record_id: str, fields: Mapping[str, str]) -> None:
        """Add one record; empty values count as missing."""
        self.add_many(source, [record_id], {name: [value] for name, value in fields.items()})

    def add_many(self, source: str, ids: Sequence[str], columns: Mapping[str, Sequence[str]]) -> None:
        """Add records by columns: every column has one value per id; empty values count as missing."""
        for name, values in columns.items():
            numbers, codes = self._field(name)
            for value in dict.fromkeys(values):
                numbers.setdefault(value, len(numbers))
            codes.extend(map(numbers.__getitem__, values))
        self._note(source, ids)

    def _field(self, name: str) -> tuple[dict[str, int], "array[int]"]:
        """Return the numbers of a field's values and the codes of all records so far."""
        codes = self._codes.setdefault(name, array("i"))
        codes.frombytes(bytes(codes.itemsize * (len(self._ids) - len(codes))))
        return self._dictionaries.setdefault(name, {"": 0}), codes

    def _note(self, source: str, ids: Sequence[str]) -> None:
        self._sources += [source] * len(ids)
        self._ids += ids

    def order(self) -> npt.NDArray[np.int64]:
        """Return the canonical order: the numbers of records, as they were added, by source and id; raise InputError if a
        source delivers the same id twice.
        """
        by_source: dict[str, list[int]] = {source: [] for source in sorted(set(self._sources))}
        for row, source in enumerate(self._sources):
            by_source[source].append(row)
        for source, rows in by_source.items():
            rows.sort(key=self._ids.__getitem__)
            _refuse_twice(source, [self._ids[row] for row in rows])
        return np.array([row for rows in by_source.values() for row in rows], dtype=np.int64)

    def build(self) -> RecordSet:
        """Return the records; raise InputError if a source delivers the same id twice."""
        order = self.order()
        columns = {}
        for name in sorted(self._codes):
            numbers, codes = self._field(name)
            # Numbers start at one, after the empty value; one less makes that the missing one.
            columns[name] = _in_order_of_records(list(numbers)[1:], np.array(codes, dtype=np.int32)[order] - 1)
        rank = {source: place for place, source in enumerate(sorted(set(self._sources)))}
        source_codes = np.array([rank[self._sources[row]] for row in order.tolist()], dtype=np.int32)
        return RecordSet(tuple(rank), source_codes, tuple(self._ids[row] for row in order.tolist()), columns)
