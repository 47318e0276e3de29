"""Candidate pairs: every pair of records that shares a block, once, in bounded memory.

A record is walked with all its blocks at once. A stamp per record remembers for which partner it was last seen, so a
pair that shares several keys comes out once without ever sorting pairs (after the marker technique of sparse-matrix
products, F. G. Gustavson 1978). Pairs come in chunks of bounded size, always in the same order.
"""

from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from typing import NamedTuple, TypeVar

import numpy as np
import numpy.typing as npt

from ..records import IntArray
from ..text.compiled import kernel
from .index import BlockIndex, LongArray

CHUNK_PAIRS = 400_000
_THREADS = 2
Outcome = TypeVar("Outcome")


@dataclass(frozen=True, slots=True)
class PairChunk:
    """Pairs with ``left`` < ``right``, and the number of the first key that brought each pair up."""

    left: IntArray
    right: IntArray
    keys: npt.NDArray[np.int16]

    def __len__(self) -> int:
        return len(self.left)


class _Walk(NamedTuple):
    """What the kernel reads. The blocks of record ``r`` stand at ``record_starts[r]`` to ``record_starts[r + 1]``: of each
    its later members, ``members[places[k] + 1:ends[k]]``, and its key. ``all_meet`` tells whether a source meets all others."""

    members: IntArray
    places: IntArray
    ends: IntArray
    keys: npt.NDArray[np.int16]
    record_starts: LongArray
    sources: IntArray
    meets: npt.NDArray[np.bool_]
    all_meet: npt.NDArray[np.bool_]


@kernel
def _emit_pairs(
    first: int, last: int, walk: _Walk, stamp: IntArray, left: IntArray, right: IntArray, keys: npt.NDArray[np.int16]
) -> int:
    count = 0
    for record in range(first, last):
        allowed = walk.meets[walk.sources[record]]
        all_allowed = walk.all_meet[walk.sources[record]]
        for at in range(walk.record_starts[record], walk.record_starts[record + 1]):
            key = walk.keys[at]
            for place in range(walk.places[at] + 1, walk.ends[at]):
                other = walk.members[place]
                # Every pair is written, and written over unless it is new: repeats come at random, and a processor that
                # guesses wrong loses more time than the writing takes.
                left[count] = record
                right[count] = other
                keys[count] = key
                fresh = stamp[other] != record
                stamp[other] = record
                count += fresh if all_allowed else fresh & allowed[walk.sources[other]]
    return count


def _walk(index: BlockIndex, sources: IntArray, meets: npt.NDArray[np.bool_]) -> tuple[_Walk, LongArray]:
    """Return what the kernel reads, and the running sum of pairs, repeats counted, over the blocks of all records."""
    sums = np.zeros(len(index.record_places) + 1, dtype=np.int64)
    np.cumsum(index.record_ends - index.record_places - 1, out=sums[1:])
    walk = _Walk(
        index.members, index.record_places, index.record_ends, index.record_keys, index.record_starts, sources, meets,
        np.logical_and.reduce(meets, axis=1),
    )  # fmt: skip
    return walk, sums


def _work_ranges(work: LongArray) -> list[tuple[int, int]]:
    """Return ranges of records whose pairs fit into one chunk; ``work`` is the running sum of pairs by record."""
    ranges: list[tuple[int, int]] = []
    first, done = 0, 0
    while first < len(work):
        last = max(int(np.searchsorted(work, done + CHUNK_PAIRS, side="right")), first + 1)
        ranges.append((first, last))
        first, done = last, int(work[last - 1])
    return ranges


def iterate_pairs(
    index: BlockIndex, sources: IntArray, meets: npt.NDArray[np.bool_], handle: Callable[[PairChunk], Outcome]
) -> Iterator[tuple[float, Outcome]]:
    """Yield (share of the work done, ``handle(chunk)``) for every chunk of pairs, in order; two threads do the work.

    ``meets[s, t]`` tells whether records of the sources ``s`` and ``t`` are compared at all; it is symmetric.
    """
    walk, sums = _walk(index, sources, meets)
    ranges = _work_ranges(sums[index.record_starts[1:]])

    def run(span: tuple[int, int]) -> Outcome:
        first, last = span
        # One place more than there are pairs, since the last may be written and not counted.
        room = int(sums[index.record_starts[last]] - sums[index.record_starts[first]]) + 1
        left, right = np.empty(room, dtype=np.int32), np.empty(room, dtype=np.int32)
        keys = np.empty(room, dtype=np.int16)
        stamp = np.full(len(sources), -1, dtype=np.int32)
        count = _emit_pairs(first, last, walk, stamp, left, right, keys)
        return handle(PairChunk(left[:count], right[:count], keys[:count]))

    total = max(len(sources), 1)
    with ThreadPoolExecutor(_THREADS) as pool:
        # Only a few chunks are under way at any time: memory is bounded by the chunk, not by the number of pairs.
        waiting: list[tuple[int, Future[Outcome]]] = []
        try:
            for span in ranges:
                waiting.append((span[1], pool.submit(run, span)))
                if len(waiting) > _THREADS + 1:
                    last, future = waiting.pop(0)
                    yield last / total, future.result()
            for last, future in waiting:
                yield last / total, future.result()
        finally:
            for _, future in waiting:
                future.cancel()


#: Pairs on which weights are learned, at most.
_SAMPLE_PAIRS = 400_000


def sample_pairs(
    index: BlockIndex, sources: IntArray, meets: npt.NDArray[np.bool_]
) -> tuple[IntArray, IntArray, float]:
    """Return (left, right, share): the pairs of records evenly spread over all, and about which share of all pairs they are.

    All pairs if they are few. A record is taken with all its pairs to later records, in the order of records.
    """
    walk, sums = _walk(index, sources, meets)
    work = np.diff(sums[index.record_starts])
    step = int(np.ceil(max(int(work.sum()), 1) / _SAMPLE_PAIRS))
    chosen = np.arange(len(sources))[step // 2 :: step] if step > 1 else np.arange(len(sources))
    room = int(work[chosen].sum()) + 1
    left, right, keys = np.empty(room, dtype=np.int32), np.empty(room, dtype=np.int32), np.empty(room, dtype=np.int16)
    stamp = np.full(len(sources), -1, dtype=np.int32)
    count = 0
    for record in chosen.tolist():
        count += _emit_pairs(record, record + 1, walk, stamp, left[count:], right[count:], keys[count:])
    return left[:count], right[:count], (room - 1) / max(int(work.sum()), 1) if room > 1 else 1.0
