"""Names as lists of word numbers with weights: what the soft word overlap works on."""

from collections.abc import Mapping, Set
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..records import Column, RecordSet
from ..text.byte_strings import letter_signs, pack
from ..text.hashes import texts_at
from ..text.words import Words, counted_words
from .base import (
    UNSEEN_ENTITIES,
    UNSEEN_NAMES,
    Bits,
    holders_by_records,
    value_information,
    world_records,
)

#: No word is worth less than this, so that a name of common words only still compares by all of them.
_LEAST_WORD_BITS = 1.0
#: A word known to be common in the world is worth at most this, however rare it is in a small file.
_COMMON_WORD_BITS = 6.0
_MOST_GROUPS = 4
_MOST_NAME_BITS = 30.0


class WeightedWords(NamedTuple):
    """The words of every distinct value of a column, as arrays that kernels read (a NamedTuple, since kernels take those).

    ``codes`` are the column's codes per record; ``word_ids[starts[v]:starts[v + 1]]`` are the words of value ``v``,
    ``totals[v]`` the sum of their weights, ``rarity[v]`` the information of the value as a whole and ``alone[v]`` that in its
    words, by the records that hold them in other values. Per distinct word: its
    bytes ``buffer[offsets[w]:offsets[w + 1]]``, the letters it holds as a bit set, its weight in bits, in how many
    records it occurs, in which sources (as bits), and the numbers of up to four groups of words that can stand for each
    other (-1 fills up).
    """

    codes: npt.NDArray[np.int32]
    starts: npt.NDArray[np.int64]
    word_ids: npt.NDArray[np.int32]
    totals: Bits
    rarity: Bits
    alone: Bits
    buffer: npt.NDArray[np.uint8]
    offsets: npt.NDArray[np.int64]
    signs: npt.NDArray[np.uint64]
    weights: Bits
    record_counts: npt.NDArray[np.int64]
    sources: npt.NDArray[np.uint64]
    groups: npt.NDArray[np.int32]


def _word_weights(words: Words, common: npt.NDArray[np.bool_]) -> Bits:
    """Return log2((records + world) / records with the word): inverse document frequency (K. Spärck Jones, 1972) in bits."""
    counts = np.maximum(words.record_counts, 1)
    weights = np.log2((words.records + world_records(holders_by_records(words.record_counts))) / counts)
    weights = np.where(common, np.minimum(weights, _COMMON_WORD_BITS), weights)
    return np.maximum(weights, _LEAST_WORD_BITS).astype(np.float32)


def _alone(words: Words, value_counts: npt.NDArray[np.int64], common: npt.NDArray[np.bool_]) -> Bits:
    """Return, per value, the information in its words where the records that hold this value are left out."""
    own = np.repeat(value_counts, np.diff(words.starts))
    others = np.maximum(words.record_counts[words.ids] - own, 0).astype(np.float64)
    bits = value_information(others, words.records, _MOST_NAME_BITS, UNSEEN_ENTITIES)
    bits = np.maximum(np.where(common[words.ids], np.minimum(bits, _COMMON_WORD_BITS), bits), _LEAST_WORD_BITS)
    running = np.concatenate(([0.0], np.cumsum(bits, dtype=np.float64)))
    return np.diff(running[words.starts]).astype(np.float32)


def _known_as_common(words: Words, common: Set[str]) -> npt.NDArray[np.bool_]:
    return np.fromiter((word in common for word in words.vocabulary), dtype=np.bool_, count=len(words.vocabulary))


def _groups(words: Words, word_groups: Mapping[str, tuple[int, ...]]) -> npt.NDArray[np.int32]:
    groups = np.full((max(len(words.vocabulary), 1), _MOST_GROUPS), -1, dtype=np.int32)
    for place, word in enumerate(words.vocabulary):
        members = word_groups.get(word)
        if members:
            groups[place, : len(members[:_MOST_GROUPS])] = members[:_MOST_GROUPS]
    return groups


def _sources(column: Column, words: Words, records: RecordSet) -> npt.NDArray[np.uint64]:
    """Return, per word, the sources that use it as a set of bits; beyond 64 sources some share a bit."""
    source_codes = np.tile(records.source_codes, len(column.codes) // max(len(records), 1))
    filled = column.codes >= 0
    of_value = np.zeros(len(column.values), dtype=np.uint64)
    np.bitwise_or.at(of_value, column.codes[filled], np.uint64(1) << (source_codes[filled] % 64).astype(np.uint64))
    of_word = np.zeros(len(words.vocabulary), dtype=np.uint64)
    np.bitwise_or.at(of_word, words.ids, np.repeat(of_value, np.diff(words.starts)))
    return of_word


def _value_counts(column: Column, records: RecordSet, what: str) -> npt.NDArray[np.int64]:
    return records.census.counts(f"{what}: values", texts_at(column.values), records.counts(column), 1)


def weighted_words(
    column: Column, what: str, records: RecordSet, word_groups: Mapping[str, tuple[int, ...]] | None = None,
    common: Set[str] = frozenset(),
) -> WeightedWords:  # fmt: skip
    """Return the word table of a column of space-separated words, which ``records`` hold once or, one after the other, several times;
    ``what`` names it in their census.

    ``word_groups`` says which words can stand for each other (short forms of given names); ``common`` are words that
    are common in the world, whatever the file looks like.
    """
    census = records.census
    words = counted_words(column, records, what)
    known_as_common = _known_as_common(words, common)
    weights = _word_weights(words, known_as_common)
    running = np.concatenate(([0.0], np.cumsum(weights[words.ids], dtype=np.float64)))
    totals = np.diff(running[words.starts]).astype(np.float32)
    value_counts = _value_counts(column, records, what)
    sources = census.counts(
        f"{what}: sources of words", texts_at(words.vocabulary), _sources(column, words, records), 0
    )
    rarity = value_information(holders_by_records(value_counts), words.records, _MOST_NAME_BITS, UNSEEN_NAMES)
    alone = _alone(words, value_counts, known_as_common)
    strings = pack(words.vocabulary)
    return WeightedWords(
        column.codes, words.starts, words.ids, totals, rarity, alone, strings.buffer, strings.offsets, letter_signs(strings),
        weights, words.record_counts, sources, _groups(words, word_groups or {}),
    )  # fmt: skip
