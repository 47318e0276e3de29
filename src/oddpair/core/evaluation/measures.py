"""Precision, recall and F1 of clusters against a truth, by pairs and by B-cubed, and of the bands of a run.

B-cubed after A. Bagga and B. Baldwin, "Entity-based cross-document coreferencing using the vector space model" (1998):
precision and recall are averaged over records, so that large clusters do not drown small ones.
"""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt


@dataclass(frozen=True, slots=True)
class Figures:
    """Precision, recall and F1, each in [0, 1]; 1 where there is nothing to get wrong."""

    precision: float
    recall: float

    @property
    def f1(self) -> float:
        """Return the harmonic mean of precision and recall."""
        total = self.precision + self.recall
        return 2 * self.precision * self.recall / total if total else 0.0


@dataclass(frozen=True, slots=True)
class PairFigures:
    """How a run's bands did: of ``true_pairs`` pairs that belong together."""

    true_pairs: int
    same: int
    same_true: int
    unsure: int
    unsure_true: int

    @property
    def same_precision(self) -> float:
        """Return the share of pairs called same that are the same."""
        return self.same_true / self.same if self.same else 1.0

    @property
    def recall_same(self) -> float:
        """Return the share of true pairs called same."""
        return self.same_true / self.true_pairs if self.true_pairs else 1.0

    @property
    def recall_with_unsure(self) -> float:
        """Return the share of true pairs called same or unsure."""
        return (self.same_true + self.unsure_true) / self.true_pairs if self.true_pairs else 1.0


def numbered(labels: Sequence[Hashable]) -> npt.NDArray[np.int64]:
    """Return the labels as numbers, in the order of first occurrence."""
    seen: dict[Hashable, int] = {}
    return np.array([seen.setdefault(label, len(seen)) for label in labels], dtype=np.int64)


def _overlaps(
    found: Sequence[Hashable], truth: Sequence[Hashable]
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Return (size of each overlap, of its found cluster, of its true cluster)."""
    one, other = numbered(found), numbered(truth)
    cells, counts = np.unique(np.stack([one, other]), axis=1, return_counts=True)
    return (
        counts.astype(np.int64),
        np.bincount(one)[cells[0]].astype(np.int64),
        np.bincount(other)[cells[1]].astype(np.int64),
    )


def true_pair_count(truth: Sequence[Hashable]) -> int:
    """Return the number of pairs of records that belong together."""
    sizes = np.bincount(numbered(truth)) if truth else np.zeros(0, dtype=np.int64)
    return int((sizes * (sizes - 1) // 2).sum())


def cluster_figures(found: Sequence[Hashable], truth: Sequence[Hashable]) -> tuple[Figures, Figures]:
    """Return (pairwise figures, B-cubed figures) of clusters given per record, against the true entity per record."""
    if not found:
        return Figures(1.0, 1.0), Figures(1.0, 1.0)
    counts, found_sizes, true_sizes = _overlaps(found, truth)
    hit = int((counts * (counts - 1) // 2).sum())
    claimed, wanted = true_pair_count(found), true_pair_count(truth)
    pairwise = Figures(hit / claimed if claimed else 1.0, hit / wanted if wanted else 1.0)
    total = len(found)
    cubed = Figures(float((counts**2 / found_sizes).sum()) / total, float((counts**2 / true_sizes).sum()) / total)
    return pairwise, cubed


def pair_figures(
    truth: Sequence[Hashable], left: Sequence[int], right: Sequence[int], verdicts: Sequence[str]
) -> PairFigures:
    """Return how pairs (record numbers) with verdicts "same" and "unsure" stand against the true entity per record."""
    counts = {"same": 0, "unsure": 0}
    hits = {"same": 0, "unsure": 0}
    for a, b, verdict in zip(left, right, verdicts, strict=True):
        counts[verdict] += 1
        hits[verdict] += truth[a] == truth[b]
    return PairFigures(true_pair_count(truth), counts["same"], hits["same"], counts["unsure"], hits["unsure"])
