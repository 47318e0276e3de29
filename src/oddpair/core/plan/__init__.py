"""The match plan: how a register is matched, as a readable, versioned document."""

from .model import ComparisonRule, MatchPlan, Veto
from .text import default_plan, parse_plan, plan_to_yaml

__all__ = ["ComparisonRule", "MatchPlan", "Veto", "default_plan", "parse_plan", "plan_to_yaml"]
