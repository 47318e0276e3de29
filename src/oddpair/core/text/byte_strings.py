"""Many short strings as one byte buffer, the form in which kernels read them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .compiled import inner_kernel, kernel
from .folding import fold

Signs = npt.NDArray[np.uint64]


@dataclass(frozen=True, slots=True)
class ByteStrings:
    """``buffer[offsets[k]:offsets[k + 1]]`` are the bytes of string ``k``; folded text is ASCII, so a byte is a letter."""

    buffer: npt.NDArray[np.uint8]
    offsets: npt.NDArray[np.int64]

    def __len__(self) -> int:
        return len(self.offsets) - 1


def pack(strings: Sequence[str]) -> ByteStrings:
    """Return strings packed into one buffer, one byte a letter; what is beyond ASCII is folded, so any text can be packed."""
    strings = [text if text.isascii() else fold(text) for text in strings]
    offsets = np.zeros(len(strings) + 1, dtype=np.int64)
    # One byte a letter, so the lengths of the strings are those of their bytes.
    np.cumsum(np.fromiter(map(len, strings), dtype=np.int64, count=len(strings)), out=offsets[1:])
    return ByteStrings(np.frombuffer("".join(strings).encode("ascii") + b"\0", dtype=np.uint8), offsets)


@kernel
def _letter_signs(buffer: npt.NDArray[np.uint8], offsets: npt.NDArray[np.int64], signs: Signs) -> None:
    for string in range(len(offsets) - 1):
        sign = np.uint64(0)
        for place in range(offsets[string], offsets[string + 1]):
            sign |= np.uint64(1) << np.uint64(buffer[place] & 63)
        signs[string] = sign


def letter_signs(strings: ByteStrings) -> Signs:
    """Return, per string, the set of its letters as bits (byte modulo 64).

    One insertion, deletion or swap of neighbours changes at most one bit of the set and a substitution at most two, so
    two strings whose sets differ in more than 2·d bits are more than d edits apart.
    """
    signs = np.zeros(len(strings), dtype=np.uint64)
    _letter_signs(strings.buffer, strings.offsets, signs)
    return signs


@inner_kernel
def bits_apart(one: int, other: int) -> int:
    """Return in how many bits two 64-bit sets differ (population count after H. S. Warren, *Hacker's Delight*, 2002)."""
    x = np.uint64(one) ^ np.uint64(other)
    x = x - ((x >> np.uint64(1)) & np.uint64(0x5555555555555555))
    x = (x & np.uint64(0x3333333333333333)) + ((x >> np.uint64(2)) & np.uint64(0x3333333333333333))
    x = (x + (x >> np.uint64(4))) & np.uint64(0x0F0F0F0F0F0F0F0F)
    return int((x * np.uint64(0x0101010101010101)) >> np.uint64(56))
