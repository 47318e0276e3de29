"""Recognition: new and changed records find their place among those that are there, by what was learned before."""

from .directory import BlockDirectory
from .learn import learn_match, match_repeatably, unlearnable
from .recognise import ByPlan, Recognised, Standing, numbers_of, recognise

__all__ = [
    "BlockDirectory", "ByPlan", "Recognised", "Standing", "learn_match", "match_repeatably", "numbers_of", "recognise", "unlearnable",
]  # fmt: skip
