"""Which holder's values win by consensus: of names, addresses, and all that is one value.

The form that most support is found first (``consensus``); then the holder that writes it best: not in capitals, with the legal form that
most give, with accents, written out.
"""

from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple

from ..addresses import fits
from ..fields import FieldKind
from ..organisations import legal_form_words
from ..people import given_name_forms
from ..text.folding import fold, split_words
from .consensus import Outcome, Vote, consensus
from .plausible import plausibility
from .support import Relation, relation, slips_apart

Values = Mapping[str, str]
_LONGEST_CODE_SLIP = 1
#: What is best written in small letters; all else, not in letters of one case.
IN_SMALL_LETTERS = (FieldKind.EMAIL, FieldKind.WEB_SITE)
_LEAST_ABBREVIATED = 3
_NEW_YEAR, _YEARS = "-01-01", ("1900", "2100")


class Held(NamedTuple):
    """What a member holds of a unit: its source, the delivered values of the unit, and all tidy values of the member."""

    source: str
    values: Values
    tidy: Values


class Chosen(NamedTuple):
    """The place of the holder that won, gaps in its values filled from others of the same value, the places of all whose values are the
    same or stand for it, and, if it was a tie of votes, what decided.
    """

    place: int
    filled: Values
    support: frozenset[int]
    tie: str


def choose(unit: str, kind: FieldKind, holders: Sequence[Held]) -> Chosen:
    """Return whose values of a unit win.

    ``holders`` are in the order in which ties are broken, ``kind`` is that of the unit's first field.
    """
    root = unit.split(".")[0] if kind in (FieldKind.ADDRESS, FieldKind.PERSON_NAME) else unit
    return _WAYS.get(kind, _choose_value)(root, holders)


def _of_one_kind(
    root: str, holders: Sequence[Held], votes: Sequence[Vote], outcome: Outcome, in_small_letters: bool = False
) -> Chosen:  # fmt: skip
    """Return the holder that writes the winning form best."""
    writers = [place for place, vote in enumerate(votes) if vote.form == outcome.form]
    support = frozenset(place for place, vote in enumerate(votes) if vote.form in outcome.support)
    if len(writers) == 1:
        return Chosen(writers[0], {}, support, outcome.tie)
    beside = {name for held in holders for name in (f"{root}.legal_form", f"{root}.sites") if name in held.tidy}
    usual = {
        name: consensus([Vote(held.tidy.get(name, ""), held.source) for held in holders], _unrelated).form
        for name in sorted(beside)
    }

    def writing(place: int) -> tuple[object, ...]:
        held = holders[place]
        unusual = sum(held.tidy.get(name, "") != value for name, value in usual.items())
        odd, *finer = _writing(held.values)
        if in_small_letters:
            odd = any(value != value.lower() for value in held.values.values())
        return (sum(map(abbreviations, held.values.values())), unusual, odd, *finer, place)

    return Chosen(min(writers, key=writing), {}, support, outcome.tie)


@lru_cache(maxsize=50_000)
def abbreviations(text: str) -> int:
    """Return how many words of a text are cut short with a stop behind them, legal forms aside ("Noonan Mar. Paints")."""
    return sum(
        token.endswith(".") and token[:-1].isalpha() and len(token) > _LEAST_ABBREVIATED
        and fold(token[:-1]) not in legal_form_words()
        for token in text.split()
    ) if "." in text else 0  # fmt: skip


def _writing(values: Values) -> tuple[bool, int, int]:
    """Return by what ways to write a value are ranked, the best first: ordinary letters, accents, written out."""
    return _writing_of(" ".join(values.values()))


@lru_cache(maxsize=50_000)
def _writing_of(text: str) -> tuple[bool, int, int]:
    # Letters of one case only: no capital among them, or no small one.
    return (text == text.upper()) != (text == text.lower()), len(text.encode("ascii", "ignore")) - len(text), -len(text)


def _unrelated(one: str, other: str) -> Relation:
    return Relation.NONE


def _code_relation(one: str, other: str) -> Relation:
    """Return how codes (phones, numbers, dates, mailboxes) stand to each other: one mark apart, or without what stands in front."""
    if one.endswith(other) or other.endswith(one):
        return Relation.SHORT_FOR if len(one) < len(other) else Relation.LONG_FORM_OF
    return Relation.SLIP if slips_apart(one, other) <= _LONGEST_CODE_SLIP else Relation.NONE


def _form(root: str, held: Held) -> str:
    return held.tidy.get(root, "") or fold(" ".join(held.values.values()))


def _choose_value(root: str, holders: Sequence[Held]) -> Chosen:
    votes = [Vote(_form(root, held), held.source) for held in holders]
    return _of_one_kind(root, holders, votes, consensus(votes))


def _choose_code(root: str, holders: Sequence[Held]) -> Chosen:
    valid = {held.tidy.get(f"{root}.checked", "") for held in holders} - {""}
    votes = [Vote(_form(root, held), held.source) for held in holders]
    return _of_one_kind(root, holders, votes, consensus(votes, _code_relation, lambda form: float(form in valid)))


def _choose_mailbox(root: str, holders: Sequence[Held]) -> Chosen:
    votes = [Vote(_form(root, held), held.source) for held in holders]
    outcome = consensus(votes, _code_relation, lambda form: plausibility(" ".join(split_words(form))))
    return _of_one_kind(root, holders, votes, outcome, in_small_letters=True)


def _choose_date(root: str, holders: Sequence[Held]) -> Chosen:
    """Dates of no year that anybody remembers, and the first of January, with which systems fill gaps, count where there is no other."""
    forms = [_form(root, held) for held in holders]
    known = {form for form in forms if _YEARS[0] <= form[:4] <= _YEARS[1] and not form.endswith(_NEW_YEAR)} or set(
        forms
    )
    votes = [Vote(form if form in known else "", held.source) for form, held in zip(forms, holders, strict=True)]
    return _of_one_kind(root, holders, votes, consensus(votes, _code_relation, lambda form: 0.0))


def _choose_person_name(root: str, holders: Sequence[Held]) -> Chosen:
    """Given and family names are voted on apart; the holder with both wins, and the one that tells them apart of several."""
    parts = [(held.tidy.get(f"{root}.given", ""), held.tidy.get(f"{root}.family", "")) for held in holders]
    straight = [_straight(own, parts) for own in parts]
    given = consensus([Vote(one, held.source) for (one, _), held in zip(straight, holders, strict=True)])
    family = consensus([Vote(one, held.source) for (_, one), held in zip(straight, holders, strict=True)])

    def standing(place: int) -> tuple[object, ...]:
        own, held = straight[place], holders[place]
        is_swapped = own != parts[place]
        apart = sum(name in held.values for name in (f"{root}.given", f"{root}.family"))
        right = own[1] == family.form, own[0] == given.form
        first_given = own[0].split(" ")[0] == given.form.split(" ")[0]
        length = len(" ".join(held.values.values()))
        return (
            is_swapped,
            -sum(right),
            not right[0],
            not first_given,
            *_writing(held.values)[:2],
            -apart,
            -length,
            place,
        )

    winner = min(range(len(holders)), key=standing)
    support = frozenset(
        place for place, own in enumerate(straight)
        if own[0] in (given.support | {""}) and own[1] in (family.support | {""})
    )  # fmt: skip
    return Chosen(winner, {}, support, family.tie or given.tie)


def _straight(own: tuple[str, str], parts: Sequence[tuple[str, str]]) -> tuple[str, str]:
    """Return (given, family) of a member; swapped where most others have it so or, on a tie, where the family name is a given one."""
    swapped = (own[1], own[0])
    as_it_is, otherwise = parts.count(own), parts.count(swapped)
    known = given_name_forms()
    likelier = own[1] in known and own[0] not in known
    return swapped if otherwise > as_it_is or (otherwise == as_it_is and likelier) else own


_PLACE = ("street", "number", "city", "postcode")


def _choose_address(root: str, holders: Sequence[Held]) -> Chosen:
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
        return sum(wrong[:2]), sum(missing[:2]), sum(wrong), sum(missing), *_writing(holders[place].values), place

    winner = min(group, key=standing)
    others = sorted((place for place in group if place != winner), key=standing)
    filled = _filled(root, winner, others, holders, parts, agreed)
    tie = "the tie went to the more trusted, then newer source" if backing.count(max(backing)) > 1 else ""
    support = {
        *group,
        *(place for place in range(len(parts)) if place not in placed and _in_one_country(parts, place, winner)),
    }
    return Chosen(winner, filled, frozenset(support), tie)


def _in_one_country(parts: Sequence[Values], place: int, winner: int) -> bool:
    return parts[place]["country"] in ("", parts[winner]["country"])


def _agreed(name: str, held: Sequence[tuple[Values, str]]) -> str:
    votes = [Vote(parts[name], source) for parts, source in held]
    if name in ("street", "city"):
        return consensus(votes).form
    countries = {parts["country"] for parts, _ in held} - {""}

    def fitting(form: str) -> float:
        return float(name == "postcode" and any(fits(form, country) for country in countries))

    return consensus(votes, _code_relation if name == "postcode" else _unrelated, fitting).form


def _filled(
    root: str, winner: int, others: Sequence[int], holders: Sequence[Held], parts: Sequence[Values], agreed: Values
) -> dict[str, str]:
    """Return the values of fields that the winner lacks, or has with a slip, from the best of the others that hold them."""
    filled: dict[str, str] = {}
    for name in ("city", "postcode", "region", "country"):
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


_WAYS: dict[FieldKind, Callable[[str, Sequence[Held]], Chosen]] = {
    FieldKind.PERSON_NAME: _choose_person_name,
    FieldKind.ADDRESS: _choose_address,
    FieldKind.PHONE: _choose_code,
    FieldKind.EMAIL: _choose_mailbox,
    FieldKind.WEB_SITE: _choose_mailbox,
    FieldKind.IDENTIFIER: _choose_code,
    FieldKind.DATE: _choose_date,
    FieldKind.POSTCODE: _choose_code,
}
