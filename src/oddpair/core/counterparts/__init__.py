"""Counterparts: which record of a register or file each row of another file means, if any."""

from .find import Asked, Found, find_counterparts
from .verdicts import VERDICTS, Counterpart, Limits, Verdict

__all__ = ["VERDICTS", "Asked", "Counterpart", "Found", "Limits", "Verdict", "find_counterparts"]
