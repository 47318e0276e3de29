"""Rows with their counterparts beside them, as one table: a line per row and candidate, all columns of the row passed through."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

#: What is said of a row, in front of the columns kept of its counterpart.
SAID = ("outcome", "rank", "id", "score", "probability", "reason")
_PREFIX = "counterpart_"


@dataclass(frozen=True, slots=True)
class Candidate:
    """A candidate as it is told: its rank from 1, the record or golden record it is, score in bits, probability, reason, kept columns."""

    rank: int
    id: str
    score: float
    probability: float
    reason: str
    kept: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class CounterpartColumns:
    """The columns of the table: those of the rows as they are called, and behind them what is said and kept, under names not taken."""

    own: tuple[str, ...]
    said: Mapping[str, str]
    kept: Mapping[str, str]

    @staticmethod
    def beside(own: Sequence[str], kept: Sequence[str]) -> "CounterpartColumns":
        """Return the columns for rows with columns of their ``own``, of whose counterparts some are ``kept``."""
        taken = set(own)

        def fresh(name: str) -> str:
            chosen, number = f"{_PREFIX}{name}", 2
            while chosen in taken:
                chosen, number = f"{_PREFIX}{name}_{number}", number + 1
            taken.add(chosen)
            return chosen

        return CounterpartColumns(
            tuple(own), {name: fresh(name) for name in SAID}, {name: fresh(name) for name in kept}
        )

    @property
    def all(self) -> tuple[str, ...]:
        """Return all columns in order."""
        return *self.own, *self.said.values(), *self.kept.values()

    def lines(
        self, cells: Mapping[str, str], outcome: str, candidates: Sequence[Candidate]
    ) -> Iterator[dict[str, str]]:
        """Yield the lines of a row: one per candidate, one alone where there is none."""
        said = self.said
        if not candidates:
            yield {**cells, said["outcome"]: outcome}
        for one in candidates:
            yield {
                **cells, said["outcome"]: outcome, said["rank"]: f"{one.rank}", said["id"]: one.id,
                said["score"]: f"{one.score:.2f}", said["probability"]: f"{one.probability:.4f}", said["reason"]: one.reason,
                **{self.kept[name]: value for name, value in one.kept.items() if name in self.kept},
            }  # fmt: skip
