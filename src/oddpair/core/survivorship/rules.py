"""Survivorship rules per field or group of fields.

A rule ranks the contributors of one unit; the unit (an address, a name) wins or loses as a whole. Ties are broken by the
source's rank, then by freshness, then by source and record id, so that the outcome never depends on order.
"""

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from ..errors import Refused, did_you_mean
from ..fields import FRESHNESS_FIELD, Field, FieldKind, Layout
from ..tidying import is_placeholder
from .choosing import Chosen, Held, choose


class Contributor(NamedTuple):
    """One member record as survivorship sees it: who delivered it, how far its source is trusted (1 is most), values."""

    record: str
    source: str
    rank: int
    fresh: str
    values: Mapping[str, str]
    tidy: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Loser:
    """A contributor that did not win, with the reason in words."""

    record: str
    source: str
    values: Mapping[str, str]
    why: str


@dataclass(frozen=True, slots=True)
class Survivor:
    """The values of one unit that won, whose they are, by which rule, and who lost."""

    unit: str
    values: Mapping[str, str]
    record: str
    source: str
    rule: str
    losers: tuple[Loser, ...]


@lru_cache(maxsize=20_000)
def descending(text: str) -> tuple[int, ...]:
    """Return a key by which texts sort from last to first, empty ones last of all."""
    return tuple(-ord(letter) for letter in text) or (1,)


@dataclass(frozen=True, slots=True)
class Rule:
    """A survivorship rule: how it ranks, what it says of winners and of losers."""

    name: str
    ranking: Callable[[Contributor, Mapping[str, str], int], tuple[object, ...]]
    says: str
    why_lost: str
    #: Whether it asks how many records agree on a value, which takes longer to find out than all else.
    counts: bool = False


#: Agreement in whatever writing counts: see ``consensus``; the others rank the holders of a value one by one.
CONSENSUS = "consensus"
RULES: dict[str, Rule] = {
    rule.name: rule
    for rule in (
        Rule(CONSENSUS, lambda c, v, n: (), "what most sources support", "fewer sources support it"),
        Rule("source rank", lambda c, v, n: (c.rank,), "from the most trusted source", "its source is trusted less"),
        Rule("newest", lambda c, v, n: (descending(c.fresh),), "the newest", "it is older or undated"),
        Rule(
            "most common",
            lambda c, v, n: (-n,),
            "the one most records agree on",
            "fewer records agree on it",
            counts=True,
        ),
        Rule("longest", lambda c, v, n: (-sum(map(len, v.values())),), "the longest", "it is shorter"),
        Rule(
            "most complete",
            lambda c, v, n: (-len(v), -sum(map(len, v.values()))),
            "the most complete",
            "it is less complete",
        ),
    )
}


def default_rules(layout: Layout) -> dict[str, str]:
    """Return the rule per unit that a new register starts with."""
    rules = dict.fromkeys(layout.groups, CONSENSUS)
    rules[FRESHNESS_FIELD] = "newest"
    return rules


def validate_rules(layout: Layout, rules: Mapping[str, str]) -> dict[str, str]:
    """Return complete rules for the layout; raise Refused naming an unknown unit or rule."""
    units = layout.groups
    for unit, rule in rules.items():
        if unit not in units:
            raise Refused(f"Survivorship: there is no field or group '{unit}'.{did_you_mean(unit, units)}")
        if rule not in RULES:
            raise Refused(f"Survivorship of '{unit}': there is no rule '{rule}'.{did_you_mean(rule, RULES)}")
    return {**default_rules(layout), **rules}


def _tidy_key(contributor: Contributor, root: str, values: Mapping[str, str]) -> str:
    """Return what makes two values of a unit count as agreeing: their tidy form, or the delivered one without."""
    below = root + "."
    tidy = [f"{name}={value}" for name, value in contributor.tidy.items() if name == root or name.startswith(below)]
    return "|".join(sorted(tidy)) or "|".join(f"{name}={value}" for name, value in sorted(values.items()))


#: A contributor with the values it holds of a unit.
_Holder = tuple[Contributor, dict[str, str]]


def _holders(names: Sequence[str], contributors: Iterable[Contributor]) -> list[_Holder]:
    """Return the contributors that hold anything of a unit, with what they hold."""
    return [
        (contributor, values)
        for contributor in contributors
        if (
            values := {
                name: value for name in names if (value := contributor.values.get(name)) and not is_placeholder(value)
            }
        )
    ]


def _standings(unit: str, rule: Rule, holders: Sequence[_Holder]) -> list[tuple[object, ...]]:
    """Return, per holder, what it is ranked by, the least first; the last element sets shouting behind ordinary writing."""
    agreeing = [0] * len(holders)
    if rule.counts:
        root = unit.split(".")[0]
        keys = [_tidy_key(contributor, root, values) for contributor, values in holders]
        counts = Counter(keys)
        agreeing = [counts[key] for key in keys]
    return [
        (*rule.ranking(contributor, values, count), all(value.isupper() for value in values.values()))
        for (contributor, values), count in zip(holders, agreeing, strict=True)
    ]


def _as_ties_are_broken(contributors: Sequence[Contributor]) -> list[Contributor]:
    """Return the contributors by trust in their source, then the newest first, then by source and record id."""
    return sorted(contributors, key=lambda one: (one.rank, descending(one.fresh), one.source, one.record))


def _chosen(unit: str, kind: FieldKind, holders: Sequence[_Holder]) -> tuple[Chosen, dict[str, str]]:
    """Return (what consensus chose, the values of the holder that won with gaps filled)."""
    chosen = choose(unit, kind, [Held(contributor.source, values, contributor.tidy) for contributor, values in holders])
    return chosen, {**holders[chosen.place][1], **chosen.filled}


def _by_consensus(unit: str, kind: FieldKind, holders: Sequence[_Holder]) -> Survivor:
    chosen, values = _chosen(unit, kind, holders)
    winner = holders[chosen.place][0]
    root = unit.split(".")[0]
    key = _tidy_key(winner, root, values)
    outvoted = f"{len(chosen.support)} of {len(holders)} records support what won"

    def why(place: int) -> str:
        loser, own = holders[place]
        if own == values:
            return "the same value"
        if _tidy_key(loser, root, own) == key:
            return "the same, written otherwise"
        if place in chosen.support:
            return "agrees, but for slips or gaps"
        return f"{outvoted}; {chosen.tie}" if chosen.tie else outvoted

    losers = tuple(
        Loser(loser.record, loser.source, own, why(place))
        for place, (loser, own) in enumerate(holders) if place != chosen.place
    )  # fmt: skip
    return Survivor(unit, values, winner.record, winner.source, CONSENSUS, losers)


def _unit_survivor(
    unit: str, fields: Sequence[Field], rule: Rule, contributors: Sequence[Contributor]
) -> Survivor | None:
    holders = _holders([field.name for field in fields], contributors)
    if not holders:
        return None
    if rule.name == CONSENSUS:
        return _by_consensus(unit, fields[0].kind, holders)
    standings = _standings(unit, rule, holders)
    first, *others = sorted(range(len(holders)), key=standings.__getitem__)
    winner, values = holders[first]
    losers = []
    for place in others:
        loser, lost = holders[place]
        why = "the same value" if lost == values else _why_lost(rule, standings[first], standings[place])
        losers.append(Loser(loser.record, loser.source, lost, why))
    return Survivor(unit, values, winner.record, winner.source, rule.name, tuple(losers))


def _why_lost(rule: Rule, won: tuple[object, ...], lost: tuple[object, ...]) -> str:
    if won[:-1] != lost[:-1]:
        return rule.why_lost
    return "as good by the rule; the tie went to the more trusted, then newer source"


def golden_values(
    layout: Layout, rules: Mapping[str, str], contributors: Sequence[Contributor]
) -> tuple[Survivor, ...]:
    """Return the surviving units of a golden record whose members are ``contributors``, in the layout's order."""
    in_order = _as_ties_are_broken(contributors)
    survivors = (_unit_survivor(unit, fields, RULES[rules[unit]], in_order) for unit, fields in layout.groups.items())
    return tuple(survivor for survivor in survivors if survivor is not None)


def golden_rows(
    layout: Layout, rules: Mapping[str, str], clusters: Iterable[Sequence[Contributor]]
) -> Iterator[dict[str, str]]:
    """Yield, per cluster, only the surviving values by field: what ``golden_values`` says without its reasons."""
    units = [
        (unit, fields[0].kind, [field.name for field in fields], RULES[rules[unit]])
        for unit, fields in layout.groups.items()
    ]
    every = [name for _, _, names, _ in units for name in names]
    for contributors in clusters:
        if len(contributors) == 1:
            alone = contributors[0].values
            yield {name: value for name in every if (value := alone.get(name)) and not is_placeholder(value)}
            continue
        row: dict[str, str] = {}
        in_order = _as_ties_are_broken(contributors)
        for unit, kind, names, rule in units:
            holders = _holders(names, in_order)
            if not holders:
                continue
            values = holders[0][1]
            # What all agree on needs no ranking: by far the most frequent case.
            if rule.name == CONSENSUS and any(other != values for _, other in holders):
                values = _chosen(unit, kind, holders)[1]
            elif any(other != values for _, other in holders):
                standings = _standings(unit, rule, holders)
                values = holders[min(range(len(holders)), key=standings.__getitem__)][1]
            row.update(values)
        yield row
