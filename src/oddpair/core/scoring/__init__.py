"""Scoring: evidence in bits that adds up to the score of a pair."""

from .estimate import learn_weights
from .model import Band, ScoredPairs, Scorer, probability
from .weights import shares_as_document

__all__ = ["Band", "ScoredPairs", "Scorer", "learn_weights", "probability", "shares_as_document"]
