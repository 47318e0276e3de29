"""Clustering: pairs, decisions and constraints put together into clusters."""

from .agglomerate import ClusterOutcome, Decisions, cluster_records, pairs_within_clusters
from .awkward import Awkward, awkward_clusters
from .bonds import bridges, holding_links, order_by_closeness, recut, way_between

__all__ = [
    "Awkward", "ClusterOutcome", "Decisions", "awkward_clusters", "bridges", "cluster_records", "holding_links", "order_by_closeness",
    "pairs_within_clusters", "recut", "way_between",
]  # fmt: skip
