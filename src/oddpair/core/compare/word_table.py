"""Names as lists of word numbers with weights: what the soft word overlap works on."""

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..records import Column
from ..text.byte_strings import pack
from .base import Bits

#: No word is worth less than this, so that a name of common words only still compares by all of them.
_LEAST_WORD_BITS = 1.0


_MOST_GROUPS = 4


class WordTable(NamedTuple):
    """The words of every distinct value of a column, as arrays that kernels read (a NamedTuple, since kernels take those).

    ``codes`` are the column's codes per record; ``word_ids[starts[v]:starts[v + 1]]`` are the words of value ``v``.
    Per distinct word: its bytes ``buffer[offsets[w]:offsets[w + 1]]``, its weight in bits, in how many records it
    occurs, and the numbers of up to four groups of words that can stand for each other (-1 fills up).
    """

    codes: npt.NDArray[np.int32]
    starts: npt.NDArray[np.int64]
    word_ids: npt.NDArray[np.int32]
    buffer: npt.NDArray[np.uint8]
    offsets: npt.NDArray[np.int64]
    weights: Bits
    record_counts: npt.NDArray[np.int64]
    groups: npt.NDArray[np.int32]


def record_bits(table: WordTable) -> tuple[Bits, float]:
    """Return (sum of word weights per record, its median over records with a value)."""
    sums = np.zeros(len(table.starts) - 1, dtype=np.float32)
    owner = np.repeat(np.arange(len(sums)), np.diff(table.starts))
    np.add.at(sums, owner, table.weights[table.word_ids])
    present = table.codes >= 0
    bits = np.zeros(len(table.codes), dtype=np.float32)
    bits[present] = sums[table.codes[present]]
    return bits, float(np.median(bits[present])) if present.any() else 0.0


def word_table(column: Column, word_groups: Mapping[str, tuple[int, ...]] | None = None) -> WordTable:
    """Return the word table of a column of space-separated words.

    The weight of a word is log2(records with a name / records with the word), its inverse document frequency (K. Spärck
    Jones, 1972), here in bits. ``word_groups`` says which words can stand for each other (short forms of given names).
    """
    split = [value.split() for value in column.values]
    words = sorted({word for value in split for word in value})
    number = {word: place for place, word in enumerate(words)}
    starts = np.zeros(len(split) + 1, dtype=np.int64)
    np.cumsum([len(value) for value in split], out=starts[1:])
    word_ids = np.array([number[word] for value in split for word in value], dtype=np.int32)
    per_value = column.counts()
    record_counts = np.zeros(len(words), dtype=np.int64)
    distinct_ids = [number[word] for value in split for word in sorted(set(value))]
    owners = np.repeat(np.arange(len(split)), [len(set(value)) for value in split]).astype(np.int64)
    np.add.at(record_counts, np.array(distinct_ids, dtype=np.int64), per_value[owners])
    total = max(int(per_value.sum()), 1)
    weights = np.maximum(np.log2(total / np.maximum(record_counts, 1)), _LEAST_WORD_BITS).astype(np.float32)
    groups = np.full((max(len(words), 1), _MOST_GROUPS), -1, dtype=np.int32)
    if word_groups:
        for word, place in number.items():
            members = word_groups.get(word, ())[:_MOST_GROUPS]
            groups[place, : len(members)] = members
    strings = pack(words)
    return WordTable(column.codes, starts, word_ids, strings.buffer, strings.offsets, weights, record_counts, groups)
