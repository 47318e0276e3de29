"""Comparison of numbers: equal, within a tolerance, or different."""

import numpy as np

from ..records import IntArray, RecordSet
from ..text.numbers import first_number
from .base import (
    Comparison,
    Level,
    Measure,
    Measured,
    Option,
    Options,
)
from .similarity import shared_bits
from .values import information

MISSING, EQUAL, NEAR, DIFFERENT = range(4)
_MOST_BITS = 20.0


def _prepare(records: RecordSet, field: str, options: Options) -> Measure:
    column = records.column(field)
    numbers = np.array([*(first_number(value) for value in column.values), np.nan])
    bits = information(records, field, column, _MOST_BITS)
    absolute, share = float(options["tolerance"]), float(options["share"])

    def measure(left: IntArray, right: IntArray) -> Measured:
        one, other = numbers[column.codes[left]], numbers[column.codes[right]]
        apart = np.abs(one - other)
        near = apart <= np.maximum(absolute, share * np.maximum(np.abs(one), np.abs(other)))
        levels = np.where(apart == 0, EQUAL, np.where(near, NEAR, DIFFERENT))
        levels = np.where(np.isnan(apart), MISSING, levels).astype(np.int8)
        return Measured(levels, shared_bits(levels, NEAR, bits, left, right))

    return measure


NUMBER = Comparison(
    "number",
    (
        Level("equal", "the {label} is the same", 0.80, agrees=True),
        Level("near", "the {label} is nearly the same", 0.12, agrees=True, looseness=3.0),
        Level("different", "the {label} differs", 0.08, among_different=0.97),
    ),
    _prepare,
    {"tolerance": Option(0.0, 0.0, 1e12), "share": Option(0.0, 0.0, 1.0)},
)
