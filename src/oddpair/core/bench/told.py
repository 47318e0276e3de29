"""Everything that is told at once of rescored pairs: the curve over limits and the counts of conditions, on two threads."""

from concurrent.futures import ThreadPoolExecutor

from .conditions import ConditionCount, condition_counts
from .curve import Curve, curve_of
from .held import HeldPairs
from .rescore import Rescored


def told_at_once(held: HeldPairs, rescored: Rescored, records: int) -> tuple[Curve, tuple[ConditionCount, ...]]:
    """Return the curve of rescored pairs among so many records, and the counts of every condition."""
    with ThreadPoolExecutor(1) as pool:
        counts = pool.submit(condition_counts, held, rescored)
        curve = curve_of(held, rescored, records)
        return curve, counts.result()
