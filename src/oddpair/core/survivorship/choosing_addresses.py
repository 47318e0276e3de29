"""Which holder's address wins by consensus, and what fills gaps in an address."""

from collections.abc import Callable, Sequence

from ..addresses import fits, standard_town, words_of_addresses
from ..text.tables import phrase
from .consensus import BY_ORDER, Vote, consensus
from .held import Chosen, Held, Values, code_relation, spelling, unrelated, writing
from .support import Relation, relation

_PLACE = ("street", "number", "city", "postcode")
#: Fewer letters make a short form.
_LEAST_ODD = 5
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
        line = holders[place].values.get(f"{root}.line", "")
        wrong = [bool(own[name]) and own[name] != agreed[name] for name in _PLACE]
        missing = [not own[name] and bool(agreed[name]) for name in _PLACE]
        # Town and postcode can be had from another, the street with its number cannot.
        return (
            sum(wrong[:2]),
            sum(missing[:2]),
            sum(wrong),
            sum(missing),
            _odd_words(line, own["street"]),
            *writing(holders[place].values),
            place,
        )

    winner = min(group, key=standing)
    others = sorted((place for place in group if place != winner), key=standing)
    beside = [place for place in range(len(parts)) if place not in group and _complete(parts[winner], parts[place])]
    nearby = [place for place in range(len(parts)) if place not in group and _in_one_town(parts[winner], parts[place])]
    filled = _filled(root, winner, others, [*beside, *nearby], holders, parts, agreed) | _street_beside(
        root, winner, [*others, *beside], holders
    )
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
    root: str, winner: int, others: Sequence[int], beside: Sequence[int], holders: Sequence[Held], parts: Sequence[Values],
    agreed: Values,
) -> dict[str, str]:  # fmt: skip
    """Return the values of fields that the winner lacks, or has with a slip, from the best of the others that hold them; what none of
    them has comes from those ``beside`` them: that the address says nothing against, or that have its postcode.
    """
    filled: dict[str, str] = {}
    for name in _FILLED:
        field = f"{root}.{name}"
        wanted = agreed.get(name, "")

        def writes(place: int, name: str = name, field: str = field, wanted: str = wanted) -> bool:
            """Whether a holder writes what was agreed on, also where parsing had to mend it."""
            own = parts[place].get(name, "")
            return own == wanted and (name != "city" or standard_town(holders[place].values[field]) == wanted)

        is_told = field in holders[winner].values
        if is_told and not wanted:
            continue
        able = [place for place in others if holders[place].values.get(field)]
        best = [place for place in able if not wanted or writes(place)]
        if is_told and writes(winner):
            if name != "city":
                continue
            best = _most_told(field, [winner, *best], holders, _spelled)
            if winner in best:
                continue
        if not best and field not in holders[winner].values:
            best = able or _most_told(field, beside, holders)
        if best:
            filled[field] = holders[best[0]].values[field]
    return filled


def _street_beside(root: str, winner: int, others: Sequence[int], holders: Sequence[Held]) -> dict[str, str]:
    """Return the street, with its number, of the first of the others that has one, where the winner has none and no box either."""
    fields = [f"{root}.{name}" for name in ("line", "number", "line2")]
    if any(field in holders[winner].values for field in fields[:2]):
        return {}
    best = next((holders[place].values for place in others if holders[place].values.get(fields[0])), {})
    return {field: best[field] for field in fields if field in best and field not in holders[winner].values}


def _odd_words(line: str, street: str) -> int:
    """Return how many longer words of a line are neither words of the street, as it was read, nor known: slips that reading mended."""
    own, known = street.split(), words_of_addresses()
    words = (word for word in phrase(line).split() if len(word) >= _LEAST_ODD and word.isalpha())
    return sum(word not in own and word not in known for word in words)


def _tidy(held: Held, field: str) -> str:
    return held.tidy.get(field, "")


def _spelled(held: Held, field: str) -> str:
    return spelling(held.values[field])


def _most_told(
    field: str, places: Sequence[int], holders: Sequence[Held], form: Callable[[Held, str], str] = _tidy
) -> list[int]:
    """Return those that hold the form of a field's value which most sources tell, in order; empty if nobody does."""
    sources: dict[str, set[str]] = {}
    told = {place: form(holders[place], field) for place in places if field in holders[place].values}
    for place, own in told.items():
        sources.setdefault(own, set()).add(holders[place].source)
    most = max(sources, key=lambda own: len(sources[own]), default="")
    return [place for place, own in told.items() if own == most]


def _in_one_town(one: Values, other: Values) -> bool:
    """Whether two addresses have one postcode, so that what lies around it is the same for both."""
    against = one["country"] and other["country"] and one["country"] != other["country"]
    return bool(one["postcode"]) and one["postcode"] == other["postcode"] and not against


def _complete(one: Values, other: Values) -> bool:
    """Whether two addresses of which each lacks what the other tells are in no part against each other."""
    return all(not (one[name] and other[name]) or _alike(one[name], other[name]) for name in (*_PLACE, "country"))


def _same_place(one: Values, group: Sequence[Values]) -> bool:
    return any(_is_same(one, other) for other in group)


def _is_same(one: Values, other: Values) -> bool:
    """Whether two addresses are one, as far as both are known: street, slips and abbreviations aside, house, and town or postcode."""
    numbered = bool(one["number"] and other["number"])
    if numbered and not _one_house(one["number"], other["number"]):
        return False
    if one["street"] and other["street"] and not _alike(one["street"], other["street"]):
        return False
    towns = [(one[name], other[name]) for name in ("city", "postcode") if one[name] and other[name]]
    if towns:
        return any(_alike(*pair) for pair in towns)
    if not (one["street"] and other["street"]):
        return False
    return numbered or (one["street"] == other["street"] and one["number"] == other["number"])


def _one_house(one: str, other: str) -> bool:
    """Whether two house numbers are one, or one of them tells a row of houses that begins or ends with the other."""
    return one == other or one in other.split("-") or other in one.split("-")


def _alike(one: str, other: str) -> bool:
    return one == other or relation(one, other) is not Relation.NONE
