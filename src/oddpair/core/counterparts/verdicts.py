"""From scored candidates to one verdict a row: matched, several, unsure or none."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from ..records import IntArray

Floats = npt.NDArray[np.float64]


class Verdict(StrEnum):
    """What is said of a row: it has one sure counterpart; several records fit about as well; one fits, but not surely; or none does."""

    MATCHED = "matched"
    SEVERAL = "several"
    UNSURE = "unsure"
    NONE = "none"


#: The verdicts in the order of their numbers.
VERDICTS = tuple(Verdict)


@dataclass(frozen=True, slots=True)
class Limits:
    """Two limits in bits and a margin: from ``matched`` on the best candidate is the counterpart, if no other comes within ``margin``
    bits of it; below ``none`` there is none. ``best`` candidates a row are told."""

    matched: float
    none: float
    margin: float = 3.0
    best: int = 1


@dataclass(frozen=True, slots=True)
class Counterpart:
    """The candidates that are told, ordered by row and rank: row numbers, reference records, ranks from 1, and which of the scored pairs
    each is; and, per row, the number of its verdict."""

    rows: IntArray
    records: IntArray
    ranks: IntArray
    pairs: npt.NDArray[np.intp]
    verdicts: npt.NDArray[np.int8]


def ranked(
    rows: IntArray, records: IntArray, bits: Floats, groups: IntArray, *, count: int, limits: Limits
) -> Counterpart:
    """Return the best candidates of every row, and its verdict.

    ``rows``, ``records`` and ``bits`` are candidate pairs of ``count`` rows; ``groups`` numbers what each candidate record stands for:
    of one golden record only the best record is told, and it is no rival of itself. Equal scores go by the number of the record, so
    that the order of the pairs does not matter.
    """
    order = np.lexsort((records, -bits, groups, rows))
    best_of_group = order[_first_of_each(rows[order], groups[order])]
    order = best_of_group[np.lexsort((records[best_of_group], -bits[best_of_group], rows[best_of_group]))]
    fitting = order[bits[order] >= limits.none]
    own = rows[fitting]
    starts = np.flatnonzero(_first_of_each(own))
    sizes = np.diff(np.append(starts, len(own)))
    ranks = np.arange(len(own)) - np.repeat(starts, sizes) + 1
    verdicts = np.full(count, VERDICTS.index(Verdict.NONE), dtype=np.int8)
    if len(own):
        best = bits[fitting[starts]]
        second = np.full(len(starts), -np.inf)
        second[sizes > 1] = bits[fitting[starts[sizes > 1] + 1]]
        alone = best - second >= limits.margin
        said = np.where(sizes > 1, VERDICTS.index(Verdict.SEVERAL), VERDICTS.index(Verdict.UNSURE))
        # One that leads clearly is in doubt by itself, whatever comes far behind it.
        said = np.where(alone, VERDICTS.index(Verdict.UNSURE), said)
        verdicts[own[starts]] = np.where(alone & (best >= limits.matched), VERDICTS.index(Verdict.MATCHED), said)
    told = ranks <= limits.best
    chosen = fitting[told]
    return Counterpart(rows[chosen], records[chosen], ranks[told].astype(np.int32), chosen, verdicts)


def _first_of_each(*keys: IntArray) -> npt.NDArray[np.bool_]:
    """Return which of sorted rows differ from the one before."""
    first = np.zeros(len(keys[0]), dtype=np.bool_)
    if len(first):
        first[0] = True
        first[1:] = np.logical_or.reduce([key[1:] != key[:-1] for key in keys])
    return first
