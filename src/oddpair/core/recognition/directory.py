"""The directory of blocks: which records stand in a block, for new records to find whom they are to be compared with.

It holds two sorted columns, and further ones for what came later, which are joined now and then. A record that left a block, or the
register, may still stand here: whoever asks looks at the records themselves.
"""

import numpy as np
import numpy.typing as npt

from ..blocking.learned_blocks import BlockNumbers
from ..census import Hashes
from ..sorting import stable_order
from ..text.hashes import joined

Ids = npt.NDArray[np.int64]
#: So many columns of later records are searched one after the other before they are joined.
_MOST_PARTS = 12


def _places(numbers: BlockNumbers) -> Hashes:
    """Return a number for every block that tells the blocks of different keys apart."""
    return joined(numbers.numbers, numbers.keys.astype(np.uint64))


class BlockDirectory:
    """Finds the records that stand in blocks; made of sorted columns."""

    def __init__(self) -> None:
        self._parts: list[tuple[Hashes, Ids]] = []

    def add(self, numbers: BlockNumbers, ids: Ids) -> None:
        """Enter records, whose ids are given by the numbers of their owners."""
        places, owners = _places(numbers), ids[numbers.owners]
        order = np.argsort(places, kind="stable")
        self._parts.append((places[order], owners[order]))
        if len(self._parts) > _MOST_PARTS:
            self.join()

    def join(self) -> None:
        """Join all columns into one."""
        if len(self._parts) > 1:
            places = np.concatenate([part for part, _ in self._parts])
            owners = np.concatenate([part for _, part in self._parts])
            order = np.argsort(places, kind="stable")
            self._parts = [(places[order], owners[order])]

    def sharing(self, numbers: BlockNumbers) -> Ids:
        """Return the records that stand in one of some blocks, each once, ascending."""
        return np.unique(self.shared_by(numbers)[1])

    def shared_by(self, numbers: BlockNumbers) -> tuple[npt.NDArray[np.int64], Ids]:
        """Return (who asks, by the owners of the numbers; the records that stand in a block with it), each pair once, by who asks."""
        wanted, askers = _places(numbers), numbers.owners.astype(np.int64)
        found = [np.zeros((0, 2), dtype=np.int64)]
        for places, owners in self._parts:
            first, last = np.searchsorted(places, wanted), np.searchsorted(places, wanted, side="right")
            sizes = last - first
            rows = np.repeat(first - np.cumsum(sizes) + sizes, sizes) + np.arange(int(sizes.sum()))
            found.append(np.stack((np.repeat(askers, sizes), owners[rows]), axis=1))
        pairs = np.concatenate(found)
        order = stable_order(pairs[:, 0], pairs[:, 1])
        pairs = pairs[order]
        fresh = np.ones(len(pairs), dtype=np.bool_)
        fresh[1:] = (pairs[1:] != pairs[:-1]).any(axis=1)
        return pairs[fresh, 0], pairs[fresh, 1]

    def columns(self) -> tuple[Hashes, Ids]:
        """Return the two columns, to be kept."""
        self.join()
        return self._parts[0] if self._parts else (np.zeros(0, dtype=np.uint64), np.zeros(0, dtype=np.int64))

    @classmethod
    def of_columns(cls, places: Hashes, owners: Ids) -> "BlockDirectory":
        """Return a directory from the columns that were kept."""
        directory = cls()
        directory._parts.append((places, owners))
        return directory
