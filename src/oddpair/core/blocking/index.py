"""The inverted index of blocks: for every key value the records that hold it, and for every record its blocks."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..records import IntArray, RecordSet
from .keys import BlockingKey, Codes, key_codes

LongArray = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A block too large to be compared even after narrowing: which key, which value, how many records."""

    key: str
    value: str
    records: int


@dataclass(frozen=True, slots=True)
class KeyCount:
    """What one key contributes: blocks, the largest block, pairs it proposes (those of other keys included)."""

    key: str
    blocks: int
    largest_block: int
    pairs_proposed: int


@dataclass(frozen=True, slots=True)
class BlockIndex:
    """Blocks of all keys.

    ``members[starts[b]:starts[b + 1]]`` are the records of block ``b`` in ascending order, ``keys[b]`` its key's number.
    ``record_places[record_starts[r]:record_starts[r + 1]]`` are the places in ``members`` where record ``r`` stands.
    """

    members: IntArray
    starts: LongArray
    keys: npt.NDArray[np.int16]
    record_starts: LongArray
    record_places: LongArray
    counts: tuple[KeyCount, ...]
    left_out: tuple[LeftOut, ...]

    @property
    def block_of_place(self) -> LongArray:
        """Return, per place in ``members``, the number of its block."""
        return np.repeat(np.arange(len(self.keys)), np.diff(self.starts))


@dataclass(slots=True)
class _Blocks:
    """Blocks under construction: members by block, and the sizes."""

    members: list[Codes]
    sizes: list[Codes]

    def add(self, owners: Codes, values: Codes, most: int) -> list[tuple[int, Codes]]:
        """Add the blocks of rows sorted by value; return (value, members) of those larger than ``most``."""
        if not len(values):
            return []
        starts = np.flatnonzero(np.concatenate(([True], values[1:] != values[:-1])))
        sizes = np.diff(np.concatenate((starts, [len(values)])))
        good = (sizes > 1) & (sizes <= most)
        self.members.append(owners[np.repeat(good, sizes)])
        self.sizes.append(sizes[good])
        large = np.flatnonzero(sizes > most)
        return [(int(values[starts[block]]), owners[starts[block] : starts[block] + sizes[block]]) for block in large]


def _narrow(
    large: list[tuple[str, Codes]], records: RecordSet, narrowing: Sequence[BlockingKey], blocks: _Blocks, most: int
) -> list[tuple[str, Codes]]:
    """Split large blocks by each further key in turn; return (value, members) of what is still too large."""
    for key in narrowing:
        if not large:
            break
        owners, values, spell = key_codes(records, key)
        still: list[tuple[str, Codes]] = []
        for text, members in large:
            inside = np.isin(owners, members)
            still += [
                (f"{text} / {spell(value)}", rest) for value, rest in blocks.add(owners[inside], values[inside], most)
            ]
            lacking = np.setdiff1d(members, owners[inside])
            if len(lacking) > 1:
                # Records without a value for the narrowing key meet each other, as long as they are few.
                still += [(f"{text} / none", rest) for _, rest in blocks.add(lacking, np.zeros_like(lacking), most)]
        large = still
    return large


def build_index(
    records: RecordSet, keys: Sequence[BlockingKey], narrowing: Sequence[BlockingKey], most: int,
    progress: Callable[[str, int, int], None] | None = None,
) -> BlockIndex:  # fmt: skip
    """Return the index of all blocks with two to ``most`` records; larger ones are narrowed by the further keys."""
    all_members: list[Codes] = []
    all_sizes: list[Codes] = []
    key_numbers: list[Codes] = []
    counts: list[KeyCount] = []
    left_out: list[LeftOut] = []
    for number, key in enumerate(keys):
        if progress:
            progress("block", number, len(keys))
        blocks = _Blocks([], [])
        owners, values, spell = key_codes(records, key)
        large = [(spell(value), members) for value, members in blocks.add(owners, values, most)]
        remaining = _narrow(large, records, narrowing, blocks, most)
        left_out += [LeftOut(key.expression, text, len(members)) for text, members in remaining]
        sizes = np.concatenate([np.zeros(0, dtype=np.int64), *blocks.sizes])
        all_members += blocks.members
        all_sizes.append(sizes)
        key_numbers.append(np.full(len(sizes), number))
        pairs = int((sizes * (sizes - 1) // 2).sum())
        counts.append(KeyCount(key.expression, len(sizes), int(sizes.max(initial=0)), pairs))
    members = np.concatenate([np.zeros(0, dtype=np.int64), *all_members]).astype(np.int32)
    starts = np.concatenate(([0], np.cumsum(np.concatenate([np.zeros(0, dtype=np.int64), *all_sizes])))).astype(
        np.int64
    )
    places = np.argsort(members, kind="stable")
    record_starts = np.zeros(len(records) + 1, dtype=np.int64)
    np.cumsum(np.bincount(members, minlength=len(records)), out=record_starts[1:])
    numbers = np.concatenate([np.zeros(0, dtype=np.int64), *key_numbers]).astype(np.int16)
    return BlockIndex(members, starts, numbers, record_starts, places, tuple(counts), tuple(left_out))
