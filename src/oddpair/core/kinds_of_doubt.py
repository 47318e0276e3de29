"""Kinds of doubt: what speaks loudest for a pair and what it differs in, as a short code and in plain words."""

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt

from .compare import comparison
from .compare.base import Level, Levels
from .plan import ComparisonRule, MatchPlan

#: A pair that was decided on values that have changed since.
CHANGED = "changed"
#: A cluster that comes apart if one link goes, and one that holds more records than others do.
WEAK, LARGE = "weak link", "large"
_IN_WORDS = {
    CHANGED: "changed since decided",
    WEAK: "cluster: hangs on one weak link",
    LARGE: "cluster: unusually many records",
}
#: Evidence below this many bits either way is not worth a word.
TELLING_BITS = 0.75
#: Behind the bar where nothing else could be compared.
_ONLY = "only"


def kinds_of_doubt(plan: MatchPlan, levels: Levels, bits: npt.NDArray[np.float32]) -> list[str]:
    """Return the kind of every pair (columns of ``levels`` and ``bits``): "name=equal|address=other town".

    In front stands the comparison that speaks loudest for the pair, of those that find nothing different; behind it the one that
    speaks loudest against it, or else the weakest that finds a difference although it speaks for the pair. "only" stands behind where
    nothing else could be compared. Equally loud ones give way to the first.
    """
    kinds = [comparison(rule.using) for rule in plan.comparisons]
    width = max(len(kind.levels) for kind in kinds)
    differs = np.zeros((len(kinds), width), dtype=np.bool_)
    for row, kind in enumerate(kinds):
        differs[row, 1 : len(kind.levels)] = [stage.tells_a_difference for stage in kind.stages]
    rows = np.arange(len(kinds))[:, None]
    different = differs[rows, levels]
    fors = np.where(different, -np.inf, bits)
    one = np.where(fors.max(axis=0) >= TELLING_BITS, fors.argmax(axis=0), -1)
    against = np.where(different | (bits <= -TELLING_BITS), bits, np.inf)
    other = np.where(np.isfinite(against.min(axis=0)), against.argmin(axis=0), -1)
    alone = (other < 0) & ((levels > 0).sum(axis=0) == 1)
    places = np.arange(levels.shape[1])
    level_one, level_other = levels[one, places].astype(np.int64), levels[other, places].astype(np.int64)
    codes = (((one + 1) * width + level_one * (one >= 0)) * (len(kinds) + 1) + other + 1) * width
    codes = (codes + level_other * (other >= 0)) * 2 + alone
    _, examples, which = np.unique(codes, return_index=True, return_inverse=True)

    def side(place: int, level: int) -> str:
        return f"{plan.comparisons[place].name}={kinds[place].levels[level]}" if place >= 0 else ""

    said = [
        f"{side(one[pair], level_one[pair])}|{_ONLY if alone[pair] else side(other[pair], level_other[pair])}"
        for pair in examples.tolist()
    ]
    return [said[number] for number in which.tolist()]


def doubt_in_words(kind: str, plan: MatchPlan) -> str:
    """Return a kind of doubt as a person says it: "same name, other town"."""
    if kind in _IN_WORDS:
        return _IN_WORDS[kind]
    one, _, other = kind.partition("|")
    rules = {rule.name: rule for rule in plan.every_comparison()}
    agrees, differs = (_in_brief(text, rules) for text in (one, "" if other == _ONLY else other))
    if agrees and differs:
        return f"{agrees}, {differs}"
    if other == _ONLY:
        return f"{agrees or 'too little'}, nothing else to go by"
    return f"{agrees}, nothing against it" if agrees else differs or "little to compare"


def _in_brief(text: str, rules: Mapping[str, ComparisonRule]) -> str:
    name, _, level = text.rpartition("=") if "=" in text else (text, "", "")
    rule = rules.get(name)
    if rule is None:
        return ""
    if not level:
        # Runs of earlier versions kept the comparison alone.
        return f"about the {rule.label}"
    stages: Sequence[Level] = comparison(rule.using).stages
    return next((stage.in_brief(rule.label) for stage in stages if stage.name == level), f"{name} {level}")
