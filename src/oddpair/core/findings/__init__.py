"""Findings: records of two registers that share what they should not. They are told, never merged."""

from .find import Found, SharedThing, Side, find
from .plan import FindingsPlan, Shared, parse_findings_plan, usual_plan

__all__ = ["FindingsPlan", "Found", "Shared", "SharedThing", "Side", "find", "parse_findings_plan", "usual_plan"]
