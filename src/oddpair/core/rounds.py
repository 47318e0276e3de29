"""Rounds of matching: names are reworded by the habits that a round tells and matched again, as long as there is more to learn."""

from typing import NamedTuple

import numpy as np

from .contest import is_little_known
from .matching_round import Given, Round, Stages, match_once
from .records import RecordSet
from .wording import Rewording, WordHabit, best_of_both, find_word_habits, reworded_fields

#: How names of organisations are compared, in whose words sources have habits of their own.
_NAMES_WITH_HABITS = "organisation_name"
#: How often names are reworded and matched again, at most: what is found then may tell more habits.
_ROUNDS = 3
#: Habits of words that are told by a smaller share of the likely pairs are told, but nothing is matched again for them.
_LEAST_TOLD = 0.002


def _habits(matched: Round) -> dict[str, tuple[WordHabit, ...]]:
    """Return, per field with names of organisations, the words that sources write differently."""
    settled, sources = matched.settled, matched.records.source_codes
    likely = np.flatnonzero(matched.scorer.kept(settled.scored) & (sources[settled.left] != sources[settled.right]))
    left, right = settled.left[likely], settled.right[likely]
    best = best_of_both(left, right, settled.scored.bits[likely], sources)
    names = {rule.field for rule in matched.scorer.plan.comparisons if rule.using == _NAMES_WITH_HABITS}
    found = {name: find_word_habits(matched.records, name, left[best], right[best]) for name in sorted(names)}
    return {name: habits for name, habits in found.items() if habits}


def _are_worth_a_round(habits: Rewording, matched: Round) -> bool:
    """Whether words that sources write differently are found in enough of the likely pairs to match everything again."""
    likely = int(matched.scorer.kept(matched.settled.scored).sum())
    return sum(habit.times for found in habits.values() for habit in found) > _LEAST_TOLD * likely


class Rounds(NamedTuple):
    """The ``last`` round over tidy records, which words sources write differently, and the ``rewordings`` before each further round."""

    last: Round
    habits: tuple[WordHabit, ...]
    rewordings: tuple[Rewording, ...]


def match_in_rounds(records: RecordSet, given: Given, stages: Stages) -> Rounds:
    """Match tidy records as often as there is more to learn of their words."""
    matched = match_once(records, given, stages)
    with stages.stage("contest"):
        habits = fresh = _habits(matched)
    more = _ROUNDS if given.plan.weights.wording == "used" and is_little_known(matched.settled.scored) else 0
    rewordings: list[Rewording] = []
    while more and _are_worth_a_round(fresh, matched):
        rewordings.append(fresh)
        matched = match_once(reworded_fields(matched.records, fresh), given, stages)
        fresh = _habits(matched)
        habits = {**habits, **{name: (*habits.get(name, ()), *found) for name, found in fresh.items()}}
        more -= 1
    told = tuple(habit for found in habits.values() for habit in found)
    return Rounds(matched, told, tuple(rewordings))
