"""One number for each distinct combination of codes: how columns are understood, counted and explained together."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

#: Combinations are renumbered before their number could pass what 64 bits hold.
_LARGEST = 2**62


def joint_codes(columns: Sequence[npt.NDArray[np.integer]]) -> npt.NDArray[np.int64]:
    """Return, per row of several columns of codes (-1 where missing), the number of its combination, from 0 without gaps."""
    key = np.zeros(len(columns[0]), dtype=np.int64)
    size = 1
    for codes in columns:
        own = int(codes.max(initial=-1)) + 2
        if size * own > _LARGEST:
            key = np.unique(key, return_inverse=True)[1].astype(np.int64)
            size = int(key.max(initial=-1)) + 1
        key = key * own + (codes + 1)
        size *= own
    return np.unique(key, return_inverse=True)[1].astype(np.int64)


def distinct_rows(columns: Sequence[npt.NDArray[np.integer]]) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Return (per distinct combination of codes the first row that holds it, per row the number of its combination)."""
    which = joint_codes(columns)
    first = np.full(int(which.max(initial=-1)) + 1, len(which), dtype=np.int64)
    np.minimum.at(first, which, np.arange(len(which)))
    return first, which
