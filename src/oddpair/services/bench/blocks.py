"""The largest blocks of a blocking key, with some of their records."""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.blocking import parse_key
from ...core.blocking.largest import largest_blocks
from ...core.errors import PlanInvalid
from ...core.tidying import tidy_fields
from ...store.golden import records_with_sources
from ...store.registers import register_by_slug
from ..review.pair import FacedRecord, faced
from ..state.layouts import layout_of
from .benches import BenchOfRegister

_MANY, _EXAMPLES = 8, 3


@dataclass(frozen=True, slots=True)
class BlockShown:
    """A block: the value that its records share, how many they are, and some of them."""

    value: str
    records: int
    examples: Sequence[FacedRecord]


def blocks_of_key(session: Session, slug: str, own: BenchOfRegister, expression: str) -> Sequence[BlockShown]:
    """Return the largest blocks that a key makes of a register's records; raise PlanInvalid if it is none."""
    key = parse_key(expression)
    known = tidy_fields(layout_of(register_by_slug(session, slug)))
    for part in key.parts:
        if part.field not in known:
            raise PlanInvalid([f"blocking key '{expression}': no tidy field '{part.field}'"])
    found = largest_blocks(own.bench.records, key, _MANY, _EXAMPLES)
    ids = [int(own.ids[number]) for block in found for number in block.first]
    records = records_with_sources(session, ids)
    return [
        BlockShown(
            block.value, block.records,
            [faced(*records[int(own.ids[number])]) for number in block.first if int(own.ids[number]) in records],
        )
        for block in found
    ]  # fmt: skip
