"""Comparison of organisation names."""

from collections.abc import Sequence
from functools import cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..organisations import common_words, legal_form_words
from ..records import MISSING as NO_VALUE
from ..records import Column, IntArray, RecordSet, encode
from ..text.byte_strings import Signs, bits_apart, letter_signs, pack
from ..text.compiled import inner_kernel, kernel
from ..text.edit_distance import osa_between
from ..text.words import column_words
from .base import (
    Bits,
    Comparison,
    Level,
    Levels,
    Measure,
    Options,
    measured_by,
)
from .originals import checked_by_original
from .weighted_words import WeightedWords, weighted_words
from .word_overlap import WORD_CUT, soft_overlap, word_similarity

Flags = npt.NDArray[np.bool_]

MISSING, EQUAL, CLOSE, SIMILAR, INITIALS, CONTAINED, ONE_SITE, PARTLY, DIFFERENT, CONTRADICTING = range(10)
OWN_WORDS, CUT_OFF = range(10, 12)
_CLOSE_AT, _SIMILAR_AT, _PARTLY_AT = 0.9, 0.75, 0.5
#: Names without spaces must be this alike to count as the same name split differently.
_JOINED_AT, _JOINED_LETTERS = 0.85, 12
#: Initials of fewer letters say nothing; each letter of longer ones is worth about this many bits.
_LEAST_INITIALS, _BITS_PER_INITIAL = 3, 3.5
#: What the shorter of two names must hold, in bits, to be told as a part of the longer one.
_CONTAINED_BITS = 6.0
#: What the same branch number or direction in both names tells.
_SITE_BITS = 3.0
#: A source with fewer names tells nothing of how wide its column is. A column that cuts does so with this share of names, so many
#: times as many as are one letter shorter, and has at most this share of other sources' names beyond its width. A tidy name may be
#: a few letters shorter than the delivered one.
_LEAST_NAMES_OF_CUT, _LEAST_SHARE_OF_CUT, _TIMES_PILED, _MOST_BEYOND_CUT, _CUT_SLACK = 50, 0.04, 2.0, 0.35, 4
#: A word of its own in the shorter name takes back this share of its information.
_LEFT_OVER_SHARE = 0.5


class _Names(NamedTuple):
    """What the kernel reads: the names' words, the names without spaces, the codes of site numbers and directions, of names and of
    initials, which records' names may be cut off, which words begin like a legal form, the codes of the records' towns and which
    records have theirs in the name."""

    words: WeightedWords
    joined: npt.NDArray[np.uint8]
    joined_offsets: npt.NDArray[np.int64]
    joined_signs: Signs
    numbers: IntArray
    directions: IntArray
    cut: Flags
    legal_beginnings: Flags
    spelled: IntArray
    initials: IntArray
    towns: IntArray
    in_town: Flags


@inner_kernel
def _joined_similarity(x: int, y: int, names: _Names) -> float:
    """Return how alike two names are without their spaces ("sea craft", "seacraft"), 0 where that is not telling."""
    start_x, start_y = names.joined_offsets[x], names.joined_offsets[y]
    size_x, size_y = names.joined_offsets[x + 1] - start_x, names.joined_offsets[y + 1] - start_y
    longer = max(size_x, size_y)
    most = (1.0 - _JOINED_AT) * longer
    if longer < _JOINED_LETTERS or abs(size_x - size_y) > most:
        return 0.0
    if bits_apart(names.joined_signs[x], names.joined_signs[y]) > 2.0 * most:
        return 0.0
    alike = 1.0 - osa_between(names.joined, start_x, size_x, start_y, size_y) / longer
    return alike if alike >= _JOINED_AT else 0.0


@inner_kernel
def _begins(x: int, y: int, names: _Names) -> bool:
    """Whether the name ``x``, which may be cut off, is the beginning of ``y``, but for what may be left of a legal form."""
    words = names.words
    starts, word_ids, offsets, buffer = words.starts, words.word_ids, words.offsets, words.buffer
    size_x, size_y = starts[x + 1] - starts[x], starts[y + 1] - starts[y]
    if size_x > size_y + 1:
        return False
    for place in range(size_x):
        one = word_ids[starts[x] + place]
        is_last = place == size_x - 1
        if place == size_y:
            return bool(names.legal_beginnings[one])
        other = word_ids[starts[y] + place]
        if one == other:
            continue
        if not is_last:
            if word_similarity(one, other, words) < WORD_CUT:
                return False
            continue
        size = offsets[one + 1] - offsets[one]
        if size > offsets[other + 1] - offsets[other]:
            return False
        for letter in range(size):
            if buffer[offsets[one] + letter] != buffer[offsets[other] + letter]:
                return False
    return True


@inner_kernel
def _same_site(a: int, b: int, names: _Names) -> int:
    """Return 1 for the same number or direction, -1 for different ones, 0 where only one name or none tells."""
    numbers, directions = names.numbers, names.directions
    if numbers[a] >= 0 and numbers[b] >= 0:
        return 1 if numbers[a] == numbers[b] else -1
    if directions[a] >= 0 and directions[b] >= 0:
        return 1 if directions[a] == directions[b] else -1
    return 0


@inner_kernel
def _branch_of_a_town(a: int, b: int, names: _Names) -> bool:
    """Whether one name alone holds the town of its record, and the other record is in another one."""
    towns = names.towns
    return bool(names.in_town[a] != names.in_town[b] and towns[a] >= 0 and towns[b] >= 0 and towns[a] != towns[b])


@inner_kernel
def _level(overlap: float, left_over: float, shared: float, own_words: bool) -> int:
    if overlap >= 0.9999:
        return EQUAL
    if own_words:
        return OWN_WORDS if overlap >= _PARTLY_AT else DIFFERENT
    if overlap >= _CLOSE_AT:
        return CLOSE
    if overlap >= _SIMILAR_AT:
        return SIMILAR
    if left_over == 0.0 and shared >= _CONTAINED_BITS:
        return CONTAINED
    return PARTLY if overlap >= _PARTLY_AT else DIFFERENT


@kernel
def _measure(left: IntArray, right: IntArray, names: _Names, levels: Levels, information: Bits) -> None:
    words = names.words
    for pair in range(len(left)):
        a, b = left[pair], right[pair]
        x, y = words.codes[a], words.codes[b]
        information[pair] = 0.0
        if x < 0 or y < 0:
            levels[pair] = MISSING
            continue
        share, shared, left_over, own_words = 1.0, float(words.alone[x]), 0.0, False
        if x != y:
            found = soft_overlap(x, y, words)
            share, shared, left_over, own_words = found.share, found.shared, found.left_over, found.own_words
            if share < _CLOSE_AT and words.starts[x + 1] - words.starts[x] != words.starts[y + 1] - words.starts[y]:
                joined = _joined_similarity(x, y, names)
                if joined > share:
                    share, shared, left_over = joined, joined * min(words.totals[x], words.totals[y]), 0.0
                    own_words = False
        level = _level(share, left_over, shared, own_words)
        site = _same_site(a, b, names)
        if share < _SIMILAR_AT and (
            (names.initials[x] >= 0 and names.initials[x] == names.spelled[y])
            or (names.initials[y] >= 0 and names.initials[y] == names.spelled[x])
        ):
            shorter = min(
                names.joined_offsets[x + 1] - names.joined_offsets[x],
                names.joined_offsets[y + 1] - names.joined_offsets[y],
            )
            level, shared, left_over = INITIALS, _BITS_PER_INITIAL * shorter, 0.0
        elif x != y and (
            (names.cut[a] and _begins(x, y, names) and shared >= _CONTAINED_BITS)
            or (names.cut[b] and _begins(y, x, names) and shared >= _CONTAINED_BITS)
        ):
            level, left_over = CUT_OFF, 0.0
        if site < 0 and share >= _PARTLY_AT:
            level = CONTRADICTING
        elif (
            share >= _SIMILAR_AT
            and (
                (names.numbers[a] >= 0) != (names.numbers[b] >= 0)
                or (names.directions[a] >= 0) != (names.directions[b] >= 0)
            )
            and level != CUT_OFF
        ) or (level in (CLOSE, SIMILAR, CONTAINED) and _branch_of_a_town(a, b, names)):
            level = ONE_SITE
        levels[pair] = level
        if level != CONTRADICTING and level != DIFFERENT:
            rarest = min(words.rarity[x], words.rarity[y])
            information[pair] = min(max(shared - _LEFT_OVER_SHARE * left_over, 0.0), rarest)
            if site > 0:
                information[pair] += _SITE_BITS


def _initials(column: Column) -> tuple[IntArray, IntArray]:
    """Return, per value, the number of its spelling without spaces and that of its initials, both in one numbering."""
    numbers: dict[str, int] = {}
    spelled = [numbers.setdefault(value.replace(" ", ""), len(numbers)) for value in column.values]
    letters = ("".join(word[0] for word in value.split()) for value in column.values)
    initials = [numbers.get(text, -1) if len(text) >= _LEAST_INITIALS else -1 for text in letters]
    return np.array(spelled, dtype=np.int32), np.array(initials, dtype=np.int32)


def _sites(column: Column) -> tuple[IntArray, IntArray]:
    """Return, per record, the code of the branch numbers in its name and that of the directions, -1 without any."""
    parts: list[IntArray] = []
    for of_kind in (str.isdigit, str.isalpha):
        texts = (" ".join(word for word in value.split() if of_kind(word[0])) for value in column.values)
        parts.append(np.append(encode(texts).codes, np.int32(NO_VALUE))[column.codes])
    return parts[0], parts[1]


def _towns(records: RecordSet, names: Column) -> tuple[IntArray, Flags]:
    """Return, per record, the code of its town, and whether its name holds it as words of its own."""
    towns = records.column("address.city")
    both = np.flatnonzero((names.codes >= 0) & (towns.codes >= 0))
    held = np.zeros(len(names), dtype=np.bool_)
    held[both] = [
        f" {towns.values[town]} " in f" {names.values[name]} "
        for name, town in zip(names.codes[both].tolist(), towns.codes[both].tolist(), strict=True)
    ]
    return towns.codes, held


def maybe_cut(records: RecordSet, field: str) -> Flags:
    """Return which records' names may be cut off where a column of their source ends.

    A source cuts names off if they pile up at one length and hardly go beyond it, while those of other sources do. Some stay
    longer when short forms in them are written out.
    """
    column, source_codes = records.column(field), records.source_codes
    lengths = np.append(np.array([len(value) for value in column.values], dtype=np.int64), 0)[column.codes]
    cut = np.zeros(len(lengths), dtype=np.bool_)
    for source, name in enumerate(records.sources):
        own = lengths[(source_codes == source) & (lengths > 0)]
        others = lengths[(source_codes != source) & (lengths > 0)]
        width = int(records.census.number(f"{field}: width of {name}", _width_of_column(own, others), otherwise=-1))
        if width >= 0:
            cut |= (source_codes == source) & (lengths > width - _CUT_SLACK)
    return cut


def _width_of_column(own: npt.NDArray[np.int64], others: npt.NDArray[np.int64]) -> int:
    """Return at which length a source cuts its names off, by their lengths and those of other sources; -1 if it does not."""
    if len(own) < _LEAST_NAMES_OF_CUT or not len(others):
        return -1
    counts = np.bincount(own)
    width = int(np.argmax(np.diff(counts, prepend=0)))
    piled = counts[width] >= max(_LEAST_SHARE_OF_CUT * len(own), _TIMES_PILED * counts[max(width - 1, 0)])
    return width if piled and (own > width).mean() < _MOST_BEYOND_CUT * (others > width).mean() else -1


@cache
def _beginnings() -> frozenset[str]:
    return frozenset(form[:size] for form in legal_form_words() for size in range(1, len(form) + 1))


def _legal_beginnings(vocabulary: Sequence[str]) -> Flags:
    """Return which words begin like a legal form, which may stand cut off at the end of a name."""
    beginnings = _beginnings()
    return np.fromiter((word in beginnings for word in vocabulary), dtype=np.bool_, count=len(vocabulary))


def _prepare(records: RecordSet, field: str, options: Options) -> Measure:
    column = records.column(field)
    joined = pack([value.replace(" ", "") for value in column.values])
    numbers, directions = _sites(records.column(f"{field}.sites"))
    vocabulary = column_words(column).vocabulary
    names = _Names(
        weighted_words(column, field, records, common=common_words()),
        joined.buffer,
        joined.offsets,
        letter_signs(joined),
        numbers,
        directions,
        maybe_cut(records, field),
        _legal_beginnings(vocabulary),
        *_initials(column),
        *_towns(records, column),
    )
    return checked_by_original(
        measured_by(_measure, names), records, field, missing=MISSING, equal=EQUAL, close=CLOSE, different=DIFFERENT
    )


ORGANISATION_NAME = Comparison(
    "organisation_name",
    (
        Level("equal", "the names are the same", 0.60, agrees=True),
        Level(
            "close", "the names are nearly the same", 0.16, agrees=True, looseness=0.5, brief="{label} nearly the same"
        ),
        Level("similar", "the names are similar", 0.08, agrees=True, looseness=2.0),
        Level(
            "initials",
            "one name is the initials of the other",
            0.01,
            agrees=True,
            looseness=1.0,
            brief="initials of the {label}",
        ),
        Level(
            "contained",
            "one name is a part of the other",
            0.05,
            agrees=True,
            looseness=2.0,
            brief="part of the {label}",
        ),
        Level(
            "one site",
            "only one of two like names has a site or branch",
            0.02,
            agrees=True,
            looseness=2.0,
            differs=True,
            brief="a site in one {label}",
        ),
        Level(
            "partly",
            "the names share only some words",
            0.05,
            agrees=True,
            looseness=6.0,
            differs=True,
            brief="only some words of the {label}",
        ),
        Level("different", "the names differ", 0.03, among_different=0.98),
        Level(
            "contradicting",
            "the names are alike for different sites",
            0.001,
            among_different=0.001,
            brief="other site in the {label}",
        ),
        Level(
            "own words",
            "each name has a usual word of its own",
            0.02,
            agrees=True,
            looseness=6.0,
            differs=True,
            brief="a word of its own in each {label}",
        ),
        Level(
            "cut off",
            "one name is cut off where its column ends",
            0.02,
            agrees=True,
            looseness=1.0,
            brief="{label} cut off",
        ),
    ),
    _prepare,
    {},
)
