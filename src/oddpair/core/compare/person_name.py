"""Comparison of people's names, part by part.

The given names are compared by the first one of each (equal, forms of one name, initial, slip), the family names by
soft word overlap; both together give the level. Swapped parts and a changed family name have levels of their own.
"""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..census import HashesAt
from ..joint_codes import joint_codes
from ..people import given_name_forms
from ..records import MISSING as NO_VALUE
from ..records import Column, IntArray, RecordSet, column_from_codes
from ..text.compiled import inner_kernel, kernel
from ..text.edit_distance import osa_between
from ..text.hashes import at_places, fields_at, joined
from ..text.words import column_words
from .base import (
    UNSEEN_NAMES,
    Bits,
    Comparison,
    Level,
    Levels,
    Measure,
    Options,
    holders_by_records,
    measured_by,
    value_information,
)
from .given_names import forms_of_given_names, group_codes, initials_of_forms
from .originals import checked_by_original
from .weighted_words import WeightedWords, weighted_words
from .word_overlap import both_established, soft_overlap, word_similarity

MISSING, EQUAL, SHORT_FORM, INITIAL, CLOSE = range(5)
SWAPPED, FAMILY_CHANGED, ONE_SUFFIX, GIVEN_ALIKE, GIVEN_DIFFERS, DIFFERENT, CONTRADICTING = range(5, 12)
_FAMILY_CLOSE_AT = 0.74
_NONE, _DIFFERS, _ALIKE, _SLIP, _LETTER, _FORM, _SAME = range(7)
#: Two names share no group of forms; one is short for the other; both are names in their own right, which may be two people's.
_NO_GROUP, _SHORT, _SISTERS = range(3)
#: Given names this alike may be one name written with several slips, and may be two of a family.
_ALIKE_AT, _ALIKE_LETTERS = 0.6, 4
#: An initial tells about this much: one of some twenty letters, some far more usual than others.
_INITIAL_BITS = 3.5
_MOST_NAME_BITS = 30.0
#: Fewer names that stand once tell little of how many stand twice.
_LEAST_NAMES = 100.0


Flags = npt.NDArray[np.bool_]


class _Names(NamedTuple):
    """What the kernel reads: the words of given and of family names in one table, so that each can be read as the other; the
    code per record of both; suffix codes, and whether a senior or junior of the name lives there; the information in every
    record's whole name; and per word the initials of all its forms as a bit set."""

    words: WeightedWords
    given: IntArray
    family: IntArray
    suffixes: IntArray
    namesakes: Flags
    rarity: Bits
    initials: IntArray


@inner_kernel
def _common_groups(a: int, b: int, groups: IntArray) -> int:
    """Return in what sense two given names share a group of forms, as one of the constants below."""
    found = _NO_GROUP
    for i in range(groups.shape[1]):
        for j in range(groups.shape[1]):
            if groups[a, i] >= 0 and groups[a, i] >> 1 == groups[b, j] >> 1:
                if not (groups[a, i] | groups[b, j]) & 1:
                    return _SISTERS
                found = _SHORT
    return found


@inner_kernel
def _begins(short: int, long: int, given: WeightedWords) -> bool:
    """Whether the first three or four letters of a given name stand for it, as far as they are no name in their own right."""
    offsets, buffer = given.offsets, given.buffer
    size = offsets[short + 1] - offsets[short]
    if not 3 <= size <= 4 or offsets[long + 1] - offsets[long] < size + 2:
        return False
    for place in range(given.groups.shape[1]):
        if given.groups[short, place] >= 0 and not given.groups[short, place] & 1:
            return False
    for letter in range(size):
        if buffer[offsets[short] + letter] != buffer[offsets[long] + letter]:
            return False
    return True


@inner_kernel
def _same_words(a: int, b: int, names: _Names) -> bool:
    """Whether two people's names are the same words, split otherwise into given and family names ("Anna Maria | Holm")."""
    starts, ids = names.words.starts, names.words.word_ids
    one, other = (names.given[a], names.family[a]), (names.given[b], names.family[b])
    if one[0] < 0 or other[0] < 0:
        return False
    size = starts[one[0] + 1] - starts[one[0]] + starts[one[1] + 1] - starts[one[1]]
    if size < 3 or size != starts[other[0] + 1] - starts[other[0]] + starts[other[1] + 1] - starts[other[1]]:
        return False
    for value in one:
        for place in range(starts[value], starts[value + 1]):
            here = there = 0
            for known in one:
                for at in range(starts[known], starts[known + 1]):
                    here += ids[at] == ids[place]
            for known in other:
                for at in range(starts[known], starts[known + 1]):
                    there += ids[at] == ids[place]
            if here != there:
                return False
    return True


@inner_kernel
def _given_agreement(x: int, y: int, given: WeightedWords, initials: IntArray) -> tuple[int, float]:
    """Return (how far the given names of two values agree, as one of the constants above; the bits they share)."""
    if x < 0 or y < 0:
        return _NONE, 0.0
    starts, buffer, offsets = given.starts, given.buffer, given.offsets
    a, b = given.word_ids[starts[x]], given.word_ids[starts[y]]
    lighter = min(given.weights[a], given.weights[b])
    if a == b:
        # A second given name, where both have one, must not contradict.
        if starts[x + 1] - starts[x] > 1 and starts[y + 1] - starts[y] > 1:
            c, d = given.word_ids[starts[x] + 1], given.word_ids[starts[y] + 1]
            if buffer[offsets[c]] != buffer[offsets[d]]:
                return _DIFFERS, 0.0
            lighter += _INITIAL_BITS
        return (_LETTER if offsets[a + 1] - offsets[a] == 1 else _SAME), lighter
    if min(offsets[a + 1] - offsets[a], offsets[b + 1] - offsets[b]) == 1:
        if buffer[offsets[a]] == buffer[offsets[b]]:
            return _LETTER, _INITIAL_BITS
        # "B. Skov" may be Gitte Skov, who was baptised Birgitte, and may be her husband.
        return (_ALIKE if initials[a] & initials[b] else _DIFFERS), 0.0
    similarity = word_similarity(a, b, given)
    if similarity > 0.6:
        return _SLIP, lighter * similarity
    group = _common_groups(a, b, given.groups)
    if group == _SHORT or (group == _SISTERS and not both_established(a, b, given)):
        return _FORM, lighter
    if _begins(a, b, given) or _begins(b, a, given):
        return (_ALIKE if both_established(a, b, given) else _FORM), lighter
    size_a, size_b = offsets[a + 1] - offsets[a], offsets[b + 1] - offsets[b]
    longer = max(size_a, size_b)
    apart = osa_between(buffer, offsets[a], size_a, offsets[b], size_b) if longer >= _ALIKE_LETTERS else longer
    alike = 1.0 - apart / longer >= _ALIKE_AT or group == _SISTERS
    return (_ALIKE if alike else _DIFFERS), 0.0


@inner_kernel
def _level_with_same_family(exact: bool, given: int) -> int:
    if given == _NONE or given == _LETTER:
        return INITIAL
    if given == _DIFFERS or given == _ALIKE:
        return GIVEN_DIFFERS if given == _DIFFERS else GIVEN_ALIKE
    if not exact or given == _SLIP:
        return CLOSE
    return EQUAL if given == _SAME else SHORT_FORM


@inner_kernel
def _swapped(given: int, family: int, other_given: int, other_family: int, names: _Names) -> float:
    """Return the bits in which a name agrees with one whose given and family name are swapped; 0 if they do not."""
    if given < 0 or other_given < 0:
        return 0.0
    words = names.words
    agreement, given_bits = _given_agreement(given, other_family, words, names.initials)
    if agreement < _SLIP:
        return 0.0
    if family == other_given:
        return given_bits + float(words.totals[family])
    overlap = soft_overlap(family, other_given, words)
    return given_bits + float(overlap.shared) if overlap.share >= _FAMILY_CLOSE_AT else 0.0


@inner_kernel
def _generation_open(a: int, b: int, by_initial: bool, names: _Names) -> bool:
    """Whether it is not told of both names if they are the senior's or the junior's, where there are such."""
    one, other = names.suffixes[a], names.suffixes[b]
    if one >= 0 and one == other:
        return False
    namesakes = names.namesakes[1 if by_initial else 0]
    return bool((namesakes[a] and namesakes[b]) or (one != other and not by_initial))


@kernel
def _measure(left: IntArray, right: IntArray, names: _Names, levels: Levels, shared: Bits) -> None:
    families, givens, suffixes, words = names.family, names.given, names.suffixes, names.words
    for pair in range(len(left)):
        a, b = left[pair], right[pair]
        shared[pair] = 0.0
        if families[a] < 0 or families[b] < 0:
            levels[pair] = MISSING
            continue
        given, given_bits = _given_agreement(givens[a], givens[b], words, names.initials)
        share, family_bits = 1.0, float(words.totals[families[a]])
        if families[a] != families[b]:
            overlap = soft_overlap(families[a], families[b], words)
            share, family_bits = overlap.share, overlap.shared
        rarest = min(names.rarity[a], names.rarity[b])
        same_words = families[a] != families[b] and _same_words(a, b, names)
        if share >= _FAMILY_CLOSE_AT and not same_words:
            levels[pair] = _level_with_same_family(share >= 0.9999, given)
            if given != _DIFFERS and given != _ALIKE:
                shared[pair] = min(given_bits + family_bits, rarest)
                if suffixes[a] >= 0 and suffixes[b] >= 0 and suffixes[a] != suffixes[b]:
                    levels[pair], shared[pair] = CONTRADICTING, 0.0
                elif _generation_open(a, b, levels[pair] == INITIAL, names):
                    levels[pair] = ONE_SUFFIX
            continue
        swapped = max(
            _swapped(givens[a], families[a], givens[b], families[b], names),
            _swapped(givens[b], families[b], givens[a], families[a], names),
        )
        if swapped == 0.0 and same_words:
            swapped = float(words.totals[givens[a]] + words.totals[families[a]])
        if swapped > 0.0:
            levels[pair] = SWAPPED
            shared[pair] = min(swapped, rarest)
            if suffixes[a] >= 0 and suffixes[b] >= 0 and suffixes[a] != suffixes[b]:
                levels[pair], shared[pair] = CONTRADICTING, 0.0
        elif given == _SAME or given == _FORM:
            levels[pair] = FAMILY_CHANGED
            shared[pair] = given_bits
        else:
            levels[pair] = DIFFERENT


def _joint_column(given: Column, family: Column) -> tuple[Column, IntArray, IntArray]:
    """Return (a column of all given, then all family names, in one numbering; its codes of either per record)."""
    numbers: dict[str, int] = {}
    codes = []
    for column in (given, family):
        known = [numbers.setdefault(value, len(numbers)) for value in column.values]
        codes.append(np.array([*known, NO_VALUE], dtype=np.int32)[column.codes])
    return Column(tuple(numbers), np.concatenate(codes)), codes[0], codes[1]


def _namesakes_of_one(whole: npt.NDArray[np.int64], known: Flags, source_codes: IntArray) -> float:
    """Return how many further people bear a name that one record of a source bears, at least ``UNSEEN_NAMES``.

    By how many names stand twice in one source, as compared with once: the estimate of I. J. Good (1953) for what is seen once.
    """
    in_source = whole[known] * (int(source_codes.max(initial=0)) + 1) + source_codes[known]
    times = np.bincount(np.unique(in_source, return_counts=True)[1], minlength=3)
    return float(np.clip(2.0 * times[2] / max(times[1], _LEAST_NAMES), UNSEEN_NAMES, 1.0))


def _whole_name_rarity(records: RecordSet, field: str) -> Bits:
    """Return the information in every record's whole name, by how many records hold the same one."""
    given, family, census = records.column(f"{field}.given"), records.column(f"{field}.family"), records.census
    whole = (family.codes.astype(np.int64) + 1) * (len(given.values) + 1) + given.codes + 1
    counted = np.ones(len(whole), dtype=np.bool_) if records.counted is None else records.counted
    which = np.unique(whole, return_inverse=True)[1]
    counts = np.bincount(which, weights=counted).astype(np.int64)
    known = counted & (family.codes >= 0) & (given.codes >= 0)
    measured = _namesakes_of_one(whole, known, records.source_codes)
    unseen = census.number(f"{field}: namesakes of one", measured)
    total = int(census.number(f"{field}: whole names", len(whole)))
    held = census.counts(
        f"{field}: whole names", fields_at(records, f"{field}.given", f"{field}.family"), counts[which], 1
    )
    return value_information(holders_by_records(held), total, _MOST_NAME_BITS, unseen)


def _with_namesakes(records: RecordSet, field: str, suffixes: IntArray) -> Flags:
    """Return, for whole given names (row 0) and for their initials (row 1), which records are of a name and a front door for
    which other records tell senior or junior."""
    given = records.column(f"{field}.given")
    home = (f"{field}.family", "address.street", "address.number")
    family, street, number = map(records.column, home)
    known = (street.codes >= 0) & (number.codes >= 0)
    told = known & (suffixes >= 0)
    at_home = fields_at(records, *home)
    found = np.zeros((2, len(suffixes)), dtype=np.bool_)
    for row, (what, first) in enumerate((("name", given), ("initial", _initials_of(given)))):
        homes = joint_codes((family.codes, first.codes, street.codes, number.codes)) if told.any() else first.codes
        measured = (known & (np.bincount(homes, weights=told) > 0)[homes]) if told.any() else known & False
        hashes_at = _both_at(at_places(first.values, first.codes), at_home)
        counted = records.census.counts(
            f"{field}: suffix told at home by {what}", hashes_at, measured.astype(np.int8), 0
        )
        found[row] = known & (counted > 0)
    return found


def _initials_of(given: Column) -> Column:
    """Return the first letters of given names."""
    return column_from_codes([value[0] for value in given.values], given.codes)


def _both_at(one: HashesAt, other: HashesAt) -> HashesAt:
    return lambda places: joined(one(places), other(places))


def _prepare(records: RecordSet, field: str, options: Options) -> Measure:
    given, family = records.column(f"{field}.given"), records.column(f"{field}.family")
    suffixes = records.column(f"{field}.suffix").codes
    joint, given_codes, family_codes = _joint_column(given, family)
    rarity = _whole_name_rarity(records, field)
    vocabulary = column_words(joint).vocabulary
    forms = forms_of_given_names(vocabulary)
    table = weighted_words(joint, field, records, group_codes(forms), given_name_forms().keys())
    namesakes = _with_namesakes(records, field, suffixes)
    names = _Names(table, given_codes, family_codes, suffixes, namesakes, rarity, initials_of_forms(vocabulary, forms))
    return checked_by_original(
        measured_by(_measure, names), records, field, missing=MISSING, equal=EQUAL, close=CLOSE, different=DIFFERENT
    )


PERSON_NAME = Comparison(
    "person_name",
    (
        Level("equal", "the names are the same", 0.64, agrees=True),
        Level(
            "short form", "the given names are forms of one name and the family name is the same", 0.08, agrees=True, looseness=1.5,
            brief="short form of the given name",
        ),
        Level(
            "initial", "the family name is the same and the given name agrees as far as it is known", 0.09,
            agrees=True, looseness=4.0, brief="same family name and initial",
        ),
        Level("close", "the names are nearly the same", 0.11, agrees=True, looseness=1.5, brief="{label} nearly the same"),
        Level("swapped", "given and family name are swapped", 0.02, agrees=True, looseness=0.5, brief="given and family name swapped"),
        Level(
            "family name changed", "only the given name is the same", 0.02, agrees=True, looseness=1.0, differs=True,
            brief="other family name",
        ),
        Level(
            "one suffix", "not both of two like names tell senior or junior", 0.02, agrees=True, looseness=4.0, differs=True,
            brief="senior or junior open",
        ),
        Level(
            "given name alike", "the family name is the same and the given names are somewhat alike", 0.01,
            among_different=0.05, measured=False, brief="given names somewhat alike",
        ),
        # Chance is that within a family, where it matters, not that among people who happen to share a family name.
        Level(
            "given name differs", "only the family name is the same", 0.012, among_different=0.95, measured=False,
            brief="other given name",
        ),
        Level("different", "the names differ", 0.012, among_different=0.97),
        Level(
            "contradicting", "one is the senior and the other the junior of the name", 0.001, among_different=0.0001,
            brief="senior and junior",
        ),
    ),
    _prepare,
    {},
)  # fmt: skip
