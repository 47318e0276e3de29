"""Clustering: pairs, decisions and constraints put together into clusters."""

from .agglomerate import ClusterOutcome, Decisions, cluster_records, pairs_within_clusters
from .bonds import holding_links

__all__ = ["ClusterOutcome", "Decisions", "cluster_records", "holding_links", "pairs_within_clusters"]
