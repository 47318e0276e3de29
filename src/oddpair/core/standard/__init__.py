"""The standard form of values: what a person would write on a letter and a machine can rely on, made from what was delivered."""

from .choices import with_regions_named, with_streets_abbreviated
from .columns import standard_columns
from .for_people import for_people
from .values import AS_DELIVERED, COUNTRY, FORMS, STANDARD, standard_values

__all__ = [
    "AS_DELIVERED", "COUNTRY", "FORMS", "STANDARD", "for_people", "standard_columns", "standard_values", "with_regions_named",
    "with_streets_abbreviated",
]  # fmt: skip
