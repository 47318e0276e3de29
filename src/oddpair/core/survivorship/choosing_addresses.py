"""Which holder's address wins by consensus, and what fills gaps in an address."""

from collections.abc import Sequence

from ..addresses import fits
from .consensus import BY_ORDER, Vote, consensus
from .held import Chosen, Held, Values, code_relation, unrelated, writing
from .support import Relation, relation

_PLACE = ("street", "number", "city", "postcode")
#: What may come from another member with the same address.
_FILLED = ("city", "postcode", "region", "country")


def choose_address(root: str, holders: Sequence[Held]) -> Chosen:
    """The address that most sources give wins; of those that are the same, the one whose parts most support, its gaps filled from them."""
    parts = [{name: held.tidy.get(f"{root}.{name}", "") for name in (*_PLACE, "country")} for held in holders]
    groups: list[list[int]] = []
    # A country alone is no address: it has no vote beside one that is.
    placed = [place for place, own in enumerate(parts) if any(own[name] for name in _PLACE)] or list(range(len(parts)))
    for place in placed:
        own = parts[place]
        group = next((known for known in groups if _same_place(own, [parts[member] for member in known])), None)
        if group is None:
            groups.append([place])
        else:
            group.append(place)
    backing = [len({holders[place].source for place in group}) for group in groups]
    whole = [max(sum(bool(parts[place][name]) for name in _PLACE) for place in group) for group in groups]
    best = max(range(len(groups)), key=lambda number: (backing[number], whole[number] > 1, -number))
    group = groups[best]
    agreed = {name: _agreed(name, [(parts[place], holders[place].source) for place in group]) for name in _PLACE}

    def standing(place: int) -> tuple[object, ...]:
        own = parts[place]
        wrong = [bool(own[name]) and own[name] != agreed[name] for name in _PLACE]
        missing = [not own[name] and bool(agreed[name]) for name in _PLACE]
        # Town and postcode can be had from another, the street with its number cannot.
        return sum(wrong[:2]), sum(missing[:2]), sum(wrong), sum(missing), *writing(holders[place].values), place

    winner = min(group, key=standing)
    others = sorted((place for place in group if place != winner), key=standing)
    filled = _filled(root, winner, others, holders, parts, agreed)
    tie = BY_ORDER if backing.count(max(backing)) > 1 else ""
    support = {
        *group,
        *(place for place in range(len(parts)) if place not in placed and _in_one_country(parts, place, winner)),
    }
    return Chosen(winner, filled, frozenset(support), tie)


def _in_one_country(parts: Sequence[Values], place: int, winner: int) -> bool:
    return parts[place]["country"] in ("", parts[winner]["country"])


def _agreed(name: str, held: Sequence[tuple[Values, str]]) -> str:
    forms = {parts[name] for parts, _ in held} - {""}
    if len(forms) < 2:
        # Nothing to vote on, by far the most frequent case.
        return next(iter(forms), "")
    votes = [Vote(parts[name], source) for parts, source in held]
    if name in ("street", "city"):
        return consensus(votes).form
    countries = {parts["country"] for parts, _ in held} - {""}

    def fitting(form: str) -> float:
        return float(name == "postcode" and any(fits(form, country) for country in countries))

    return consensus(votes, code_relation if name == "postcode" else unrelated, fitting).form


def fill_gaps(root: str, holders: Sequence[Held], winner: int) -> dict[str, str]:
    """Return the values of fields that the winner's address lacks, from the first of the others that have the same address."""
    parts = [{name: held.tidy.get(f"{root}.{name}", "") for name in (*_PLACE, "country")} for held in holders]
    if not (parts[winner]["street"] or parts[winner]["postcode"]):
        return {}
    same = [place for place in range(len(holders)) if place != winner and _is_same(parts[winner], parts[place])]
    filled: dict[str, str] = {}
    for name in _FILLED:
        field = f"{root}.{name}"
        if not holders[winner].tidy.get(field) and not holders[winner].values.get(field):
            found = next((value for place in same if (value := holders[place].values.get(field))), "")
            filled.update({field: found} if found else {})
    return filled


def _filled(
    root: str, winner: int, others: Sequence[int], holders: Sequence[Held], parts: Sequence[Values], agreed: Values
) -> dict[str, str]:
    """Return the values of fields that the winner lacks, or has with a slip, from the best of the others that hold them."""
    filled: dict[str, str] = {}
    for name in _FILLED:
        field = f"{root}.{name}"
        own = holders[winner].tidy.get(field, "")
        wanted = agreed.get(name, "")
        if own and (field not in holders[winner].values or own == wanted or not wanted):
            continue
        able = [place for place in others if holders[place].values.get(field)]
        best = [place for place in able if not wanted or parts[place][name] == wanted]
        if best:
            filled[field] = holders[best[0]].values[field]
    return filled


def _same_place(one: Values, group: Sequence[Values]) -> bool:
    return any(_is_same(one, other) for other in group)


def _is_same(one: Values, other: Values) -> bool:
    """Whether two addresses are one, as far as both are known: street, slips and abbreviations aside, house, and town or postcode."""
    if one["number"] and other["number"] and one["number"] != other["number"]:
        return False
    if one["street"] and other["street"] and not _alike(one["street"], other["street"]):
        return False
    towns = [(one[name], other[name]) for name in ("city", "postcode") if one[name] and other[name]]
    if towns:
        return any(_alike(*pair) for pair in towns)
    return bool(one["street"] and one["street"] == other["street"] and one["number"] == other["number"])


def _alike(one: str, other: str) -> bool:
    return one == other or relation(one, other) is not Relation.NONE
