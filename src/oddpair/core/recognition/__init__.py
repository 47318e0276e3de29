"""Recognition: new and changed records find their place among those that are there, by what was learned before."""

from .directory import BlockDirectory
from .learn import learn_match, match_repeatably, unlearnable
from .look_up import FoundRecord, Near, asked_records, look_up
from .recognise import ByPlan, Recognised, Standing, numbers_of, recognise

__all__ = [
    "BlockDirectory", "ByPlan", "FoundRecord", "Near", "Recognised", "Standing", "asked_records", "learn_match", "look_up",
    "match_repeatably", "numbers_of", "recognise", "unlearnable",
]  # fmt: skip
