"""Blocking: which records are worth comparing at all."""

from .index import BlockIndex, KeyCount, LeftOut, build_index
from .keys import BlockingKey, parse_key
from .pairs import PairChunk, iterate_pairs, sample_pairs

__all__ = [
    "BlockIndex", "BlockingKey", "KeyCount", "LeftOut", "PairChunk", "build_index", "iterate_pairs", "parse_key", "sample_pairs",
]  # fmt: skip
