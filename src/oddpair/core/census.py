"""How common values are: counted among the records at hand, or as they were among those that a plan learned from.

What agreeing on a value tells hangs on how many others hold it. A match of a whole register counts that among its own records; when
a delivery is recognised later, it is looked up, so that a pair gets the same score whichever records happen to stand beside it.
Comparisons and blocking ask a census for whatever they count, under a name of its own. Values are known by 64-bit hashes, which stand
for no value that could be read back; what is as usual as a census takes for granted is not kept.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Protocol

import numpy as np
import numpy.typing as npt

Hashes = npt.NDArray[np.uint64]
Numbers = npt.NDArray[Any]
#: Returns the hashes of the values at some places.
HashesAt = Callable[[npt.NDArray[np.intp]], Hashes]


class Census(Protocol):
    """What comparisons and blocking ask for; ``measures`` says whether what is measured among the records at hand is looked at."""

    measures: ClassVar[bool]

    def counts(self, what: str, hashes_at: HashesAt, measured: Numbers, usual: int) -> Numbers:
        """Return how common some values are, where among the records at hand it is ``measured``; ``usual`` is what a value has that
        nobody has seen."""

    def number(self, what: str, measured: float, otherwise: float = 0.0) -> float:
        """Return a single figure, where among the records at hand it is ``measured``; ``otherwise`` where nobody had asked for it."""

    def texts(self, what: str, measured: Callable[[], Mapping[str, str]]) -> Mapping[str, str]:
        """Return what some words stand for."""


class AtHand:
    """Counts among the records at hand."""

    measures: ClassVar[bool] = True

    def counts(self, what: str, hashes_at: HashesAt, measured: Numbers, usual: int) -> Numbers:
        """Return what was measured."""
        return measured

    def number(self, what: str, measured: float, otherwise: float = 0.0) -> float:
        """Return what was measured."""
        return measured

    def texts(self, what: str, measured: Callable[[], Mapping[str, str]]) -> Mapping[str, str]:
        """Return what was measured."""
        return measured()


AT_HAND: Census = AtHand()


@dataclass(frozen=True, slots=True)
class Counted:
    """How common values are: ``hashes`` ascending, and the figure of each."""

    hashes: Hashes
    figures: Numbers

    def of(self, hashes: Hashes, usual: int) -> Numbers:
        """Return the figure of every value asked for, ``usual`` for those that are not here."""
        if not len(self.hashes):
            return np.full(len(hashes), usual, dtype=self.figures.dtype)
        places = np.minimum(np.searchsorted(self.hashes, hashes), len(self.hashes) - 1)
        return np.where(self.hashes[places] == hashes, self.figures[places], self.figures.dtype.type(usual))


@dataclass(frozen=True, slots=True)
class LearnedCensus:
    """What was counted once; it answers for any records alike."""

    measures: ClassVar[bool] = False
    tables: Mapping[str, Counted] = field(default_factory=dict)
    numbers: Mapping[str, float] = field(default_factory=dict)
    words: Mapping[str, Mapping[str, str]] = field(default_factory=dict)

    def counts(self, what: str, hashes_at: HashesAt, measured: Numbers, usual: int) -> Numbers:
        """Return how common the values were."""
        table = self.tables.get(what)
        if table is None:
            return np.full(len(measured), usual, dtype=measured.dtype)
        return table.of(hashes_at(np.arange(len(measured))), usual).astype(measured.dtype)

    def number(self, what: str, measured: float, otherwise: float = 0.0) -> float:
        """Return the figure as it was."""
        return self.numbers.get(what, otherwise)

    def texts(self, what: str, measured: Callable[[], Mapping[str, str]]) -> Mapping[str, str]:
        """Return what the words stood for."""
        return self.words.get(what, {})


class CensusTaker:
    """Counts among the records at hand, and keeps what it counted."""

    measures: ClassVar[bool] = True

    def __init__(self) -> None:
        self._tables: dict[str, Counted] = {}
        self._numbers: dict[str, float] = {}
        self._words: dict[str, Mapping[str, str]] = {}

    def counts(self, what: str, hashes_at: HashesAt, measured: Numbers, usual: int) -> Numbers:
        """Return what was measured, and keep what is not as usual."""
        telling = np.flatnonzero(measured != usual)
        hashes, first = np.unique(hashes_at(telling), return_index=True)
        self._tables[what] = Counted(hashes, measured[telling[first]])
        return measured

    def number(self, what: str, measured: float, otherwise: float = 0.0) -> float:
        """Return what was measured, and keep it."""
        self._numbers[what] = measured
        return measured

    def texts(self, what: str, measured: Callable[[], Mapping[str, str]]) -> Mapping[str, str]:
        """Return what was measured, and keep it."""
        self._words[what] = measured()
        return self._words[what]

    def taken(self) -> LearnedCensus:
        """Return all that was counted."""
        return LearnedCensus(self._tables, self._numbers, self._words)
