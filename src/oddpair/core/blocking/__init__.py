"""Blocking: which records are worth comparing at all."""

from .estimate import KeyEstimate, estimate_pairs
from .index import BlockIndex, KeyCount, LeftOut, build_index, index_of_blocks, with_every_pair
from .keys import BlockingKey, parse_key
from .lookup import keys_that_bring
from .pairs import PairChunk, iterate_pairs, sample_pairs

__all__ = [
    "BlockIndex", "BlockingKey", "KeyCount", "KeyEstimate", "LeftOut", "PairChunk", "build_index", "estimate_pairs",
    "index_of_blocks", "iterate_pairs", "keys_that_bring", "parse_key", "sample_pairs", "with_every_pair",
]  # fmt: skip
