"""The order of people's names, learned from all records: who writes *HOLM ANNA* in one column, and who swapped two columns.

What a word is, given or family name, is told by the table of given names and by how all records use it. Sources have habits: the share
of its records that a source turns round is estimated first, and counts as much as a word or two in the verdict on each record.
"""

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..joint_codes import distinct_rows
from ..people import given_name_forms, is_particle
from ..records import Column, IntArray, RecordSet, column_from_codes
from ..text.hashes import texts_at

_GIVEN, _FAMILY = "name.given", "name.family"
Floats = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
#: A name of the table counts as seen so often as a given name; what was never seen, as much either way.
_OF_TABLE, _UNSEEN = 4.0, 0.5
#: No word tells more than so many bits.
_MOST_BITS = 6.0
#: A source is taken to turn round at least and at most such a share of its names; so many usual ones are added to its own.
_LEAST_SHARE, _USUAL_NAMES = 0.04, 10.0
#: A name whose words tell less than this says nothing of its source.
_TELLING_BITS = 1.0


class _Names(NamedTuple):
    """Distinct pairs of given and family names: the numbers of the ``first`` given and the ``last`` family word of each among the
    ``vocabulary``, and per record which pair it holds (-1 if not both names)."""

    vocabulary: tuple[str, ...]
    given: Column
    family: Column
    records: IntArray
    which: npt.NDArray[np.int64]
    first: IntArray
    last: IntArray


def with_learned_name_order(records: RecordSet) -> RecordSet:
    """Return tidy records of people with given and family names told apart by what all records teach; others as they are."""
    given, family = records.column(_GIVEN), records.column(_FAMILY)
    both = np.flatnonzero((given.codes >= 0) & (family.codes >= 0))
    if not len(both):
        return records
    vocabulary: dict[str, int] = {}
    firsts, lasts = _end_words(given, 0, vocabulary), _end_words(family, -1, vocabulary)
    rows, which = distinct_rows([given.codes[both], family.codes[both]])
    names = _Names(
        tuple(vocabulary), given, family, both[rows].astype(np.int32), which,
        firsts[given.codes[both[rows]]], lasts[family.codes[both[rows]]],
    )  # fmt: skip
    sources = records.source_codes[both]
    by_table = _bits(*_counted_by_table(names))
    shares = _shares_turned(records, names, sources, by_table)
    turned_sources = shares > 0.5
    as_given, as_family = _counted(names, sources, turned_sources)
    of_table = _counted_by_table(names)[0]
    hashes = texts_at(names.vocabulary)
    census = records.census
    as_given = census.counts("words as given names", hashes, as_given, 0) + of_table
    as_family = census.counts("words as family names", hashes, as_family, 0)
    bits = _bits(as_given, as_family)
    shares = _shares_turned(records, names, sources, bits)
    as_written = (bits[names.first] - bits[names.last])[which]
    turned = as_written + np.log2((1.0 - shares) / shares)[sources] < 0.0
    return _with_turned(records, names, both[turned], which[turned], bits)


def _end_words(column: Column, place: int, vocabulary: dict[str, int]) -> IntArray:
    return np.array(
        [vocabulary.setdefault(value.split()[place], len(vocabulary)) for value in column.values], dtype=np.int32
    )


def _counted_by_table(names: _Names) -> tuple[Floats, Floats]:
    known = given_name_forms()
    of_table = np.array([_OF_TABLE if word in known else 0.0 for word in names.vocabulary])
    return of_table, np.zeros(len(of_table))


def _bits(as_given: Floats, as_family: Floats) -> Floats:
    """Return how much more likely each word is a given than a family name, in bits."""
    return np.clip(np.log2((as_given + _UNSEEN) / (as_family + _UNSEEN)), -_MOST_BITS, _MOST_BITS)


def _counted(names: _Names, sources: IntArray, turned: Flags) -> tuple[Floats, Floats]:
    """Return how often words are given and family names, each name of a source once, where some sources write them in turn."""
    pair = names.which * (int(sources.max()) + 1) + sources
    once = np.unique(pair, return_index=True)[1]
    which, is_turned = names.which[once], turned[sources[once]]
    size = len(names.vocabulary)
    first, last = names.first[which], names.last[which]
    as_given = np.bincount(np.where(is_turned, last, first), minlength=size)
    as_family = np.bincount(np.where(is_turned, first, last), minlength=size)
    return as_given.astype(np.float64), as_family.astype(np.float64)


def _shares_turned(records: RecordSet, names: _Names, sources: IntArray, bits: Floats) -> Floats:
    """Return, per source, the share of its names that are turned round, as far as their words tell."""
    as_written = (bits[names.first] - bits[names.last])[names.which]
    telling = np.abs(as_written) >= _TELLING_BITS
    count = len(records.sources)
    told = np.bincount(sources[telling], minlength=count)
    turned = np.bincount(sources[telling & (as_written < 0.0)], minlength=count)
    shares = (turned + _LEAST_SHARE * _USUAL_NAMES) / (told + _USUAL_NAMES)
    measured = np.clip(shares, _LEAST_SHARE, 1.0 - _LEAST_SHARE)
    census = records.census
    return np.array(
        [
            census.number(f"names turned round in {source}", float(share), otherwise=_LEAST_SHARE)
            for source, share in zip(records.sources, measured, strict=True)
        ]
    )


def _with_turned(
    records: RecordSet, names: _Names, turned: npt.NDArray[np.intp], which: npt.NDArray[np.int64], bits: Floats
) -> RecordSet:
    if not len(turned):
        return records
    known = dict(zip(names.vocabulary, bits.tolist(), strict=True))
    pairs, place = np.unique(which, return_inverse=True)
    givens, families = [*names.given.values], [*names.family.values]
    for record in names.records[pairs].tolist():
        words = f"{names.given.at(record)} {names.family.at(record)}".split()
        size = _family_words_in_front(words, known)
        families.append(" ".join(words[:size]))
        givens.append(" ".join(words[size:]))
    given_codes, family_codes = names.given.codes.copy(), names.family.codes.copy()
    given_codes[turned] = len(names.given.values) + place
    family_codes[turned] = len(names.family.values) + place
    columns = {
        **records.columns,
        _GIVEN: column_from_codes(givens, given_codes),
        _FAMILY: column_from_codes(families, family_codes),
    }
    return replace(records, columns=columns)


def _family_words_in_front(words: Sequence[str], known: dict[str, float]) -> int:
    """Return how many of the words in front, at least one and not all, are the family name."""
    least = 1
    while least < len(words) - 1 and is_particle(words[least - 1]):
        least += 1
    # A word that nobody uses belongs to the given names, of which people have more.
    while least < len(words) - 1 and len(words[least]) > 1 and known.get(words[least], 0.0) < 0.0:
        least += 1
    return least
