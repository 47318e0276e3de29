"""The demo scenario: a seeded generator of source files with errors, traps and a truth."""

from .scenario import DemoFile, make_demo

__all__ = ["DemoFile", "make_demo"]
