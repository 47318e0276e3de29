"""Survivorship rules per field or group of fields: which values make up a golden record, and why.

A unit (an address, a name, a single field) has a chain of rules: each keeps the best of those that are left, ties go to the next. What is
left of a tie goes to the more trusted source, then to the fresher record, then by source and record id, so that the outcome never
depends on order.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from graphlib import CycleError, TopologicalSorter
from typing import NamedTuple

from ..errors import Refused, did_you_mean
from ..fields import FRESHNESS_FIELD, Field, Layout
from .chains import Chain, Outcome, settle
from .members import Contributor, Holder, Loser, Survivor, as_signed, as_ties_are_broken, holders_of
from .steps import CONSENSUS, NEWEST, SOURCE_RANK, WINNER_OF, in_words, step_document, step_from

#: Units with their chains, in an order in which each can be decided.
Rules = Mapping[str, Chain]
_LONGEST_CHAIN = 8
#: Ready-made sets of rules: the chain of every unit but the date of freshness, which is always the newest.
RULE_SETS: Mapping[str, tuple[str, ...]] = {
    "consensus": (CONSENSUS,),
    "cautious": ("valid", CONSENSUS),
    "freshest": (NEWEST, CONSENSUS),
    "most trusted first": (SOURCE_RANK, CONSENSUS),
}


def default_rules(layout: Layout, named: str = "consensus") -> dict[str, object]:
    """Return the document of a ready-made set of rules, by unit; the usual one is that of new registers."""
    chain = RULE_SETS[named]
    rules: dict[str, object] = dict.fromkeys(layout.groups, chain[0] if len(chain) == 1 else list(chain))
    rules[FRESHNESS_FIELD] = NEWEST
    return rules


def rules_from(layout: Layout, document: Mapping[str, object]) -> Rules:
    """Return the rules that a document says, complete for the layout.

    Raises Refused naming an unknown unit or rule, and units that wait for each other.
    """
    units = layout.groups
    for unit in document:
        if unit not in units:
            raise Refused(f"Survivorship: there is no field or group '{unit}'.{did_you_mean(unit, units)}")
    chains = {unit: _chain(layout, unit, given) for unit, given in {**default_rules(layout), **document}.items()}
    follows = {unit: {step.field for step in chain if step.by == WINNER_OF} for unit, chain in chains.items()}
    try:
        order = list(TopologicalSorter(follows).static_order()) if any(follows.values()) else list(chains)
    except CycleError as error:
        raise Refused(f"Survivorship: {' and '.join(error.args[1][:-1])} wait for each other to be decided.") from error
    return {unit: chains[unit] for unit in order if unit in chains}


def rules_that_fit(layout: Layout, document: Mapping[str, object]) -> dict[str, object]:
    """Return the document without what a layout has no place for: units and chains that speak of fields that are gone."""
    fitting: dict[str, object] = {}
    for unit, chain in document.items():
        try:
            rules_from(layout, {**fitting, unit: chain})
        except Refused:
            continue
        fitting[unit] = chain
    return {**default_rules(layout), **fitting}


def _chain(layout: Layout, unit: str, document: object) -> Chain:
    steps = document if isinstance(document, list | tuple) else [document]
    if not 0 < len(steps) <= _LONGEST_CHAIN:
        raise Refused(f"Survivorship of '{unit}': a chain has one to {_LONGEST_CHAIN} rules.")
    return tuple(step_from(layout, unit, step) for step in steps)


def rules_document(rules: Rules) -> dict[str, object]:
    """Return what is kept of rules: a single rule as such, a chain as a list."""
    documents = {unit: [step_document(step) for step in chain] for unit, chain in rules.items()}
    return {unit: chain[0] if len(chain) == 1 else chain for unit, chain in documents.items()}


def chain_in_words(layout: Layout, chain: Chain) -> str:
    """Return a chain in words: "valid, then consensus"."""
    return ", then ".join(in_words(layout, step) for step in chain)


def golden_values(layout: Layout, rules: Rules, contributors: Sequence[Contributor]) -> tuple[Survivor, ...]:
    """Return the surviving units of a golden record whose members are ``contributors``, in the layout's order."""
    in_order = list(map(as_signed, as_ties_are_broken(contributors)))
    groups = layout.groups
    found: dict[str, Survivor] = {}
    winners: dict[str, Contributor] = {}
    for unit, chain in rules.items():
        holders = holders_of([field.name for field in groups[unit]], in_order)
        if holders:
            outcome = settle(unit, groups[unit], chain, holders, winners)
            winners[unit] = holders[outcome.place][0]
            found[unit] = _survivor(unit, layout, chain, holders, outcome)
    return tuple(found[unit] for unit in groups if unit in found)


def _survivor(unit: str, layout: Layout, chain: Chain, holders: Sequence[Holder], outcome: Outcome) -> Survivor:
    winner = holders[outcome.place][0]
    losers = tuple(
        Loser(loser.record, loser.source, own, outcome.why(place))
        for place, (loser, own) in enumerate(holders)
        if place != outcome.place
    )
    says = outcome.says()
    if outcome.filled:
        labels = " and ".join(layout.field(name).label.lower() for name in sorted(outcome.filled))
        says += f"; {labels} from another record whose address fits"
    return Survivor(unit, outcome.values, winner.record, winner.source, chain_in_words(layout, chain), says, losers)


def golden_rows(layout: Layout, rules: Rules, clusters: Iterable[Sequence[Contributor]]) -> Iterator[dict[str, str]]:
    """Yield, per cluster, only the surviving values by field: what ``golden_values`` says without its reasons."""
    groups = layout.groups
    names = layout.names
    asked = {step.field for chain in rules.values() for step in chain if step.by == WINNER_OF}
    units = [
        _Unit(unit, groups[unit], [field.name for field in groups[unit]], chain, unit in asked)
        for unit, chain in rules.items()
    ]
    for contributors in clusters:
        if len(contributors) == 1:
            alone = as_signed(contributors[0]).values
            yield {name: alone[name] for name in names if name in alone}
        else:
            in_order = list(map(as_signed, as_ties_are_broken(contributors)))
            yield _golden_row(units, in_order, names)


class _Unit(NamedTuple):
    name: str
    fields: tuple[Field, ...]
    names: list[str]
    chain: Chain
    #: Whether another unit goes with the winner of this one.
    asked: bool


def _golden_row(
    units: Sequence[_Unit], in_order: Sequence[Contributor], names: Sequence[str]
) -> dict[str, str]:  # fmt: skip
    row: dict[str, str] = {}
    winners: dict[str, Contributor] = {}
    for unit in units:
        holders = holders_of(unit.names, in_order)
        if not holders:
            continue
        values = holders[0][1]
        # What all agree on needs no ranking: by far the most frequent case.
        if unit.asked or any(other != values for _, other in holders):
            outcome = settle(unit.name, unit.fields, unit.chain, holders, winners)
            winners[unit.name], values = holders[outcome.place][0], outcome.values
        row.update(values)
    return {name: row[name] for name in names if name in row}
