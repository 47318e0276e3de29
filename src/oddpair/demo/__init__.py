"""The demo scenario: a seeded generator of source files with errors, traps and a truth."""

from .scenario import SEED, DemoFile, make_demo

__all__ = ["SEED", "DemoFile", "make_demo"]
