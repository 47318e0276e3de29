"""Records as columns of dictionary-encoded values.

Each column keeps its distinct values once and an integer code per record, so that parsing and comparing work on
distinct values and only gather per record. Records are held in canonical order (source name, then record id), which is
what makes every later result independent of the order in which rows or files arrived.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from .errors import InputError

IntArray = npt.NDArray[np.int32]
MISSING = -1


@dataclass(frozen=True, slots=True)
class Column:
    """Distinct ``values`` in sorted order and, per record, the index of its value (``MISSING`` where it has none)."""

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


def column_from_codes(values: Sequence[str], codes: IntArray) -> Column:
    """Return a Column from values in any order; values are sorted, equal ones joined, empty ones turned into missing."""
    distinct = sorted({value for value in values if value})
    position = {value: index for index, value in enumerate(distinct)}
    # The last entry serves code -1.
    translate = np.array([position.get(value, MISSING) for value in values] + [MISSING], dtype=np.int32)
    return Column(tuple(distinct), translate[codes])


def encode(values: Iterable[str | None]) -> Column:
    """Return the dictionary-encoded form of one value per record."""
    seen: dict[str, int] = {}
    codes = [seen.setdefault(value, len(seen)) if value else MISSING for value in values]
    return column_from_codes(list(seen), np.array(codes, dtype=np.int32))


@dataclass(frozen=True, slots=True)
class RecordSet:
    """Records of one register in canonical order.

    ``sources`` are the source names in sorted order, ``source_codes`` says which one delivered each record, and ``ids``
    are the sources' own ids. ``columns`` holds one Column per field name; all have the same length.
    """

    sources: tuple[str, ...]
    source_codes: IntArray
    ids: tuple[str, ...]
    columns: Mapping[str, Column]

    def __len__(self) -> int:
        return len(self.ids)

    def column(self, field: str) -> Column:
        """Return the column of ``field``; one without any value if no record has it."""
        return self.columns.get(field) or Column((), np.full(len(self), MISSING, dtype=np.int32))

    def source_of(self, record: int) -> str:
        """Return the name of the source that delivered the record."""
        return self.sources[int(self.source_codes[record])]

    def row(self, record: int) -> dict[str, str]:
        """Return the record's filled fields."""
        return {name: value for name, column in self.columns.items() if (value := column.at(record))}


class RecordSetBuilder:
    """Takes rows one at a time, in any order, and builds a RecordSet in canonical order."""

    def __init__(self) -> None:
        self._sources: list[str] = []
        self._ids: list[str] = []
        self._dictionaries: dict[str, dict[str, int]] = {}
        self._codes: dict[str, list[int]] = {}

    def __len__(self) -> int:
        return len(self._ids)

    def add(self, source: str, record_id: str, fields: Mapping[str, str]) -> None:
        """Add one record; empty values count as missing."""
        row = len(self._ids)
        self._sources.append(source)
        self._ids.append(record_id)
        for name, value in fields.items():
            if not value:
                continue
            dictionary = self._dictionaries.setdefault(name, {})
            codes = self._codes.setdefault(name, [])
            codes.extend([MISSING] * (row - len(codes)))
            codes.append(dictionary.setdefault(value, len(dictionary)))

    def build(self) -> RecordSet:
        """Return the records; raise InputError if a source delivers the same id twice."""
        count = len(self._ids)
        order = sorted(range(count), key=lambda row: (self._sources[row], self._ids[row]))
        for one, other in pairwise(order):
            if self._sources[one] == self._sources[other] and self._ids[one] == self._ids[other]:
                raise InputError(f"the id '{self._ids[one]}' occurs twice", file=self._sources[one])
        permutation = np.array(order, dtype=np.int64)
        columns = {}
        for name, codes in sorted(self._codes.items()):
            padded = np.array(codes + [MISSING] * (count - len(codes)), dtype=np.int32)
            columns[name] = column_from_codes(list(self._dictionaries[name]), padded[permutation])
        source_column = encode(self._sources[row] for row in order)
        return RecordSet(source_column.values, source_column.codes, tuple(self._ids[row] for row in order), columns)
