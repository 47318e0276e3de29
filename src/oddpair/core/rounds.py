"""Rounds of matching: names are reworded by the habits that a round tells and matched again, as long as there is more to learn."""

from collections.abc import Mapping, Sequence

import numpy as np

from .contest import is_little_known
from .matching_round import Given, Round, Stages, match_once
from .records import RecordSet
from .wording import WordHabit, best_of_both, find_word_habits, reworded

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


def _are_worth_a_round(habits: Mapping[str, Sequence[WordHabit]], matched: Round) -> bool:
    """Whether words that sources write differently are found in enough of the likely pairs to match everything again."""
    likely = int(matched.scorer.kept(matched.settled.scored).sum())
    return sum(habit.times for found in habits.values() for habit in found) > _LEAST_TOLD * likely


def _reworded(records: RecordSet, habits: Mapping[str, Sequence[WordHabit]]) -> RecordSet:
    for name, found in habits.items():
        records = reworded(records, name, found)
    return records


def match_in_rounds(records: RecordSet, given: Given, stages: Stages) -> tuple[Round, tuple[WordHabit, ...]]:
    """Return the last round over tidy records, and which words sources write differently."""
    matched = match_once(records, given, stages)
    with stages.stage("contest"):
        habits = fresh = _habits(matched)
    more = _ROUNDS if given.plan.weights.wording == "used" and is_little_known(matched.settled.scored) else 0
    while more and _are_worth_a_round(fresh, matched):
        matched = match_once(_reworded(matched.records, fresh), given, stages)
        fresh = _habits(matched)
        habits = {**habits, **{name: (*habits.get(name, ()), *found) for name, found in fresh.items()}}
        more -= 1
    return matched, tuple(habit for found in habits.values() for habit in found)
