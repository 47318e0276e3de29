"""Comparisons of single tidy values: equal or not, with what counts as nearly equal."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..records import Column, IntArray, RecordSet
from ..text.byte_strings import pack
from ..text.compiled import kernel
from ..text.edit_distance import osa_distance
from .base import Comparison, Levels, PreparedComparison, value_information

MISSING, EQUAL, CLOSE, DIFFERENT = 0, 1, 2, 3


class _Values(NamedTuple):
    """What the kernel reads: the code per record and the bytes of the distinct values."""

    codes: IntArray
    buffer: npt.NDArray[np.uint8]
    offsets: npt.NDArray[np.int64]


@kernel
def _value_levels(left: IntArray, right: IntArray, values: _Values, slips: int, levels: Levels) -> None:
    codes, buffer, offsets = values
    for pair in range(len(left)):
        a, b = codes[left[pair]], codes[right[pair]]
        if a < 0 or b < 0:
            levels[pair] = MISSING
        elif a == b:
            levels[pair] = EQUAL
        else:
            one = buffer[offsets[a] : offsets[a + 1]]
            other = buffer[offsets[b] : offsets[b + 1]]
            shorter = min(len(one), len(other))
            near = slips > 0 and shorter > 2 * slips and abs(len(one) - len(other)) <= slips
            if near and osa_distance(one, other) <= slips:
                levels[pair] = CLOSE
            else:
                levels[pair] = DIFFERENT


def _prepare_column(column: Column, slips: int) -> PreparedComparison:
    strings = pack(column.values)
    values = _Values(column.codes, strings.buffer, strings.offsets)

    def levels_of(left: IntArray, right: IntArray) -> Levels:
        levels = np.empty(len(left), dtype=np.int8)
        _value_levels(left, right, values, slips, levels)
        return levels

    information, usual = value_information(column.codes, column.counts())
    return PreparedComparison(levels_of, information, usual)


def _prepare_phone(records: RecordSet, field: str) -> PreparedComparison:
    return _prepare_column(records.column(f"{field}.end"), 1)


def _prepare_value(records: RecordSet, field: str) -> PreparedComparison:
    return _prepare_column(records.column(field), 1)


def _prepare_exact(records: RecordSet, field: str) -> PreparedComparison:
    return _prepare_column(records.column(field), 0)


def _prepare_email(records: RecordSet, field: str) -> PreparedComparison:
    """Equal address; else close where both are at the same domain that is not a free-mail one."""
    address, domain = records.column(field), records.column(f"{field}.domain")
    plain = _prepare_column(address, 1)

    def levels_of(left: IntArray, right: IntArray) -> Levels:
        levels = plain.levels_of(left, right)
        one, other = domain.codes[left], domain.codes[right]
        levels[(levels == DIFFERENT) & (one == other) & (one >= 0)] = 4
        return levels

    return PreparedComparison(levels_of, plain.information, plain.usual_information)


def _prepare_identifier(records: RecordSet, field: str) -> PreparedComparison:
    """Different numbers contradict each other only if the check digits of both are right: a slip breaks them."""
    checked = records.column(f"{field}.checked")
    plain = _prepare_column(records.column(field), 1)

    def levels_of(left: IntArray, right: IntArray) -> Levels:
        levels = plain.levels_of(left, right)
        both_checked = (checked.codes[left] >= 0) & (checked.codes[right] >= 0)
        levels[(levels >= CLOSE) & both_checked] = 4
        return levels

    return PreparedComparison(levels_of, plain.information, plain.usual_information)


def _prepare_date(records: RecordSet, field: str) -> PreparedComparison:
    """Equal; close where day and month are swapped or one digit slipped; different."""
    column = records.column(field)
    plain = _prepare_column(column, 1)
    swapped = [value[:5] + value[8:] + value[4:7] for value in column.values]
    position = {value: number for number, value in enumerate(column.values)}
    partner = np.array([position.get(value, -2) for value in swapped] + [-2], dtype=np.int32)

    def levels_of(left: IntArray, right: IntArray) -> Levels:
        levels = plain.levels_of(left, right)
        levels[(levels == DIFFERENT) & (partner[column.codes[left]] == column.codes[right])] = CLOSE
        return levels

    return PreparedComparison(levels_of, plain.information, plain.usual_information)


VALUE = Comparison(
    "value",
    ("missing", "equal", "close", "different"),
    frozenset({"equal"}),
    {"equal": "the {label} is the same", "close": "the {label} is one slip apart", "different": "the {label} differs"},
    _prepare_value,
)

EXACT = Comparison(
    "exact",
    ("missing", "equal", "close", "different"),
    frozenset({"equal"}),
    {"equal": "the {label} is the same", "close": "the {label} is nearly the same", "different": "the {label} differs"},
    _prepare_exact,
)

PHONE = Comparison(
    "phone",
    VALUE.levels,
    VALUE.agreeing,
    {"equal": "the phone is the same", "close": "the phones are one digit apart", "different": "the phones differ"},
    _prepare_phone,
)

EMAIL = Comparison(
    "email",
    ("missing", "equal", "close", "different", "same domain"),
    frozenset({"equal", "same domain"}),
    {
        "equal": "the e-mail is the same",
        "close": "the e-mails are one slip apart",
        "same domain": "the e-mails share a domain",
        "different": "the e-mails differ",
    },
    _prepare_email,
)

IDENTIFIER = Comparison(
    "identifier",
    ("missing", "equal", "close", "different", "contradicting"),
    frozenset({"equal"}),
    {
        "equal": "the {label} is the same",
        "close": "the {label} is one slip apart",
        "different": "the {label} differs, but one of them is not valid",
        "contradicting": "both have a valid {label} and they are different",
    },
    _prepare_identifier,
)

DATE = Comparison(
    "date",
    VALUE.levels,
    VALUE.agreeing,
    {
        "equal": "the {label} is the same",
        "close": "the {label} has day and month swapped or one slip",
        "different": "the {label} differs",
    },
    _prepare_date,
)
