"""The bench: what an edited plan would do, told from held pairs at once and from a whole match that keeps what it can."""

from .bench import Bench, BenchInput, Redrawn
from .changes import ClusterChange, cluster_changes
from .conditions import ConditionCount, condition_counts
from .curve import BINS_PER_BIT, CURVE_FROM, Counted, Curve, counted_same, curve_of
from .held import HeldPairs
from .rescore import Rescored
from .told import told_at_once
from .walk import Wanted, around, wanted_pairs

__all__ = [
    "BINS_PER_BIT", "CURVE_FROM",
    "Bench", "BenchInput", "ClusterChange", "ConditionCount", "Counted", "Curve", "HeldPairs", "Redrawn", "Rescored", "Wanted",
    "around", "cluster_changes", "condition_counts", "counted_same", "curve_of", "told_at_once", "wanted_pairs",
]  # fmt: skip
