"""Evaluation: figures against a truth, where true pairs were lost, and estimates from a sample of decided pairs."""

from .agreement import Agreement, agreement
from .curve import CurvePoint, curve, recall_at_precision
from .losses import KeyRecall, StageLosses, recall_by_key, stage_losses, true_pairs
from .measures import Figures, PairFigures, cluster_figures, pair_figures
from .sampling import Estimate, Quality, Stratum, decisions_needed, draw_sample, estimate_quality, f1_gained, share

__all__ = [
    "Agreement", "CurvePoint", "Estimate", "Figures", "KeyRecall", "PairFigures", "Quality", "StageLosses", "Stratum", "agreement",
    "cluster_figures", "curve", "decisions_needed", "draw_sample", "estimate_quality", "f1_gained", "pair_figures",
    "recall_at_precision", "recall_by_key", "share", "stage_losses", "true_pairs",
]  # fmt: skip
