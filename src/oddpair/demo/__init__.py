"""The demo scenario: a seeded generator of source files with errors, traps and a truth."""

from .habits import LEVELS
from .scenario import SEED, DemoFile, make_demo
from .staff import add_accounts, make_staff

__all__ = ["LEVELS", "SEED", "DemoFile", "add_accounts", "make_demo", "make_staff"]
