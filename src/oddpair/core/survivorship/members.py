"""What survivorship works on: members with their values, and what came of them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from .clean_values import clean_values

#: Why a contributor stands behind another where no rule decides.
LESS_TRUSTED, OLDER = "its source is trusted less", "it is older or undated"
LATER_BY_ID = "neither is better, and the first by source and id wins"


class Contributor(NamedTuple):
    """One member record as survivorship sees it: who delivered it, how far its source is trusted (1 is most), values, and its place in
    the order in which records came (0 where that is not known).
    """

    record: str
    source: str
    rank: int
    fresh: str
    values: Mapping[str, str]
    tidy: Mapping[str, str]
    arrived: int = 0


#: A contributor with the values it holds of a unit.
Holder = tuple[Contributor, dict[str, str]]


@dataclass(frozen=True, slots=True)
class Loser:
    """A contributor that did not win, with the reason in words."""

    record: str
    source: str
    values: Mapping[str, str]
    why: str


@dataclass(frozen=True, slots=True)
class Survivor:
    """The values of one unit that won, whose they are, by which rules, what decided in words, and who lost."""

    unit: str
    values: Mapping[str, str]
    record: str
    source: str
    rule: str
    says: str
    losers: tuple[Loser, ...]


@lru_cache(maxsize=20_000)
def descending(text: str) -> tuple[int, ...]:
    """Return a key by which texts sort from last to first, empty ones last of all."""
    return tuple(-ord(letter) for letter in text) or (1,)


def as_ties_are_broken(contributors: Sequence[Contributor]) -> list[Contributor]:
    """Return the contributors by trust in their source, then the newest first, then by source and record id."""
    return sorted(contributors, key=lambda one: (one.rank, descending(one.fresh), one.source, one.record))


def why_first(winner: Contributor, loser: Contributor) -> str:
    """Return in words why one contributor stands before another where nothing else decides."""
    if winner.rank != loser.rank:
        return LESS_TRUSTED
    return OLDER if winner.fresh != loser.fresh else LATER_BY_ID


def as_signed(contributor: Contributor) -> Contributor:
    """Return a contributor with its values as one would sign them."""
    clean = clean_values(contributor.values, contributor.tidy)
    return contributor if clean == contributor.values else contributor._replace(values=clean)


def holders_of(names: Sequence[str], contributors: Sequence[Contributor]) -> list[Holder]:
    """Return the contributors that hold anything of a unit, with what they hold; they are ``as_signed``."""
    if len(names) == 1:
        [name] = names
        return [(one, {name: value}) for one in contributors if (value := one.values.get(name))]
    return [
        (contributor, values)
        for contributor in contributors
        if (values := {name: value for name in names if (value := contributor.values.get(name))})
    ]


def tidy_key(contributor: Contributor, root: str, values: Mapping[str, str]) -> str:
    """Return what makes two values of a unit count as agreeing: their tidy form, or the delivered one without."""
    below = root + "."
    tidy = [f"{name}={value}" for name, value in contributor.tidy.items() if name == root or name.startswith(below)]
    return "|".join(sorted(tidy)) or "|".join(f"{name}={value}" for name, value in sorted(values.items()))
