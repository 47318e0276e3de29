"""Scoring: evidence in bits that adds up to the score of a pair."""

from .calibration import Calibration, fit_calibration
from .estimate import Decided, learn_weights
from .model import Band, Correction, ScoredPairs, Scorer, probability
from .several_values import prepare_rule
from .weights import LevelShares, shares_as_document

__all__ = [
    "Band", "Calibration", "Correction", "Decided", "LevelShares", "ScoredPairs", "Scorer", "fit_calibration", "learn_weights",
    "prepare_rule", "probability", "shares_as_document",
]  # fmt: skip
