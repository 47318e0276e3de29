"""What a mapping is proposed from, and what is proposed."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class ColumnSample:
    """A delivered column: its header and some of its filled values, out of so many ``rows`` (0 where that is not known).

    ``places`` are the rows in which the values stand, where that is known.
    """

    header: str
    values: tuple[str, ...]
    rows: int = 0
    places: tuple[int, ...] = ()

    @property
    def missing(self) -> int:
        """Return how many rows have no value."""
        return max(self.rows - len(self.values), 0)

    @property
    def filled(self) -> float:
        """Return the share of rows that have a value."""
        return len(self.values) / self.rows if self.rows else 1.0

    def by_row(self) -> list[str]:
        """Return the value of every row, "" where it has none or where its place is not known."""
        values = [""] * self.rows
        for place, value in zip(self.places, self.values, strict=False):
            values[place] = value
        return values


@dataclass(frozen=True, slots=True)
class Proposal:
    """What a column is taken to be: a field name, "id", or "" for nothing; confidence in [0, 1] and the reason.

    ``label`` says which of several values of the field it holds, where the header does; ``continues`` is that of an assignment.
    """

    column: str
    target: str
    confidence: float
    reason: str
    label: str = ""
    continues: int = 0
