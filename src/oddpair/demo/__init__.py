"""The demo scenario: a seeded generator of source files with errors, traps and a truth."""

from .habits import LEVELS
from .scenario import SEED, DemoFile, make_demo

__all__ = ["LEVELS", "SEED", "DemoFile", "make_demo"]
