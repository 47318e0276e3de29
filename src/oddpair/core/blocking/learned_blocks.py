"""Blocks by numbers that mean the same whichever records are at hand: how a few new records find those they are to be compared with.

Which blocks are too large to be compared whole is learned once; they are narrowed by further keys ever after, and what is still too
large then brings nobody together. So whether two records share a block hangs on these two alone.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..census import Hashes
from ..records import IntArray, RecordSet, further
from ..sorting import stable_order
from ..text.hashes import NO_VALUE, joined
from .index import BlockIndex, KeyCount, index_of_blocks
from .key_values import taken_of
from .keys import BlockingKey, KeyPart


@dataclass(frozen=True, slots=True)
class BlockNumbers:
    """In which blocks records stand: record ``owners[k]`` in the block ``numbers[k]`` of the key ``keys[k]``; a pair of record and block
    stands here once."""

    owners: IntArray
    keys: npt.NDArray[np.int16]
    numbers: Hashes


#: Per (number of a blocking key, how often it was narrowed): the blocks that are too large, ascending.
LargeBlocks = Mapping[tuple[int, int], Hashes]


def _part_hashes(records: RecordSet, part: KeyPart) -> tuple[IntArray, Hashes]:
    """Return (records ascending, hash of what the part takes of them), a row for everything it takes."""
    owners: list[npt.NDArray[np.intp]] = []
    hashes: list[Hashes] = []
    for place in range(records.places(part.field)):
        column = records.column(further(part.field, place))
        taken = taken_of(records, part, column)
        if not len(taken.keys):
            continue
        table = taken.hashes()
        rows = np.flatnonzero(column.codes >= 0)
        for choice in range(taken.keys.shape[1]):
            chosen = taken.keys[column.codes[rows], choice]
            places = (
                chosen
                if taken.texts is not None
                else column.codes[rows].astype(np.int64) * taken.keys.shape[1] + choice
            )
            owners.append(rows[chosen >= 0])
            hashes.append(table[places[chosen >= 0]])
    if not owners:
        return np.zeros(0, dtype=np.int32), np.zeros(0, dtype=np.uint64)
    every = np.concatenate(owners)
    order = stable_order(every)
    return every[order].astype(np.int32), np.concatenate(hashes)[order]


def _matched(owners: IntArray, others: IntArray, records: int) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
    """Return the rows of all pairs of a row of one list and a row of the other, both ascending, that have the same owner."""
    counts = np.bincount(others, minlength=records)
    starts = np.concatenate(([0], np.cumsum(counts)))
    sizes = counts[owners]
    rows = np.repeat(np.arange(len(owners)), sizes)
    within = np.arange(len(rows)) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    return rows, np.repeat(starts[owners], sizes) + within


def _key_hashes(records: RecordSet, key: BlockingKey) -> tuple[IntArray, Hashes]:
    owners, hashes = _part_hashes(records, key.parts[0])
    for part in key.parts[1:]:
        more_owners, more = _part_hashes(records, part)
        rows, other = _matched(owners, more_owners, len(records))
        owners, hashes = owners[rows], joined(hashes[rows], more[other])
    return _once(owners, hashes)


def _once(owners: IntArray, hashes: Hashes) -> tuple[IntArray, Hashes]:
    order = np.lexsort((owners, hashes))
    owners, hashes = owners[order], hashes[order]
    fresh = np.ones(len(owners), dtype=np.bool_)
    fresh[1:] = (owners[1:] != owners[:-1]) | (hashes[1:] != hashes[:-1])
    return owners[fresh], hashes[fresh]


def _are_among(hashes: Hashes, known: Hashes | None) -> npt.NDArray[np.bool_]:
    if known is None or not len(known):
        return np.zeros(len(hashes), dtype=np.bool_)
    found: npt.NDArray[np.bool_] = known[np.minimum(np.searchsorted(known, hashes), len(known) - 1)] == hashes
    return found


def _larger_than(hashes: Hashes, most: int) -> Hashes:
    distinct, counts = np.unique(hashes, return_counts=True)
    large: Hashes = distinct[counts > most]
    return large


class _Blocks:
    """The blocks of some records, narrowed where they are known, or found, to be large."""

    def __init__(self, records: RecordSet, keys: Sequence[BlockingKey], narrowing: Sequence[BlockingKey]) -> None:
        self._records, self._keys = records, keys
        self._narrowing = [_narrowing_hashes(records, key) for key in narrowing]

    def numbers(self, large: LargeBlocks) -> BlockNumbers:
        """Return in which blocks the records stand, narrowed where they are ``large``."""
        parts = [self._of_key(number, large, None) for number in range(len(self._keys))]
        owners = np.concatenate([np.zeros(0, dtype=np.int32), *(owners for owners, _ in parts)])
        numbers = np.concatenate([np.zeros(0, dtype=np.uint64), *(hashes for _, hashes in parts)])
        keys = np.repeat(np.arange(len(parts), dtype=np.int16), [len(hashes) for _, hashes in parts])
        return BlockNumbers(owners, keys, numbers)

    def large(self, most: int) -> LargeBlocks:
        """Return which blocks are of more than ``most`` records."""
        found: dict[tuple[int, int], Hashes] = {}
        for number in range(len(self._keys)):
            self._of_key(number, found, most)
        return found

    def _of_key(
        self, number: int, large: LargeBlocks | dict[tuple[int, int], Hashes], most: int | None
    ) -> tuple[IntArray, Hashes]:
        owners, hashes = _key_hashes(self._records, self._keys[number])
        ready_owners, ready = [np.zeros(0, dtype=np.int32)], [np.zeros(0, dtype=np.uint64)]
        for stage in range(len(self._narrowing) + 1):
            if most is not None and isinstance(large, dict):
                large[number, stage] = _larger_than(hashes, most)
            too_large = _are_among(hashes, large.get((number, stage)))
            ready_owners.append(owners[~too_large])
            ready.append(hashes[~too_large])
            if stage == len(self._narrowing):
                break
            owners, hashes = owners[too_large], hashes[too_large]
            by_record = stable_order(owners)
            owners, hashes = owners[by_record], hashes[by_record]
            more_owners, more = self._narrowing[stage]
            rows, other = _matched(owners, more_owners, len(self._records))
            owners, hashes = _once(owners[rows], joined(hashes[rows], more[other]))
        return np.concatenate(ready_owners), np.concatenate(ready)


def _narrowing_hashes(records: RecordSet, key: BlockingKey) -> tuple[IntArray, Hashes]:
    """Return, records ascending, what a key takes of them; records without a value have one that they share."""
    owners, hashes = _key_hashes(records, key)
    without = np.setdiff1d(np.arange(len(records), dtype=np.int32), owners)
    owners = np.concatenate((owners, without)).astype(np.int32)
    hashes = np.concatenate((hashes, np.full(len(without), NO_VALUE, dtype=np.uint64)))
    order = stable_order(owners)
    return owners[order], hashes[order]


def block_numbers(
    records: RecordSet, keys: Sequence[BlockingKey], narrowing: Sequence[BlockingKey], large: LargeBlocks
) -> BlockNumbers:
    """Return in which blocks records stand, by what was learned of which are ``large``."""
    return _Blocks(records, keys, narrowing).numbers(large)


def learn_large_blocks(
    records: RecordSet, keys: Sequence[BlockingKey], narrowing: Sequence[BlockingKey], most: int
) -> LargeBlocks:
    """Return which blocks are of more than ``most`` records, before any narrowing and after each."""
    return _Blocks(records, keys, narrowing).large(most)


def index_of_numbers(found: BlockNumbers, records: int, keys: Sequence[BlockingKey]) -> BlockIndex:
    """Return the index of the blocks that so many records form."""
    order = np.lexsort((found.owners, found.numbers, found.keys))
    owners, numbers, of_key = found.owners[order], found.numbers[order], found.keys[order]
    fresh = np.ones(len(owners), dtype=np.bool_)
    fresh[1:] = (numbers[1:] != numbers[:-1]) | (of_key[1:] != of_key[:-1])
    starts = np.flatnonzero(fresh)
    sizes = np.diff(np.append(starts, len(owners)))
    several = sizes > 1
    chosen, key_of = sizes[several].astype(np.int64), of_key[starts[several]].astype(np.int16)
    counts = []
    for number, key in enumerate(keys):
        own = chosen[key_of == number]
        counts.append(KeyCount(key.expression, len(own), int(own.max(initial=0)), int((own * (own - 1) // 2).sum())))
    return index_of_blocks(owners[np.repeat(several, sizes)], chosen, key_of, records, tuple(counts))
