"""Survivorship rules per field or group of fields.

A rule ranks the candidates of one unit; the unit (an address, a name) wins or loses as a whole. Ties are broken by the
source's rank, then by freshness, then by source and record id, so that the outcome never depends on order.
"""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from ..errors import Refused, did_you_mean
from ..fields import FRESHNESS_FIELD, FieldKind, Layout


@dataclass(frozen=True, slots=True)
class Candidate:
    """One member record as survivorship sees it: who delivered it, how far its source is trusted (1 is most), values."""

    record: str
    source: str
    rank: int
    fresh: str
    values: Mapping[str, str]
    tidy: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Loser:
    """A candidate that did not win, with the reason in words."""

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


def _descending(text: str) -> tuple[int, ...]:
    return tuple(-ord(letter) for letter in text) or (1,)


@dataclass(frozen=True, slots=True)
class Rule:
    """A survivorship rule: how it ranks, what it says of winners and of losers."""

    name: str
    ranking: Callable[[Candidate, Mapping[str, str], int], tuple[object, ...]]
    says: str
    why_lost: str


RULES: dict[str, Rule] = {
    rule.name: rule
    for rule in (
        Rule("source rank", lambda c, v, n: (c.rank,), "from the most trusted source", "its source is trusted less"),
        Rule("newest", lambda c, v, n: (_descending(c.fresh),), "the newest", "it is older or undated"),
        Rule("most common", lambda c, v, n: (-n,), "the one most records agree on", "fewer records agree on it"),
        Rule("longest", lambda c, v, n: (-sum(map(len, v.values())),), "the longest", "it is shorter"),
        Rule(
            "most complete",
            lambda c, v, n: (-len(v), -sum(map(len, v.values()))),
            "the most complete",
            "it is less complete",
        ),
    )
}

_DEFAULT_BY_KIND = {
    FieldKind.ORGANISATION_NAME: "most common",
    FieldKind.PERSON_NAME: "most common",
    FieldKind.ADDRESS: "most complete",
    FieldKind.PHONE: "source rank",
    FieldKind.EMAIL: "newest",
    FieldKind.WEB_SITE: "most common",
    FieldKind.IDENTIFIER: "source rank",
    FieldKind.DATE: "most common",
    FieldKind.TEXT: "newest",
}


def default_rules(layout: Layout) -> dict[str, str]:
    """Return the rule per unit that a new register starts with."""
    rules = {unit: _DEFAULT_BY_KIND.get(fields[0].kind, "source rank") for unit, fields in layout.groups.items()}
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


def _tidy_key(candidate: Candidate, unit: str, values: Mapping[str, str]) -> str:
    """Return what makes two values of a unit count as agreeing: their tidy form, or the delivered one without."""
    tidy = [
        f"{name}={value}" for name, value in sorted(candidate.tidy.items()) if name.split(".")[0] == unit.split(".")[0]
    ]
    return "|".join(tidy) or "|".join(f"{name}={value}" for name, value in sorted(values.items()))


def _unit_survivor(layout: Layout, unit: str, rule: Rule, candidates: Sequence[Candidate]) -> Survivor | None:
    names = [field.name for field in layout.groups[unit]]
    held = [
        (candidate, {name: candidate.values[name] for name in names if candidate.values.get(name)})
        for candidate in candidates
    ]
    filled = [(candidate, values, _tidy_key(candidate, unit, values)) for candidate, values in held if values]
    if not filled:
        return None
    counts = Counter(key for _, _, key in filled)

    def order(item: tuple[Candidate, dict[str, str], str]) -> tuple[object, ...]:
        candidate, values, key = item
        # Shouting loses to ordinary writing of the same value.
        shouting = all(value.upper() == value and any(map(str.isalpha, value)) for value in values.values())
        tie = (shouting, candidate.rank, _descending(candidate.fresh), candidate.source, candidate.record)
        return (*rule.ranking(candidate, values, counts[key]), *tie)

    ranked = sorted(filled, key=order)
    winner, values, winning_key = ranked[0]
    losers = tuple(
        Loser(
            candidate.record,
            candidate.source,
            lost,
            _why_lost(rule, (winner, values, winning_key), (candidate, lost, key), counts),
        )
        for candidate, lost, key in ranked[1:]
    )
    return Survivor(unit, values, winner.record, winner.source, rule.name, losers)


def _why_lost(
    rule: Rule,
    won: tuple[Candidate, dict[str, str], str],
    lost: tuple[Candidate, dict[str, str], str],
    counts: Counter[str],
) -> str:
    if won[1] == lost[1]:
        return "the same value"
    if rule.ranking(won[0], won[1], counts[won[2]]) != rule.ranking(lost[0], lost[1], counts[lost[2]]):
        return rule.why_lost
    return "as good by the rule; the tie went to the more trusted, then newer source"


def golden_values(layout: Layout, rules: Mapping[str, str], candidates: Sequence[Candidate]) -> tuple[Survivor, ...]:
    """Return the surviving units of a golden record whose members are ``candidates``, in the layout's order."""
    survivors = (_unit_survivor(layout, unit, RULES[rules[unit]], candidates) for unit in layout.groups)
    return tuple(survivor for survivor in survivors if survivor is not None)
