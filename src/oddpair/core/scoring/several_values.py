"""Comparisons of fields that hold several values: any phone with any phone, the best of several names.

The values of a field stand in columns by their place. Stacking the columns gives a set of records with one value each,
on which a comparison is prepared once; a pair of records is then measured for every two places and its best agreement
counts.
"""

import numpy as np
import numpy.typing as npt

from ..compare import comparison
from ..compare.base import Bits, Measure, Measured
from ..plan import ComparisonRule
from ..records import MISSING, Column, IntArray, RecordSet, further
from .weights import expected_shares, level_weights


def _stacked_column(records: RecordSet, name: str, places: int) -> Column:
    """Return the column of all first values, then all second ones; a name is stacked on itself for other fields' sake."""
    numbers: dict[str, int] = {}
    codes = []
    for place in range(places):
        column = records.column(further(name, place))
        known = [numbers.setdefault(value, len(numbers)) for value in column.values]
        codes.append(np.array([*known, MISSING], dtype=np.int32)[column.codes])
    return Column(tuple(numbers), np.concatenate(codes))


def _stacked(records: RecordSet, field: str, places: int) -> RecordSet:
    own = [name for name in records.columns if (name == field or name.startswith(field + ".")) and "#" not in name]
    columns = {name: _stacked_column(records, name, places) for name in own}
    for name in records.columns:
        # Whose value it is matters too: how common a value is goes by the names that share it.
        if name.split(".")[0] == "name" and "#" not in name and name not in columns:
            column = records.columns[name]
            columns[name] = Column(column.values, np.tile(column.codes, places))
    counted = None if records.counted is None else np.tile(records.counted, places)
    source_codes = np.tile(records.source_codes, places)
    return RecordSet(records.sources, source_codes, records.ids * places, columns, records.census, counted)


def _filled(records: RecordSet, field: str, place: int) -> npt.NDArray[np.bool_]:
    """Whether each record has anything in a field, or in the fields below it, at a place."""
    filled = np.zeros(len(records), dtype=np.bool_)
    for name, column in records.columns.items():
        own, _, number = name.partition("#")
        if (own == field or own.startswith(field + ".")) and int(number or 1) == place + 1:
            filled |= column.codes >= 0
    return filled


def prepare_rule(rule: ComparisonRule, records: RecordSet) -> Measure:
    """Return the measure of a rule of a plan, whether its field holds one value or several."""
    kind = comparison(rule.using)
    options = {**{name: option.default for name, option in kind.options.items()}, **rule.options}
    places = records.places(rule.field)
    if places == 1:
        return kind.prepare(records, rule.field, options)
    stacked = _stacked(records, rule.field, places)
    single = kind.prepare(stacked, rule.field, options)
    base, strength = level_weights(rule, expected_shares(rule), len(kind.levels))
    filled = [_filled(records, rule.field, place) for place in range(places)]
    count = len(records)

    def measure(left: IntArray, right: IntArray) -> Measured:
        levels, shared = single(left, right)
        for i in range(places):
            for j in range(places):
                if i or j:
                    rows = np.flatnonzero(filled[i][left] & filled[j][right])
                    one, other = (left[rows] + np.int32(i * count)), (right[rows] + np.int32(j * count))
                    _keep_better(levels, shared, rows, single(one, other), base, strength)
        return Measured(levels, shared)

    return measure


def _keep_better(
    levels: npt.NDArray[np.int8], shared: Bits, rows: npt.NDArray[np.intp], more: Measured, base: Bits, strength: Bits
) -> None:
    """Put further measurements of some pairs in place of the first ones where they speak more for the pair."""
    before = base[levels[rows]] + strength[levels[rows]] * shared[rows]
    after = base[more.levels] + strength[more.levels] * more.shared
    better = (more.levels > 0) & ((levels[rows] == 0) | (after > before))
    levels[rows[better]] = more.levels[better]
    shared[rows[better]] = more.shared[better]
