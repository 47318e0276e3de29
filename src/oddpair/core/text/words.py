"""The words of a column's values: what blocking by words and comparing by words both start from."""

from dataclasses import dataclass
from itertools import chain
from weakref import WeakKeyDictionary

import numpy as np
import numpy.typing as npt

from ..records import Column, RecordSet
from .compiled import kernel
from .hashes import hashes_of, texts_at

Ints = npt.NDArray[np.int32]


@dataclass(frozen=True, slots=True)
class Words:
    """``ids[starts[v]:starts[v + 1]]`` are the numbers of the words of value ``v``, in order.

    ``vocabulary`` holds the distinct words, numbered by first occurrence; ``record_counts`` says in how many records each
    occurs; ``records`` is the number of records with a value.
    """

    starts: npt.NDArray[np.int64]
    ids: Ints
    vocabulary: tuple[str, ...]
    record_counts: npt.NDArray[np.int64]
    records: int


@kernel
def _count_records(
    starts: npt.NDArray[np.int64], ids: Ints, value_counts: npt.NDArray[np.int64], counts: npt.NDArray[np.int64]
) -> None:
    for value in range(len(starts) - 1):
        for place in range(starts[value], starts[value + 1]):
            repeated = False
            for earlier in range(starts[value], place):
                repeated = repeated or ids[earlier] == ids[place]
            if not repeated:
                counts[ids[place]] += value_counts[value]


_words_of_column: "WeakKeyDictionary[Column, Words]" = WeakKeyDictionary()


def column_words(column: Column) -> Words:
    """Return the space-separated words of a column's values; kept as long as the column lives."""
    known = _words_of_column.get(column)
    if known is not None:
        return known
    split = [value.split() for value in column.values]
    starts = np.zeros(len(split) + 1, dtype=np.int64)
    np.cumsum([len(value) for value in split], out=starts[1:])
    number: dict[str, int] = {}
    ids = np.array([number.setdefault(word, len(number)) for word in chain.from_iterable(split)], dtype=np.int32)
    value_counts = column.counts()
    counts = np.zeros(len(number), dtype=np.int64)
    _count_records(starts, ids, value_counts, counts)
    words = Words(starts, ids, tuple(number), counts, int(value_counts.sum()))
    _words_of_column[column] = words
    return words


def counted_words(column: Column, records: RecordSet, what: str) -> Words:
    """Return the words of a column's values, as common as the census of some records says; ``what`` names the column in it."""
    words, census = column_words(column), records.census
    value_counts, measured = records.counts(column), words.record_counts
    if records.counted is not None:
        measured = np.zeros_like(measured)
        _count_records(words.starts, words.ids, value_counts, measured)
    counts = census.counts(f"{what}: words", texts_at(words.vocabulary), measured, 1)
    number = int(census.number(f"{what}: records with words", int(value_counts.sum())))
    if counts is words.record_counts and number == words.records:
        return words
    return Words(words.starts, words.ids, words.vocabulary, counts, number)


@kernel
def _rarest(
    starts: npt.NDArray[np.int64], ids: Ints, counts: npt.NDArray[np.int64], ranks: npt.NDArray[np.int64], most: int, chosen: Ints
) -> None:  # fmt: skip
    for value in range(len(starts) - 1):
        for rank in range(most):
            best = -1
            for place in range(starts[value], starts[value + 1]):
                word = ids[place]
                taken = False
                for earlier in range(rank):
                    taken = taken or chosen[value, earlier] == word
                if not taken and (best < 0 or (counts[word], ranks[word]) < (counts[best], ranks[best])):
                    best = word
            chosen[value, rank] = best


def rarest_words(words: Words, most: int) -> Ints:
    """Return, per value, the numbers of its ``most`` rarest distinct words, rarest first; -1 fills up.

    Words of equal rarity are taken in an order that is theirs alone, whatever else stands in the column.
    """
    chosen = np.full((len(words.starts) - 1, most), -1, dtype=np.int32)
    ranks = np.empty(len(words.vocabulary), dtype=np.int64)
    ranks[np.argsort(hashes_of(words.vocabulary))] = np.arange(len(ranks))
    _rarest(words.starts, words.ids, words.record_counts, ranks, most, chosen)
    return chosen
