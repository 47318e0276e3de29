"""Comparisons of single tidy values: equal or not, with what counts as nearly equal."""

import re
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..census import HashesAt
from ..records import Column, IntArray, RecordSet, encode
from ..text.byte_strings import Signs, bits_apart, letter_signs, pack
from ..text.compiled import kernel
from ..text.edit_distance import osa_between
from ..text.hashes import at_places
from .base import (
    Bits,
    Comparison,
    Level,
    Levels,
    Measure,
    Measured,
    Options,
    measured_by,
    value_information,
)
from .holders import holders_by_names

MISSING, EQUAL, CLOSE, DIFFERENT, FURTHER = range(5)
_NO_DIGIT, _NO_LETTER = re.compile(r"\D+"), re.compile(r"[^\w@]+|[\d_]+")


class _Values(NamedTuple):
    """What the kernel reads: the code and the information per record; of the distinct values their bytes, their letters, and a
    number for the digits in them."""

    codes: IntArray
    bits: Bits
    buffer: npt.NDArray[np.uint8]
    offsets: npt.NDArray[np.int64]
    signs: Signs
    digits: IntArray


@kernel
def _measure(left: IntArray, right: IntArray, values: _Values, slips: int, levels: Levels, shared: Bits) -> None:
    codes, bits, buffer, offsets, signs, digits = values
    for pair in range(len(left)):
        a, b = codes[left[pair]], codes[right[pair]]
        shared[pair] = 0.0
        if a < 0 or b < 0:
            levels[pair] = MISSING
            continue
        levels[pair] = DIFFERENT
        if a == b:
            levels[pair] = EQUAL
        elif slips > 0 and digits[a] == digits[b] and bits_apart(signs[a], signs[b]) <= 2 * slips:
            size_a, size_b = offsets[a + 1] - offsets[a], offsets[b + 1] - offsets[b]
            near = min(size_a, size_b) > 2 * slips and abs(size_a - size_b) <= slips
            if near and osa_between(buffer, offsets[a], size_a, offsets[b], size_b) <= slips:
                levels[pair] = CLOSE
        if levels[pair] != DIFFERENT:
            shared[pair] = min(bits[left[pair]], bits[right[pair]])


def _digits(column: Column) -> IntArray:
    """Return, per value, a number for the run of its digits: the same for values with the same digits in the same order."""
    numbers: dict[str, int] = {}
    runs = (_NO_DIGIT.sub("", value) for value in column.values)
    return np.array([numbers.setdefault(run, len(numbers)) for run in runs], dtype=np.int32)


def measure_column(column: Column, bits: Bits, slips: int, *, digits_tell: bool = False) -> Measure:
    """Return the measure of a column at the levels equal, close (at most ``slips`` slips apart) and different.

    ``bits`` is the information in every record's value. Where ``digits_tell``, values with other digits are never close:
    "shop12@" is not a slip of "shop13@".
    """
    digits = _digits(column) if digits_tell else np.zeros(len(column.values), dtype=np.int32)
    strings = pack(column.values)
    values = _Values(column.codes, bits, strings.buffer, strings.offsets, letter_signs(strings), digits)
    return measured_by(_measure, values, slips)


def information(records: RecordSet, field: str, column: Column, most_bits: float, part: str = "") -> Bits:
    """Return the information per record in its value of a column that belongs to ``field``, or is a ``part`` of it."""
    hashes_at = at_places(column.values, column.codes)
    return information_of_codes(records, field, column.codes, hashes_at, most_bits, part)


def information_of_codes(
    records: RecordSet, field: str, codes: IntArray, hashes_at: HashesAt, most_bits: float, part: str
) -> Bits:
    """Return the information per record in a value of a ``part`` of ``field``, given by its codes and the hashes of what they stand for."""
    total = int(records.census.number(f"{field}: records", len(records)))
    return value_information(holders_by_names(records, field, codes, hashes_at, part), total, most_bits)


def _prepare_phone(records: RecordSet, field: str, options: Options) -> Measure:
    column = records.column(f"{field}.end")
    return measure_column(column, information(records, field, column, 11.0), 1)


def _prepare_value(records: RecordSet, field: str, options: Options) -> Measure:
    column = records.column(field)
    return measure_column(column, information(records, field, column, 16.0), 1, digits_tell=True)


#: Where so many numbers have right check digits, those of the others are wrong, not unknown; what such a number tells at most.
_MOSTLY_CHECKED, _FAILED_BITS = 0.8, 8.0


def _prepare_exact(records: RecordSet, field: str, options: Options) -> Measure:
    column = records.column(field)
    plain = measure_column(column, information(records, field, column, 20.0), 0)

    def measure(left: IntArray, right: IntArray) -> Measured:
        levels, shared = plain(left, right)
        # Without slips nothing is close, and the next level is different.
        return Measured(np.where(levels == DIFFERENT, CLOSE, levels).astype(np.int8), shared)

    return measure


def _letters(address: str) -> str:
    return _NO_LETTER.sub("", address)


def _prepare_email(records: RecordSet, field: str, options: Options) -> Measure:
    """Equal address; else close, else the same domain, where it is not a free-mail one."""
    address, domain = records.column(field), records.column(f"{field}.domain")
    plain = measure_column(address, information(records, field, address, 13.0), 1, digits_tell=True)
    # Marks between the letters are no slip: "ann.holm" and "annholm" are two people's mailboxes.
    letters = np.append(encode(_letters(value) for value in address.values).codes, np.int32(-1))[address.codes]
    domain_bits = information(records, field, domain, 9.0, "domain")

    def measure(left: IntArray, right: IntArray) -> Measured:
        levels, shared = plain(left, right)
        marks_only = (levels == CLOSE) & (letters[left] == letters[right])
        levels[marks_only], shared[marks_only] = DIFFERENT, 0.0
        one, other = domain.codes[left], domain.codes[right]
        at_one = (levels == DIFFERENT) & (one == other) & (one >= 0)
        levels[at_one] = FURTHER
        shared[at_one] = np.minimum(domain_bits[left], domain_bits[right])[at_one]
        return Measured(levels, shared)

    return measure


def _prepare_identifier(records: RecordSet, field: str, options: Options) -> Measure:
    """Different numbers contradict each other only if the check digits of both are right: a slip breaks them.

    Where numbers have check digits, one that is not right was made up or miswritten and tells little, though it be the same.
    """
    checked = records.column(f"{field}.checked")
    column = records.column(field)
    bits = information(records, field, column, 18.0)
    filled, right_ones = column.codes >= 0, checked.codes >= 0
    mostly_checked = right_ones.sum() >= _MOSTLY_CHECKED * filled.sum()
    if records.census.number(f"{field}: mostly checked", float(mostly_checked)):
        bits = np.where(filled & ~right_ones, np.minimum(bits, _FAILED_BITS), bits).astype(np.float32)
    plain = measure_column(column, bits, 1)

    def measure(left: IntArray, right: IntArray) -> Measured:
        levels, shared = plain(left, right)
        apart = (levels >= CLOSE) & (checked.codes[left] >= 0) & (checked.codes[right] >= 0)
        levels[apart] = FURTHER
        shared[apart] = 0.0
        return Measured(levels, shared)

    return measure


VALUE = Comparison(
    "value",
    (
        Level("equal", "the {label} is the same", 0.88, agrees=True),
        Level("close", "the {label} is one slip apart", 0.05, agrees=True, looseness=3.0),
        Level("different", "the {label} differs", 0.07, among_different=0.98),
    ),
    _prepare_value,
    {},
)

EXACT = Comparison(
    "exact",
    (
        Level("equal", "the {label} is the same", 0.9, agrees=True),
        Level("different", "the {label} differs", 0.1, among_different=0.98),
    ),
    _prepare_exact,
    {},
)

PHONE = Comparison(
    "phone",
    (
        Level("equal", "the phone is the same", 0.70, agrees=True),
        Level("close", "the phones are one digit apart", 0.04, agrees=True, looseness=7.0),
        Level("different", "the phones differ", 0.26, among_different=0.99),
    ),
    _prepare_phone,
    {},
)

EMAIL = Comparison(
    "email",
    (
        Level("equal", "the e-mail is the same", 0.70, agrees=True),
        Level("close", "the e-mails are one slip apart", 0.05, agrees=True, looseness=5.0),
        Level("different", "the e-mails differ", 0.20, among_different=0.98),
        Level("same domain", "the e-mails share a domain", 0.05, agrees=True, looseness=2.0),
    ),
    _prepare_email,
    {},
)

IDENTIFIER = Comparison(
    "identifier",
    (
        Level("equal", "the {label} is the same", 0.92, agrees=True),
        Level("close", "the {label} is one slip apart", 0.05, agrees=True, looseness=7.0),
        Level("different", "the {label} differs, but one of them is not valid", 0.025, among_different=0.5),
        Level("contradicting", "both have a valid {label} and they are different", 0.005, among_different=0.5),
    ),
    _prepare_identifier,
    {},
)
