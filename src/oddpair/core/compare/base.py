"""What every comparison is: a named list of agreement levels and a way to measure many pairs at once."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..records import IntArray, RecordSet

Levels = npt.NDArray[np.int8]
Bits = npt.NDArray[np.float32]

#: Level 0 of every comparison: at least one side has no value. Missing is never the same as different.
MISSING = "missing"


@dataclass(frozen=True, slots=True)
class Level:
    """An agreement level.

    ``among_same`` is how often two records of one entity, both filled, come out at this level: the m-probability before
    the data or decisions say better. At a level that ``agrees``, chance agreement depends on the value: the information
    that both share counts as evidence, less ``looseness`` bits for all the values that would have reached this level
    too. At the other levels chance is one share for all values, ``among_different`` (the u-probability) before it is
    measured on random pairs; where random pairs would mislead, it is not ``measured``, or at least ``least_different``.
    Both shares are those among pairs of which as much is ``known``: a town alone can agree or differ, but never be the
    same front door. ``differs`` says whether it tells a difference, where that is not what not agreeing means: a house number in the
    same street speaks for a pair, and is another all the same. ``brief`` is the level in a few words where its name alone does not
    say it.
    """

    name: str
    sentence: str
    among_same: float
    agrees: bool = False
    looseness: float = 0.0
    among_different: float = 0.01
    measured: bool = True
    least_different: float = 0.0
    known: str = ""
    differs: bool | None = None
    brief: str = ""

    @property
    def tells_a_difference(self) -> bool:
        """Whether a person would name what is different at this level."""
        return not self.agrees if self.differs is None else self.differs

    def in_brief(self, label: str) -> str:
        """Return the level in a few words: "same name", "other town"."""
        return (self.brief or _BRIEF.get(self.name, self.name)).format(label=label)


#: Levels that many comparisons share, in a few words.
_BRIEF = {
    "equal": "same {label}", "close": "{label} one slip apart", "similar": "similar {label}", "alike": "{label} much alike",
    "near": "{label} nearly the same", "different": "other {label}", "contradicting": "other valid {label}",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Option:
    """An option of a comparison: its default and the values it may take, as numbers in a range or as words of a list."""

    default: float | int | str
    least: float = 0.0
    most: float = 0.0
    words: tuple[str, ...] = ()

    def problem(self, value: object) -> str:
        """Return what is wrong with a value, or ""."""
        if self.words:
            return "" if value in self.words else f"must be one of {', '.join(self.words)}"
        if isinstance(value, bool) or not isinstance(value, (int, float)) or not self.least <= value <= self.most:
            return f"must be a number from {self.least:g} to {self.most:g}"
        return ""


#: The options of one comparison in a plan, defaults filled in.
Options = Mapping[str, float | int | str]


class Measured(NamedTuple):
    """Per pair the agreement ``levels`` and the information in bits that both sides ``shared`` (0 unless they agree)."""

    levels: Levels
    shared: Bits


#: Takes record numbers of the left and right sides; symmetric.
Measure = Callable[[IntArray, IntArray], Measured]


def measured_by(kernel: Callable[..., None], *data: object) -> Measure:
    """Return the measure that a kernel computes: it takes left, right and ``data``, and fills levels and shared information."""

    def measure(left: IntArray, right: IntArray) -> Measured:
        levels, shared = np.empty(len(left), dtype=np.int8), np.empty(len(left), dtype=np.float32)
        kernel(left, right, *data, levels, shared)
        return Measured(levels, shared)

    return measure


@dataclass(frozen=True, slots=True)
class Comparison:
    """A kind of comparison.

    ``levels`` names the agreement levels in order, the first always "missing". ``prepare`` takes tidy records, the field
    that the comparison is asked for and its options; it reads that field and those below it ("phone.end" of "phone").
    ``options`` are what a plan may set.
    """

    name: str
    stages: tuple[Level, ...]
    prepare: Callable[[RecordSet, str, Options], Measure]
    options: Mapping[str, Option]

    @property
    def levels(self) -> tuple[str, ...]:
        """Return the names of all levels, "missing" first."""
        return (MISSING, *(level.name for level in self.stages))

    @property
    def known(self) -> tuple[str, ...]:
        """Return, per level but "missing", what is known of the pairs that come out at it."""
        return tuple(level.known for level in self.stages)

    @property
    def sentences(self) -> dict[str, str]:
        """Return the sentence of every level but "missing"."""
        return {level.name: level.sentence for level in self.stages}

    def level_number(self, level: str) -> int:
        """Return the position of a level; raises ValueError for an unknown one."""
        return self.levels.index(level)


#: Records of a world beyond the file: in a file of five records a value seen twice is still rare.
WORLD_RECORDS = 1000
#: Of records that bear one name and share nothing else, about every other one is of an entity of its own.
_SHARE_OF_OTHERS = 0.5
#: Chance agreement with a value that no other entity is seen to hold, in entities; whole names are far rarer than numbers.
UNSEEN_ENTITIES, UNSEEN_NAMES = 0.05, 0.01


def value_information(
    holders: npt.NDArray[np.float64], total: int, most_bits: float, unseen: float = UNSEEN_ENTITIES
) -> Bits:
    """Return, per value, the bits of information in agreeing on it: -log2 of the chance that another entity holds it.

    ``holders`` says how many entities other than the pair's own are seen to hold each value, among ``total`` records.
    A value nobody else holds is not infinitely rare (I. J. Good, "The population frequencies of species", Biometrika 40,
    1953): it counts as held by a part of an entity, ``unseen``. ``most_bits`` bounds what a value of this kind can tell.
    """
    chance = np.maximum(holders, unseen) / (total + world_records(holders))
    return np.clip(-np.log2(chance), 0.0, most_bits).astype(np.float32)


def world_records(holders: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Return how many records beyond the file are reckoned with, by how many further entities are seen to hold a value.

    What nobody else holds in a file of ten records may still be rare; what many hold is common in the world too, and a value
    that all hold tells nothing.
    """
    return WORLD_RECORDS / (1.0 + holders**2)


def holders_by_records(counts: npt.NDArray[np.int64]) -> npt.NDArray[np.float64]:
    """Return how many further entities hold each value, judged by the number of its records that count."""
    return np.maximum(counts - 1, 0) * _SHARE_OF_OTHERS
