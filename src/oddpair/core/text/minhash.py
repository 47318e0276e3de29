"""Fingerprints of letter groups (q-grams): values that share most of their letter groups share a fingerprint.

MinHash after A. Z. Broder, "On the resemblance and containment of documents" (1997), with banding after J. Leskovec,
A. Rajaraman and J. D. Ullman, "Mining of Massive Datasets", section 3.4: two values with Jaccard resemblance s of their
trigrams share one of b bands of r hashes with probability 1 - (1 - s^r)^b.
"""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from .byte_strings import pack
from .compiled import allocating_kernel
from .hashes import mixed

_HASHES_PER_BAND = 3
_GRAM = 3


@allocating_kernel
def _bands(buffer: npt.NDArray[np.uint8], offsets: npt.NDArray[np.int64], out: npt.NDArray[np.int64]) -> None:
    hashes = out.shape[1] * _HASHES_PER_BAND
    least = np.empty(hashes, dtype=np.uint64)
    for string in range(len(offsets) - 1):
        first, last = offsets[string], offsets[string + 1]
        if last - first < _GRAM:
            continue
        least[:] = np.uint64(0xFFFFFFFFFFFFFFFF)
        for place in range(first, last - _GRAM + 1):
            gram = np.uint64(0)
            for letter in range(_GRAM):
                gram = (gram << np.uint64(8)) | np.uint64(buffer[place + letter])
            for seed in range(hashes):
                least[seed] = min(least[seed], mixed(gram ^ (np.uint64(seed + 1) << np.uint64(32))))
        for band in range(out.shape[1]):
            joined = np.uint64(band)
            for row in range(_HASHES_PER_BAND):
                joined = mixed(joined ^ least[band * _HASHES_PER_BAND + row])
            # 40 bits are plenty to tell blocks apart and leave room for another part of a key.
            out[string, band] = np.int64(joined >> np.uint64(24))


def qgram_bands(values: Sequence[str], bands: int) -> npt.NDArray[np.int64]:
    """Return ``bands`` fingerprints of every value's trigrams, spaces left out; -1 where it has fewer than three letters."""
    strings = pack([value.replace(" ", "") for value in values])
    out = np.full((len(values), bands), -1, dtype=np.int64)
    _bands(strings.buffer, strings.offsets, out)
    return out
