"""Which blocking keys bring given pairs up."""

import numpy as np
import numpy.typing as npt

from ..records import IntArray
from ..text.compiled import kernel
from .index import BlockIndex, LongArray


@kernel
def _shared_keys(
    left: IntArray, right: IntArray, record_starts: LongArray, blocks: IntArray, keys: npt.NDArray[np.int16],
    brought: npt.NDArray[np.bool_],
) -> None:  # fmt: skip
    for pair in range(len(left)):
        i, i_end = record_starts[left[pair]], record_starts[left[pair] + 1]
        j, j_end = record_starts[right[pair]], record_starts[right[pair] + 1]
        # The blocks of every record are in ascending order.
        while i < i_end and j < j_end:
            if blocks[i] == blocks[j]:
                brought[keys[blocks[i]], pair] = True
                i += 1
                j += 1
            elif blocks[i] < blocks[j]:
                i += 1
            else:
                j += 1


def keys_that_bring(index: BlockIndex, left: IntArray, right: IntArray) -> npt.NDArray[np.bool_]:
    """Return, per key (row) and pair (column), whether the two records share a block of that key."""
    block_of_place = np.repeat(np.arange(len(index.keys), dtype=np.int32), np.diff(index.starts))
    blocks = block_of_place[index.record_places]
    brought = np.zeros((len(index.counts), len(left)), dtype=np.bool_)
    _shared_keys(left, right, index.record_starts, blocks, index.keys, brought)
    return brought
