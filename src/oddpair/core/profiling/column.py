"""The profile of one column, gathered from its values many at a time in bounded memory."""

from array import array
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..tidying.tidiers import is_placeholder
from .oddities import oddities_of
from .shapes import shape_of

_SHOWN = 12
#: Values beyond this many different ones are counted but not kept: the frequent ones have come up long before.
_MOST_KEPT = 150_000
_MOST_SHAPES = 20_000
#: A shape of fewer values than this share stands out where another shape holds most of them.
_RARE_SHARE, _USUAL_SHARE = 0.005, 0.5
_LEAST_FOR_OUTLIERS = 50


@dataclass(frozen=True, slots=True)
class ValueCount:
    """A value, a shape or a kind, and how many records hold it."""

    value: str
    records: int


@dataclass(frozen=True, slots=True)
class ColumnProfile:
    """What a column looks like.

    ``filled`` and ``empty`` add up to the records; ``distinct`` counts different values, ``single`` those of one record
    only. ``shapes`` and ``frequent`` are the most frequent first; ``rare_shapes`` stand out from a usual one. ``odd``
    counts values with odd letters by kind, ``gap_fillers`` are values that only fill a gap ("n/a", 0000), ``invalid`` counts
    values that are not what their kind asks for, with examples. Lengths are in letters.
    """

    records: int
    filled: int
    empty: int
    distinct: int
    single: int
    frequent: tuple[ValueCount, ...]
    shapes: tuple[ValueCount, ...]
    rare_shapes: tuple[ValueCount, ...]
    shortest: int
    usual_length: int
    longest: int
    odd: tuple[ValueCount, ...]
    gap_fillers: tuple[ValueCount, ...]
    invalid: int
    invalid_examples: tuple[ValueCount, ...]


class ColumnProfiler:
    """Gathers the profile of a column."""

    def __init__(self) -> None:
        self._records = self._invalid = 0
        self._values: Counter[str] = Counter()
        self._hashes = array("q")
        self._shapes: Counter[str] = Counter()
        self._lengths: Counter[int] = Counter()
        self._odd: Counter[str] = Counter()
        self._gap_fillers: Counter[str] = Counter()
        self._invalid_values: Counter[str] = Counter()

    def add(self, values: Sequence[str], valid: Sequence[bool] | None = None) -> None:
        """Take in the values of some records ("" where empty); ``valid`` tells which filled ones are what they should be."""
        self._records += len(values)
        counted = Counter(values)
        counted.pop("", None)
        for value, count in counted.items():
            self._lengths[len(value)] += count
            shape = shape_of(value)
            if shape in self._shapes or len(self._shapes) < _MOST_SHAPES:
                self._shapes[shape] += count
            for name in oddities_of(value):
                self._odd[name] += count
            if is_placeholder(value):
                self._gap_fillers[value] += count
            if value in self._values or len(self._values) < _MOST_KEPT:
                self._values[value] += count
        # Hashes tell different values apart without keeping them; two of a million meet once in ten million columns.
        self._hashes.extend(map(hash, filter(None, values)))
        if valid is not None:
            wrong = Counter(value for value, fits in zip(values, valid, strict=True) if value and not fits)
            self._invalid += wrong.total()
            if len(self._invalid_values) < _MOST_KEPT:
                self._invalid_values.update(wrong)

    def result(self) -> ColumnProfile:
        """Return the profile of all values taken in."""
        hashes = np.frombuffer(self._hashes, dtype=np.int64) if self._hashes else np.zeros(0, dtype=np.int64)
        distinct, counts = np.unique(hashes, return_counts=True)
        filled = len(hashes)
        shortest, usual, longest = self._length_figures()
        return ColumnProfile(
            records=self._records, filled=filled, empty=self._records - filled, distinct=len(distinct),
            single=int((counts == 1).sum()), frequent=self._frequent(distinct, counts), shapes=_most(self._shapes),
            rare_shapes=self._rare_shapes(filled), shortest=shortest, usual_length=usual, longest=longest,
            odd=_most(self._odd), gap_fillers=_most(self._gap_fillers), invalid=self._invalid,
            invalid_examples=_most(self._invalid_values),
        )  # fmt: skip

    def _frequent(self, distinct: npt.NDArray[np.int64], counts: npt.NDArray[np.int64]) -> tuple[ValueCount, ...]:
        """Return the most frequent values with their exact counts, also where not all values were kept."""
        candidates = [value for value, _ in self._values.most_common(4 * _SHOWN)]
        places = np.searchsorted(distinct, [hash(value) for value in candidates])
        exact = {value: int(counts[place]) for value, place in zip(candidates, places.tolist(), strict=True)}
        return _most(Counter(exact))

    def _rare_shapes(self, filled: int) -> tuple[ValueCount, ...]:
        """Return shapes that few values have where one shape holds most of them."""
        if filled < _LEAST_FOR_OUTLIERS or max(self._shapes.values()) < _USUAL_SHARE * filled:
            return ()
        rare = [(shape, count) for shape, count in self._shapes.items() if count <= max(_RARE_SHARE * filled, 1)]
        return tuple(ValueCount(*item) for item in sorted(rare, key=lambda item: (item[1], item[0]))[:_SHOWN])

    def _length_figures(self) -> tuple[int, int, int]:
        """Return the shortest, the median and the longest length."""
        total, seen = self._lengths.total(), 0
        for length in sorted(self._lengths):
            seen += self._lengths[length]
            if 2 * seen >= total:
                return min(self._lengths), length, max(self._lengths)
        return 0, 0, 0


def _most(counts: Counter[str]) -> tuple[ValueCount, ...]:
    ordered = sorted(counts.items(), key=lambda item: (-item[1], item[0]))
    return tuple(ValueCount(value, count) for value, count in ordered[:_SHOWN])
