"""Sorting rows of several columns of whole numbers: one number a row is sorted many times as quickly as rows are compared."""

import numpy as np
import numpy.typing as npt

Longs = npt.NDArray[np.int64]
#: Rows are packed into numbers as long as these fit into 63 bits.
_LARGEST = 2**62


def stable_order(*columns: npt.NDArray[np.integer]) -> Longs:
    """Return the order of rows by several columns, the first of which counts most; equal rows stay in their order."""
    count = len(columns[0])
    packed, room = np.zeros(count, dtype=np.int64), _LARGEST // max(count, 1)
    for column in columns if count else ():
        least = int(column.min())
        span = int(column.max()) - least + 1
        room //= span
        if not room:
            return np.lexsort(columns[::-1]).astype(np.int64)
        packed = packed * span + (column.astype(np.int64) - least)
    packed = packed * count + np.arange(count)
    packed.sort()
    return packed % max(count, 1)


def distinct(numbers: Longs) -> Longs:
    """Return the distinct ones of whole numbers, ascending."""
    ordered = np.sort(numbers)
    fresh = np.ones(len(ordered), dtype=np.bool_)
    fresh[1:] = ordered[1:] != ordered[:-1]
    return ordered[fresh]
