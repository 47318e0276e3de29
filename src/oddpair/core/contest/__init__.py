"""The contest for partners: a record has one partner at most in a list without duplicates of its own."""

from .contest import Contest
from .one_to_one import paired_one_to_one
from .partner_left_out import OddsCurve
from .report import contest_document
from .settle import Settled, SettledScores, Twins, is_little_known, room_for_contest, settle

__all__ = [
    "Contest",
    "OddsCurve",
    "Settled",
    "SettledScores",
    "Twins",
    "contest_document",
    "is_little_known",
    "paired_one_to_one",
    "room_for_contest",
    "settle",
]
