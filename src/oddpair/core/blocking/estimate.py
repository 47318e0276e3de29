"""How many pairs each blocking key will propose, told from a sample of records before anything is compared."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..records import RecordSet
from .key_values import key_values
from .keys import BlockingKey


@dataclass(frozen=True, slots=True)
class KeyEstimate:
    """What a key will contribute, about: ``pairs`` it proposes, those of other keys included, and its largest block before
    narrowing."""

    key: str
    pairs: int
    largest_block: int


def estimate_pairs(sample: RecordSet, total: int, keys: Sequence[BlockingKey], most: int) -> tuple[KeyEstimate, ...]:
    """Return what each key will contribute among ``total`` tidy records, of which ``sample`` is a random part.

    Two records that share a key value are both in a sample of share f with probability f squared, so that the pairs of the
    sample over f squared estimate all pairs without bias (D. G. Horvitz and D. J. Thompson, 1952). Of a block over ``most``
    records, which will be narrowed, at most ``most`` partners per record are counted. With the whole as its own sample, blocks
    that need no narrowing are counted exactly.
    """
    share = len(sample) / total if total else 1.0
    estimates = []
    for key in keys:
        _, values, _ = key_values(sample, key)
        _, counts = np.unique(values, return_counts=True)
        sizes = counts / share
        pairs = np.minimum(counts * (counts - 1) / 2 / share**2, sizes * most / 2)
        estimates.append(KeyEstimate(key.expression, round(float(pairs.sum())), round(float(sizes.max(initial=0)))))
    return tuple(estimates)
