"""What every comparison is: a named list of agreement levels and a way to compute the level of many pairs at once."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..records import IntArray, RecordSet

Levels = npt.NDArray[np.int8]
Bits = npt.NDArray[np.float32]

#: Level 0 of every comparison: at least one side has no value. Missing is never the same as different.
MISSING_LEVEL = 0

#: Takes record numbers of the left and right sides, gives one level per pair; symmetric.
LevelFunction = Callable[[IntArray, IntArray], Levels]


@dataclass(frozen=True, slots=True)
class PreparedComparison:
    """A comparison made ready for one set of records.

    ``information`` holds, per record, how many bits it takes to name its value among the records' values: rare values
    carry more. ``usual_information`` is that of a value which stands for one entity.
    """

    levels_of: LevelFunction
    information: Bits
    usual_information: float


@dataclass(frozen=True, slots=True)
class Comparison:
    """A kind of comparison.

    ``levels`` names the agreement levels in order, the first always "missing". ``sentences`` says each level to a
    person; ``agreeing`` are the levels at which a rare value says more than a common one. ``prepare`` takes tidy records
    and the field that the comparison is asked for; it reads that field and those below it ("phone.end" of "phone").
    """

    name: str
    levels: tuple[str, ...]
    agreeing: frozenset[str]
    sentences: Mapping[str, str]
    prepare: Callable[[RecordSet, str], PreparedComparison]

    def level_number(self, level: str) -> int:
        """Return the position of a level; raises ValueError for an unknown one."""
        return self.levels.index(level)


#: A value that names one entity is held by about this many records: one each from a few sources.
_USUAL_RECORDS = 3


def value_information(codes: IntArray, counts: npt.NDArray[np.int64]) -> tuple[Bits, float]:
    """Return (bits per record, usual bits) of values that occur ``counts`` times; 0 where a record has no value.

    The information of a value with share p among the filled records is -log2(p) (C. E. Shannon, 1948). Usual is that of
    a value held by three records, whatever the others look like: so a default value that fills a whole column, or a
    switchboard that everybody shares, counts as common even where nothing rarer stands beside it.
    """
    present = codes >= 0
    total = int(present.sum())
    bits = np.zeros(len(codes), dtype=np.float32)
    if total == 0:
        return bits, 0.0
    bits[present] = np.log2(total / counts[codes[present]])
    return bits, float(np.log2(max(total / _USUAL_RECORDS, 1.0)))
