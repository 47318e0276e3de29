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
    """What the kernel reads."""

    members: IntArray
    ends: LongArray
    place_keys: npt.NDArray[np.int16]
    record_starts: LongArray
    record_places: IntArray
    sources: IntArray
    meets: npt.NDArray[np.bool_]


@kernel
def _emit_pairs(
    first: int, last: int, walk: _Walk, stamp: IntArray, left: IntArray, right: IntArray, keys: npt.NDArray[np.int16]
) -> int:
    count = 0
    for record in range(first, last):
        source = walk.sources[record]
        for at in range(walk.record_starts[record], walk.record_starts[record + 1]):
            place = walk.record_places[at]
            for other_place in range(place + 1, walk.ends[place]):
                other = walk.members[other_place]
                if stamp[other] == record:
                    continue
                stamp[other] = record
                if not walk.meets[source, walk.sources[other]]:
                    continue
                left[count] = record
                right[count] = other
                keys[count] = walk.place_keys[place]
                count += 1
    return count


def _walk(index: BlockIndex, sources: IntArray, meets: npt.NDArray[np.bool_]) -> tuple[_Walk, LongArray]:
    """Return what the kernel reads, and the running sum of pairs, repeats counted, by place in ``record_places``."""
    ends = np.repeat(index.starts[1:], np.diff(index.starts))
    place_keys = np.repeat(index.keys, np.diff(index.starts))
    per_place = ends - np.arange(len(ends)) - 1
    sums = np.concatenate(([0], np.cumsum(per_place[index.record_places])))
    return _Walk(index.members, ends, place_keys, index.record_starts, index.record_places, sources, meets), sums


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
        room = int(sums[index.record_starts[last]] - sums[index.record_starts[first]])
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
    room = int(work[chosen].sum())
    left, right, keys = np.empty(room, dtype=np.int32), np.empty(room, dtype=np.int32), np.empty(room, dtype=np.int16)
    stamp = np.full(len(sources), -1, dtype=np.int32)
    count = 0
    for record in chosen.tolist():
        count += _emit_pairs(record, record + 1, walk, stamp, left[count:], right[count:], keys[count:])
    return left[:count], right[:count], room / max(int(work.sum()), 1) if room else 1.0
