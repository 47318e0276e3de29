"""A look into the blocks of a key: which values bring most records together."""

from dataclasses import dataclass

import numpy as np

from ..records import RecordSet
from .key_values import key_values
from .keys import BlockingKey


@dataclass(frozen=True, slots=True)
class BlockSeen:
    """A block: the ``value`` that its records share, how many they are, and the numbers of the first of them."""

    value: str
    records: int
    first: tuple[int, ...]


def largest_blocks(records: RecordSet, key: BlockingKey, many: int, examples: int) -> tuple[BlockSeen, ...]:
    """Return up to ``many`` blocks of a key before any is narrowed, the largest first, each with some of its records."""
    owners, values, spell = key_values(records, key)
    if not len(values):
        return ()
    starts = np.flatnonzero(np.concatenate(([True], np.diff(values) != 0)))
    sizes = np.diff(np.append(starts, len(values)))
    order = np.argsort(-sizes, kind="stable")[:many]
    return tuple(
        BlockSeen(
            spell(int(values[starts[place]])), int(sizes[place]),
            tuple(owners[starts[place] : starts[place] + min(int(sizes[place]), examples)].tolist()),
        )
        for place in order.tolist() if sizes[place] > 1
    )  # fmt: skip
