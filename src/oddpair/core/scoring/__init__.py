"""Scoring: evidence in bits that adds up to the score of a pair."""

from .model import Band, ScoredPairs, Scorer

__all__ = ["Band", "ScoredPairs", "Scorer"]
