"""Names in their original script beside their transliteration, which writes different Chinese characters alike and knows nothing of
how a person or a firm of that name is called in other letters.
"""

from ..records import IntArray, RecordSet
from .base import Measure, Measured


def checked_by_original(
    measure: Measure, records: RecordSet, field: str, *, missing: int, equal: int, close: int, different: int
) -> Measure:
    """Return a measure that calls names equal only if their original characters, where both have such, are the same, and different only
    if both have such or none has: "山田" may be Yamada.
    """
    originals = records.column(f"{field}.original").codes
    if (originals < 0).all():
        return measure

    def checked(left: IntArray, right: IntArray) -> Measured:
        measured = measure(left, right)
        one, other = originals[left], originals[right]
        measured.levels[(one >= 0) & (other >= 0) & (one != other) & (measured.levels == equal)] = close
        measured.levels[((one >= 0) != (other >= 0)) & (measured.levels == different)] = missing
        return measured

    return checked
