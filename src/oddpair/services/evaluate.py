"""Measures clusters against a truth."""

from dataclasses import dataclass
from pathlib import Path

from ..core.errors import InputError
from ..core.evaluation import Figures, cluster_figures
from .match_files import read_columns


@dataclass(frozen=True, slots=True)
class Evaluation:
    """Figures of clusters against a truth, over the records that stand in both."""

    records: int
    pairwise: Figures
    b_cubed: Figures


def evaluate_clusters(clusters: Path, truth: Path) -> Evaluation:
    """Compare a clusters.csv (source, source_id, cluster_id) with a truth (source, source_id, entity)."""
    found = {
        (source, record): cluster
        for source, record, cluster in read_columns(clusters, ("source", "source_id", "cluster_id"))
    }
    rows = [row for row in read_columns(truth, ("source", "source_id", "entity")) if row[:2] in found]
    if not rows:
        raise InputError("no record of the truth stands in the clusters; do sources and ids agree?", file=truth.name)
    labels = [found[(source, record)] for source, record, _ in rows]
    pairwise, b_cubed = cluster_figures(labels, [entity for _, _, entity in rows])
    return Evaluation(len(rows), pairwise, b_cubed)
