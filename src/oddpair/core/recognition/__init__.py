"""Recognition: new and changed records find their place among those that are there, by what was learned before."""

from .learn import learn_match, unlearnable
from .recognise import Recognised, Standing, recognise

__all__ = ["Recognised", "Standing", "learn_match", "recognise", "unlearnable"]
