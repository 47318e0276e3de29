"""Golden records that are asked for, as a condition of a query: the list, its count and what is sent out use the same."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

#: Those in force, of the table ``golden_records g``.
IN_FORCE = "g.leads_to IS NULL AND g.withdrawn_at IS NULL"
_PINNED = "EXISTS (SELECT FROM pins p WHERE p.golden_id = g.id AND p.lifted_at IS NULL)"


@dataclass(frozen=True, slots=True)
class GoldenFilter:
    """Which golden records: of those ``found`` by words; with a record of one source, without one of another; of so many records;
    of a country; changed since a moment; with a pinned value; with an unsettled contradiction; with an empty field.
    """

    found: tuple[int, ...] | None = None
    source_id: int = 0
    without_id: int = 0
    least_members: int = 0
    most_members: int = 0
    country: str = ""
    changed_since: datetime | None = None
    pinned: bool = False
    contradictory: bool = False
    empty: str = ""

    @property
    def is_everything(self) -> bool:
        """Whether every golden record is asked for."""
        return self == GoldenFilter()

    def condition(self) -> tuple[str, dict[str, Any]]:
        """Return a condition on ``golden_records g``, in force, and its parameters."""
        parts: list[str] = [IN_FORCE]
        values: dict[str, Any] = {}
        for asked, part, parameters in (
            (self.found is not None, "g.id = ANY(CAST(:found AS bigint[]))", {"found": list(self.found or ())}),
            (self.source_id, "CAST(:source AS integer) = ANY(g.sources)", {"source": self.source_id}),
            (self.without_id, "CAST(:without AS integer) <> ALL(g.sources)", {"without": self.without_id}),
            (self.least_members, "g.size >= :least", {"least": self.least_members}),
            (self.most_members, "g.size <= :most", {"most": self.most_members}),
            (self.country, "lower(g.values->>'address.country') = lower(:country)", {"country": self.country}),
            (self.changed_since, "g.updated_at >= :since", {"since": self.changed_since}),
            (self.pinned, _PINNED, {}),
            (self.contradictory, "g.contradictions <> '{}'", {}),
            (self.empty, "coalesce(g.values->>:empty, '') = ''", {"empty": self.empty}),
        ):
            if asked:
                parts.append(part)
                values.update(parameters)
        return " AND ".join(parts), values
