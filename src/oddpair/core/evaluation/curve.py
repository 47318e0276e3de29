"""How precision and recall of pairs change with the limit."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .measures import true_pair_count


@dataclass(frozen=True, slots=True)
class CurvePoint:
    """What would be called the same if every pair from ``limit`` bits on were: precision and recall of pairs."""

    limit: float
    precision: float
    recall: float


def curve(
    truth: Sequence[Hashable], left: Sequence[int], right: Sequence[int], bits: npt.NDArray[np.float32]
) -> list[CurvePoint]:
    """Return one point per distinct score, from the highest limit to the lowest; empty without pairs.

    ``truth`` is the true entity per record; true pairs that are not among the scored ones count as missed.
    """
    order = np.argsort(-bits, kind="stable")
    hits = np.array([truth[a] == truth[b] for a, b in zip(left, right, strict=True)], dtype=np.int64)[order]
    found = np.cumsum(hits)
    total = max(true_pair_count(truth), 1)
    ordered = bits[order]
    last = np.flatnonzero(np.append(ordered[1:] != ordered[:-1], True)) if len(ordered) else np.zeros(0, dtype=np.int64)
    return [
        CurvePoint(float(ordered[place]), float(found[place] / (place + 1)), float(found[place] / total))
        for place in last.tolist()
    ]


def recall_at_precision(points: Sequence[CurvePoint], precision: float) -> float:
    """Return the highest recall at which precision is at least ``precision``; 0 where it never is."""
    return max((point.recall for point in points if point.precision >= precision), default=0.0)
