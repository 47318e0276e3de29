"""The contest for partners: a record has one partner at most in a list without duplicates of its own."""

from .contest import Contest
from .settle import DecidedPairs, Settled, SettledScores, room_for_contest, settle

__all__ = ["Contest", "DecidedPairs", "Settled", "SettledScores", "room_for_contest", "settle"]
