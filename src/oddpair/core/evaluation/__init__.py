"""Evaluation against a truth: pairwise and B-cubed figures, and where true pairs were lost."""

from .measures import Figures, PairFigures, cluster_figures, pair_figures

__all__ = ["Figures", "PairFigures", "cluster_figures", "pair_figures"]
