"""Many short strings as one byte buffer, the form in which kernels read them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt


@dataclass(frozen=True, slots=True)
class ByteStrings:
    """``buffer[offsets[k]:offsets[k + 1]]`` are the bytes of string ``k``; folded text is ASCII, so a byte is a letter."""

    buffer: npt.NDArray[np.uint8]
    offsets: npt.NDArray[np.int64]

    def __len__(self) -> int:
        return len(self.offsets) - 1


def pack(strings: Sequence[str]) -> ByteStrings:
    """Return folded strings packed into one buffer; raises UnicodeEncodeError on text that was not folded to ASCII."""
    encoded = [string.encode("ascii") for string in strings]
    offsets = np.zeros(len(encoded) + 1, dtype=np.int64)
    np.cumsum([len(item) for item in encoded], out=offsets[1:])
    return ByteStrings(np.frombuffer(b"".join(encoded) + b"\0", dtype=np.uint8), offsets)
