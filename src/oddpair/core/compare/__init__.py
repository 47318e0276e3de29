"""Comparisons by field kind: two records in, an agreement level out. The registry knows them by name."""

from .base import Comparison, Measured
from .registry import COMPARISONS, comparison

__all__ = ["COMPARISONS", "Comparison", "Measured", "comparison"]
