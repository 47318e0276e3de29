"""Clustering: pairs, decisions and constraints put together into clusters."""

from .agglomerate import ClusterOutcome, Decisions, cluster_records

__all__ = ["ClusterOutcome", "Decisions", "cluster_records"]
