"""What all records of a match together teach of each, before they are compared."""

from ..records import RecordSet
from .counted_once import with_copies_counted_once
from .learned_name_order import with_learned_name_order
from .learned_towns import with_learned_towns


def with_what_all_teach(records: RecordSet) -> RecordSet:
    """Return tidy records with the towns of others' postcodes, people's given and family names told apart as others write them, and
    copies counted once."""
    return with_copies_counted_once(with_learned_name_order(with_learned_towns(records)))
