"""The match plan: how a register is matched, as a readable, versioned document."""

from .model import MatchPlan
from .parts import ComparisonRule, Veto
from .passes import Pass, Scope
from .text import default_plan, parse_plan, plan_to_yaml

__all__ = ["ComparisonRule", "MatchPlan", "Pass", "Scope", "Veto", "default_plan", "parse_plan", "plan_to_yaml"]
