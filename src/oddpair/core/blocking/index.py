"""The inverted index of blocks: for every key value the records that hold it, and for every record its blocks."""

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..records import IntArray, RecordSet
from ..sides import Sides
from ..sorting import stable_order
from .key_values import Codes, key_values
from .keys import BlockingKey

LongArray = npt.NDArray[np.int64]
#: Records of a block that is too large are compared with those this near in alphabetical order, half a window at a time.
_WINDOW = 20
_THREADS = 2


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A block too large to be compared whole even after narrowing: which key, which value, how many records.

    Its records are compared with their neighbours in alphabetical order only.
    """

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
    ``record_places[record_starts[r]:record_starts[r + 1]]`` are the places in ``members`` where record ``r`` stands;
    ``record_ends`` and ``record_keys`` say beside each place where its block ends and the number of its key.
    """

    members: IntArray
    starts: LongArray
    keys: npt.NDArray[np.int16]
    record_starts: LongArray
    record_places: IntArray
    record_ends: IntArray
    record_keys: npt.NDArray[np.int16]
    counts: tuple[KeyCount, ...]
    left_out: tuple[LeftOut, ...]


class _Collected:
    """Blocks that are ready: their members and sizes."""

    def __init__(self) -> None:
        self.members: list[Codes] = []
        self.sizes: list[Codes] = []

    def add(self, records: Codes, sizes: Codes, fitting: npt.NDArray[np.bool_]) -> None:
        """Take those of the blocks, given by their records one after the other, that fit."""
        self.members.append(records[np.repeat(fitting, sizes)])
        self.sizes.append(sizes[fitting])


@dataclass(frozen=True, slots=True)
class _Large:
    """Blocks too large to compare: ``records`` by block, ``blocks`` their number, ``names`` what each block is called."""

    records: Codes
    blocks: Codes
    names: tuple[str, ...]


def _cut(*keys: Codes) -> tuple[Codes, Codes]:
    """Return (first rows, sizes) of the runs of equal rows in sorted columns."""
    if not len(keys[0]):
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    fresh = np.concatenate(([True], np.logical_or.reduce([key[1:] != key[:-1] for key in keys])))
    starts = np.flatnonzero(fresh)
    return starts, np.diff(np.append(starts, len(keys[0])))


def _split_off(
    records: Codes, starts: Codes, sizes: Codes, most: int, ready: _Collected, name: Callable[[int], str]
) -> _Large:
    """Put runs of two to ``most`` records among the ready blocks and return the larger ones; ``name`` takes a row."""
    ready.add(records, sizes, (sizes > 1) & (sizes <= most))
    large = np.flatnonzero(sizes > most)
    rows = np.repeat(sizes > most, sizes)
    return _Large(
        records[rows], np.repeat(np.arange(len(large)), sizes[large]), tuple(name(int(starts[k])) for k in large)
    )


def _narrowed(large: _Large, records: RecordSet, key: BlockingKey, most: int, ready: _Collected) -> _Large:
    """Split large blocks by a further key; records without a value for it meet each other."""
    owners, values, spell = key_values(records, key)
    order = stable_order(owners)
    owners, values = owners[order], values[order]
    counts = np.bincount(owners, minlength=len(records))
    firsts = np.concatenate(([0], np.cumsum(counts)))
    sizes = np.maximum(counts[large.records], 1)
    members, blocks = np.repeat(large.records, sizes), np.repeat(large.blocks, sizes)
    within = np.arange(len(members)) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    has_value = counts[members] > 0
    chosen = np.full(len(members), -1, dtype=np.int64)
    chosen[has_value] = values[firsts[members[has_value]] + within[has_value]]
    order = stable_order(blocks, chosen, members)
    members, blocks, chosen = members[order], blocks[order], chosen[order]

    def name(row: int) -> str:
        part = spell(int(chosen[row])) if chosen[row] >= 0 else "none"
        return f"{large.names[int(blocks[row])]} / {part}"

    return _split_off(members, *_cut(blocks, chosen), most, ready, name)


def _neighbours(large: _Large, records: RecordSet, ready: _Collected) -> None:
    """Compare what is still too large with its neighbours only, in the alphabetical order of all its values.

    After M. A. Hernández and S. J. Stolfo, "The merge/purge problem for large databases" (SIGMOD 1995).
    """
    columns = list(records.columns.values())
    texts = ["\0".join(column.at(record) for column in columns) for record in large.records.tolist()]
    order = sorted(range(len(texts)), key=lambda row: (int(large.blocks[row]), texts[row], int(large.records[row])))
    members, blocks = large.records[order], large.blocks[order]
    for start, size in zip(*_cut(blocks), strict=True):
        end = int(start + size)
        windows = [
            np.sort(members[at : min(at + _WINDOW, end)])
            for at in range(int(start), max(end - _WINDOW // 2, int(start) + 1), _WINDOW // 2)
        ]
        lengths = np.array([len(window) for window in windows], dtype=np.int64)
        ready.add(np.concatenate(windows), lengths, lengths > 1)


def _of_both_sides(owners: Codes, values: Codes, sides: Sides) -> npt.NDArray[np.bool_]:
    """Return which records, sorted by value, take part and share their value with one of the other side: nobody else meets anybody."""
    starts, sizes = _cut(values)
    if not len(starts):
        return np.zeros(0, dtype=np.bool_)
    holds = [np.logical_or.reduceat(side[owners], starts) for side in (sides.one, sides.other)]
    useful: npt.NDArray[np.bool_] = np.repeat(holds[0] & holds[1], sizes) & sides.taking_part[owners]
    return useful


def _blocks_of_key(
    records: RecordSet,
    key: BlockingKey,
    narrowing: Sequence[BlockingKey],
    most: int,
    sides: Sides | None,
) -> tuple[_Collected, list[LeftOut]]:
    ready = _Collected()
    owners, values, spell = key_values(records, key)
    if sides is not None:
        useful = _of_both_sides(owners, values, sides)
        owners, values = owners[useful], values[useful]
    large = _split_off(owners, *_cut(values), most, ready, lambda row: spell(int(values[row])))
    for further in narrowing:
        if large.names:
            large = _narrowed(large, records, further, most, ready)
    left_out = [
        LeftOut(key.expression, name, int(size))
        for name, size in zip(large.names, np.bincount(large.blocks, minlength=len(large.names)), strict=True)
    ]
    if large.names:
        _neighbours(large, records, ready)
    return ready, left_out


def build_index(
    records: RecordSet, keys: Sequence[BlockingKey], narrowing: Sequence[BlockingKey], most: int,
    progress: Callable[[str, int, int], None] | None = None, *, sides: Sides | None = None,
) -> BlockIndex:  # fmt: skip
    """Return the index of all blocks with two to ``most`` records; larger ones are narrowed by the further keys.

    ``sides`` says which records take part and meet: all, where it is not given.
    """
    all_members: list[Codes] = []
    all_sizes: list[Codes] = []
    key_numbers: list[Codes] = []
    counts: list[KeyCount] = []
    left_out: list[LeftOut] = []
    # Sorting, most of the work, releases the interpreter: two keys at a time.
    with ThreadPoolExecutor(_THREADS) as pool:
        made = pool.map(lambda key: _blocks_of_key(records, key, narrowing, most, sides), keys)
        by_key = []
        for number, of_key in enumerate(made):
            by_key.append(of_key)
            if progress:
                progress("block", number, len(keys))
    for number, (key, (blocks, remaining)) in enumerate(zip(keys, by_key, strict=True)):
        left_out += remaining
        sizes = np.concatenate([np.zeros(0, dtype=np.int64), *blocks.sizes])
        all_members += blocks.members
        all_sizes.append(sizes)
        key_numbers.append(np.full(len(sizes), number))
        pairs = int((sizes * (sizes - 1) // 2).sum())
        counts.append(KeyCount(key.expression, len(sizes), int(sizes.max(initial=0)), pairs))
    members = np.concatenate([np.zeros(0, dtype=np.int64), *all_members]).astype(np.int32)
    sizes = np.concatenate([np.zeros(0, dtype=np.int64), *all_sizes])
    numbers = np.concatenate([np.zeros(0, dtype=np.int64), *key_numbers]).astype(np.int16)
    return index_of_blocks(members, sizes, numbers, len(records), tuple(counts), tuple(left_out))


#: What the pairs of small lists are reported under, which no key brings together.
EVERY_PAIR = "every pair"


def with_every_pair(index: BlockIndex, among: IntArray, records: int) -> BlockIndex:
    """Return the index of so many records with one more block, of those that take part (``among``), so that every pair of them is
    compared; its key comes last."""
    many = len(among)
    count = KeyCount(EVERY_PAIR, 1, many, many * (many - 1) // 2)
    return index_of_blocks(
        np.concatenate((index.members, among)), np.append(np.diff(index.starts), many).astype(np.int64),
        np.append(index.keys, len(index.counts)).astype(np.int16), records, (*index.counts, count), index.left_out,
    )  # fmt: skip


def index_of_blocks(
    members: IntArray, sizes: LongArray, keys: npt.NDArray[np.int16], records: int, counts: tuple[KeyCount, ...],
    left_out: tuple[LeftOut, ...] = (),
) -> BlockIndex:  # fmt: skip
    """Return the index of blocks given one after the other by their members, with the number of each block's key."""
    starts = np.concatenate(([0], np.cumsum(sizes))).astype(np.int64)
    places = stable_order(members).astype(np.int32)
    record_starts = np.zeros(records + 1, dtype=np.int64)
    np.cumsum(np.bincount(members, minlength=records), out=record_starts[1:])
    ends = np.repeat(starts[1:].astype(np.int32), sizes)[places]
    return BlockIndex(
        members, starts, keys, record_starts, places, ends, np.repeat(keys, sizes)[places], counts, left_out
    )
