"""Survivorship rules per field or group of fields.

A rule ranks the candidates of one unit; the unit (an address, a name) wins or loses as a whole. Ties are broken by the
source's rank, then by freshness, then by source and record id, so that the outcome never depends on order.
"""

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

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


@lru_cache(maxsize=20_000)
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


def _tidy_key(candidate: Candidate, root: str, values: Mapping[str, str]) -> str:
    """Return what makes two values of a unit count as agreeing: their tidy form, or the delivered one without."""
    below = root + "."
    tidy = [f"{name}={value}" for name, value in candidate.tidy.items() if name == root or name.startswith(below)]
    return "|".join(sorted(tidy)) or "|".join(f"{name}={value}" for name, value in sorted(values.items()))


#: A candidate with the values it holds of a unit and what makes them agree with another's.
_Held = tuple[Candidate, dict[str, str], str]


def _ranked(
    unit: str, names: Sequence[str], rule: Rule, candidates: Sequence[Candidate]
) -> tuple[list[_Held], Counter[str]]:
    """Return the candidates that hold anything of a unit, the winner first, and how many records agree on each value.

    The candidates must come in the order in which ties are broken.
    """
    held = [
        (candidate, values)
        for candidate in candidates
        if (values := {name: value for name in names if (value := candidate.values.get(name))})
    ]
    if len(held) == 1:
        # Nobody to rank against: by far the most frequent case in files with few duplicates.
        return [(*held[0], "")], Counter()
    root = unit.split(".")[0]
    filled = [(candidate, values, _tidy_key(candidate, root, values)) for candidate, values in held]
    counts = Counter(key for _, _, key in filled)

    def order(item: _Held) -> tuple[object, ...]:
        candidate, values, key = item
        # Shouting loses to ordinary writing of the same value.
        return (*rule.ranking(candidate, values, counts[key]), all(value.isupper() for value in values.values()))

    return sorted(filled, key=order), counts


def _as_ties_are_broken(candidates: Sequence[Candidate]) -> list[Candidate]:
    """Return the candidates by trust in their source, then the newest first, then by source and record id."""
    return sorted(candidates, key=lambda one: (one.rank, _descending(one.fresh), one.source, one.record))


def _unit_survivor(unit: str, names: Sequence[str], rule: Rule, candidates: Sequence[Candidate]) -> Survivor | None:
    ranked, counts = _ranked(unit, names, rule, candidates)
    if not ranked:
        return None
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
    won: _Held,
    lost: _Held,
    counts: Counter[str],
) -> str:
    if won[1] == lost[1]:
        return "the same value"
    if rule.ranking(won[0], won[1], counts[won[2]]) != rule.ranking(lost[0], lost[1], counts[lost[2]]):
        return rule.why_lost
    return "as good by the rule; the tie went to the more trusted, then newer source"


def golden_values(layout: Layout, rules: Mapping[str, str], candidates: Sequence[Candidate]) -> tuple[Survivor, ...]:
    """Return the surviving units of a golden record whose members are ``candidates``, in the layout's order."""
    in_order = _as_ties_are_broken(candidates)
    survivors = (
        _unit_survivor(unit, [field.name for field in fields], RULES[rules[unit]], in_order)
        for unit, fields in layout.groups.items()
    )
    return tuple(survivor for survivor in survivors if survivor is not None)


def golden_rows(
    layout: Layout, rules: Mapping[str, str], clusters: Iterable[Sequence[Candidate]]
) -> Iterator[dict[str, str]]:
    """Yield, per cluster, only the surviving values by field: what ``golden_values`` says without its reasons."""
    units = [(unit, [field.name for field in fields], RULES[rules[unit]]) for unit, fields in layout.groups.items()]
    for candidates in clusters:
        row: dict[str, str] = {}
        in_order = _as_ties_are_broken(candidates)
        for unit, names, rule in units:
            ranked, _ = _ranked(unit, names, rule, in_order)
            if ranked:
                row.update(ranked[0][1])
        yield row
