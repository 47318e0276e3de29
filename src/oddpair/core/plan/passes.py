"""Passes of a plan, one after the other on what is left, and the scope of each: which records meet at all."""

from datetime import datetime
from typing import Any, Literal

from pydantic import Field

from .conditions import Condition
from .parts import Blocking, Clustering, ComparisonRule, Correlated, Limits, Part, Veto

#: What came of a record in every pass is kept as one number of 63 bits, three a pass.
MOST_PASSES = 20


class Scope(Part):
    """Which records meet, besides what blocking says of sources.

    ``incoming`` pairs records that are in no golden record with those that are in one, and no others. ``since`` pairs records that
    were delivered since a moment with all. ``one_side`` and ``other_side`` name tidy fields and the values they must have: of every
    pair one record satisfies the first, the other the second. ``one_to_one`` promises that no source has duplicates of its own and
    asks for the best pairing over all; where leaving a pair out would cost fewer than ``margin`` bits, its records have *several*
    counterparts.
    """

    incoming: Literal["anything", "golden records"] = "anything"
    since: datetime | None = None
    one_side: dict[str, tuple[str, ...]] = {}
    other_side: dict[str, tuple[str, ...]] = {}
    one_to_one: bool = False
    margin: float = Field(default=3.0, ge=0, le=100)

    @property
    def leaves_records_out(self) -> bool:
        """Whether some records may meet nobody."""
        return self.incoming != "anything" or bool(self.since or self.one_side or self.other_side)


class Pass(Part):
    """One pass: what it works on, and what it does otherwise than the plan it belongs to.

    ``works_on`` says which records are compared: everything; those ``unmatched`` so far (without a *same*) with each other; those
    pairs one of which is unmatched (``one unmatched``); or those ``ambiguous`` so far (in doubt) with each other, for which
    ``further`` comparisons may bring in another column.
    """

    title: str = Field(min_length=1, max_length=80)
    works_on: Literal["everything", "unmatched", "one unmatched", "ambiguous"] = "everything"
    scope: Scope | None = None
    limits: Limits | None = None
    blocking: Blocking | None = None
    comparisons: tuple[ComparisonRule, ...] | None = Field(default=None, min_length=1)
    further: tuple[ComparisonRule, ...] = ()
    correlated: tuple[Correlated, ...] | None = None
    vetoes: tuple[Veto, ...] | None = None
    conditions: tuple[Condition, ...] | None = None
    clustering: Clustering | None = None

    def changes(self, comparisons: tuple[ComparisonRule, ...]) -> dict[str, Any]:
        """Return the parts of a plan, which has these comparisons, that this pass replaces."""
        own = {name: getattr(self, name) for name in _REPLACED if getattr(self, name) is not None}
        compared = (self.comparisons or comparisons) + self.further
        return {**own, "title": self.title, "comparisons": compared, "passes": ()}


_REPLACED = ("scope", "limits", "blocking", "correlated", "vetoes", "conditions", "clustering")
