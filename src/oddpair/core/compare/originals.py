"""Names in their original script beside their transliteration, which writes different Chinese characters alike."""

from ..records import IntArray, RecordSet
from .base import Measure, Measured


def checked_by_original(measure: Measure, records: RecordSet, field: str, equal: int, close: int) -> Measure:
    """Return a measure that calls names equal only if their original characters, where both have such, are the same."""
    originals = records.column(f"{field}.original").codes
    if (originals < 0).all():
        return measure

    def checked(left: IntArray, right: IntArray) -> Measured:
        measured = measure(left, right)
        one, other = originals[left], originals[right]
        measured.levels[(one >= 0) & (other >= 0) & (one != other) & (measured.levels == equal)] = close
        return measured

    return checked
