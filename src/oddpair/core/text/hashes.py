"""Hashes of texts by which values are known whichever records they stand in."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ..census import Hashes, HashesAt
from ..records import RecordSet
from .compiled import inner_kernel, kernel

#: What stands for a value that is missing.
NO_VALUE = np.uint64(0x9E3779B97F4A7C15)


@inner_kernel
def mixed(value: np.uint64) -> np.uint64:
    """Mix the bits of a 64-bit number (the finaliser of SplitMix64, G. L. Steele et al., 2014)."""
    x = value
    x = (x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    x = (x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return x ^ (x >> np.uint64(31))


@kernel
def _hash(buffer: npt.NDArray[np.uint8], offsets: npt.NDArray[np.int64], hashes: Hashes) -> None:
    for text in range(len(offsets) - 1):
        # FNV-1a (G. Fowler, L. C. Noll, K.-P. Vo, 1991), its bits mixed once more.
        value = np.uint64(0xCBF29CE484222325)
        for place in range(offsets[text], offsets[text + 1]):
            value = (value ^ np.uint64(buffer[place])) * np.uint64(0x100000001B3)
        hashes[text] = mixed(value)


def hashes_of(texts: Sequence[str]) -> Hashes:
    """Return the hash of every text, by its UTF-8 bytes: the same wherever the text stands."""
    encoded = [text.encode("utf-8", "surrogatepass") for text in texts]
    offsets = np.zeros(len(encoded) + 1, dtype=np.int64)
    np.cumsum(np.fromiter(map(len, encoded), dtype=np.int64, count=len(encoded)), out=offsets[1:])
    hashes = np.empty(len(encoded), dtype=np.uint64)
    _hash(np.frombuffer(b"".join(encoded) + b"\0", dtype=np.uint8), offsets, hashes)
    return hashes


@kernel
def _mix_in(one: Hashes, other: Hashes, hashes: Hashes) -> None:
    for row in range(len(one)):
        hashes[row] = mixed(one[row] * np.uint64(0x100000001B3) ^ other[row])


def joined(first: Hashes, *others: Hashes) -> Hashes:
    """Return a hash per row of several hashes, in this order."""
    hashes = first
    for other in others:
        before, hashes = hashes, np.empty(len(hashes), dtype=np.uint64)
        _mix_in(before, other, hashes)
    return hashes


def at_places(values: Sequence[str], codes: npt.NDArray[np.int32]) -> HashesAt:
    """Return a function that gives the hashes of the values of records at some places."""

    def hashes_at(places: npt.NDArray[np.intp]) -> Hashes:
        own, which = np.unique(codes[places], return_inverse=True)
        hashes = hashes_of([values[code] if code >= 0 else "" for code in own.tolist()])
        hashes[own < 0] = NO_VALUE
        result: Hashes = hashes[which]
        return result

    return hashes_at


def fields_at(records: RecordSet, *fields: str) -> HashesAt:
    """Return a function that gives, of records at some places, a hash of their values of some fields together."""
    parts = [at_places(column.values, column.codes) for column in map(records.column, fields)]
    return lambda places: joined(*(part(places) for part in parts))


def texts_at(texts: Sequence[str]) -> HashesAt:
    """Return a function that gives the hashes of the texts at some places."""
    return lambda places: hashes_of([texts[place] for place in places.tolist()])
