"""Tidying: from delivered values to tidy values, the same way for one record on a screen and for a million in a run.

First the steps that a person set up for a field (``recipe``), then what its kind of value asks for (``tidiers``).
"""

from .bulk import Progress, tidy_records, tidy_row, tidy_rows
from .recipe import NOTHING, FieldSteps, Recipe, prepare_row, recipe_from
from .tidiers import tidy_fields

__all__ = [
    "NOTHING", "FieldSteps", "Progress", "Recipe", "prepare_row", "recipe_from", "tidy_fields", "tidy_records", "tidy_row",
    "tidy_rows",
]  # fmt: skip
