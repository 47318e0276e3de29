"""Evaluation against a truth: pairwise and B-cubed figures, and where true pairs were lost."""

from .curve import CurvePoint, curve, recall_at_precision
from .measures import Figures, PairFigures, cluster_figures, pair_figures

__all__ = ["CurvePoint", "Figures", "PairFigures", "cluster_figures", "curve", "pair_figures", "recall_at_precision"]
