"""The match plan: how a register is matched, as a readable, versioned document."""

from .model import MatchPlan
from .parts import ComparisonRule, Learning, Limits, Probabilities, Related, Veto
from .passes import Pass, Scope
from .text import default_plan, parse_plan, plan_to_yaml

__all__ = [
    "ComparisonRule", "Learning", "Limits", "MatchPlan", "Pass", "Probabilities", "Related", "Scope", "Veto", "default_plan",
    "parse_plan", "plan_to_yaml",
]  # fmt: skip
