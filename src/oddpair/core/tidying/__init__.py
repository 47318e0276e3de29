"""Tidying: from delivered values to tidy values, the same way for one record on a screen and for a million in a run.

First the steps that a person set up for a field (``tidy_steps``), then what its kind of value asks for (``tidiers``).
"""

from .bulk import Progress, tidy_records, tidy_row, tidy_rows
from .learned import with_what_all_teach
from .rules import tidying_rules
from .tidiers import is_placeholder, tidy_fields
from .tidy_steps import NOTHING, FieldSteps, TidySteps, prepare_row, tidy_steps_from

__all__ = [
    "NOTHING", "FieldSteps", "Progress", "TidySteps", "prepare_row", "is_placeholder", "tidy_steps_from", "tidy_fields", "tidy_records",
    "tidy_row", "tidy_rows", "tidying_rules", "with_what_all_teach",
]  # fmt: skip
