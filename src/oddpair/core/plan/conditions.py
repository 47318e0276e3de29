"""Conditions: verdicts by rule, beside the evidence or instead of it.

A condition is a tree of ``all``, ``any`` and ``not`` over leaves that name a comparison and the levels it may have. The
conditions of a plan are tried in order; the first that holds decides. One without ``when`` always holds.
"""

from collections.abc import Iterator
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator


class Test(BaseModel):
    """A node of the tree: exactly one of ``all``, ``any``, ``not`` or a leaf (``comparison`` with its levels ``is``)."""

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True)

    every: tuple["Test", ...] | None = Field(default=None, alias="all", min_length=1)
    some: tuple["Test", ...] | None = Field(default=None, alias="any", min_length=1)
    none: "Test | None" = Field(default=None, alias="not")
    comparison: str | None = None
    levels: tuple[str, ...] | None = Field(default=None, alias="is", min_length=1)

    @model_validator(mode="after")
    def _one_kind(self) -> "Test":
        given = [part is not None for part in (self.every, self.some, self.none, self.comparison)]
        if sum(given) != 1 or (self.comparison is None) != (self.levels is None):
            raise ValueError("say exactly one of 'all', 'any', 'not', or 'comparison' together with 'is'")
        return self


class Condition(BaseModel):
    """What follows ``then`` where the test ``when`` holds; ``title`` says it to a person."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    title: str = Field(min_length=1)
    when: Test | None = None
    then: Literal["same", "unsure", "at most unsure", "kept apart", "different"]

    @property
    def never_same(self) -> bool:
        """Whether a pair of which the condition holds is unsure at most."""
        return self.then in ("at most unsure", "kept apart")


def _leaves(test: Test) -> Iterator[Test]:
    if test.comparison is not None:
        yield test
    for inner in (*(test.every or ()), *(test.some or ()), *((test.none,) if test.none else ())):
        yield from _leaves(inner)


def condition_fields(condition: Condition) -> list[tuple[str, tuple[str, ...]]]:
    """Return the (comparison, levels) that a condition speaks of."""
    return [(leaf.comparison or "", leaf.levels or ()) for leaf in _leaves(condition.when)] if condition.when else []
