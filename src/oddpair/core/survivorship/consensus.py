"""Consensus: the value that most of those who hold one support, in whatever way they write it.

Every source has one vote for each value that it delivers. Forms that differ only in writing are one value. A form that is cut off or
abbreviated votes for the full one; a slip votes for what it is a slip of as well as for itself, so that both stand together against a
third; text added behind a name is no name. What is left of a tie goes to the more plausible letters, then by trust, freshness, source
and id, in the order in which the holders are given (``BY_ORDER``).
"""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from .plausible import plausibility
from .support import Relation, relation, slips_apart

#: What decided a tie that nothing in the values decides: the order in which the holders are given.
BY_ORDER = "the order of the holders"
_MISREAD = re.compile(r"(?<=[a-z])\d(?=[a-z])")
#: What a slip gives to the form beside it, of its own vote; a half of it where it takes two.
_LIFT = 0.5


class Vote(NamedTuple):
    """A holder's value in the form in which it is compared ("" if none), and its source."""

    form: str
    source: str


@dataclass(frozen=True, slots=True)
class Outcome:
    """The form that won, with those that stand for it, and, if it was a tie of votes, what decided."""

    form: str
    support: frozenset[str]
    tie: str = ""


def consensus(
    votes: Sequence[Vote], related: Callable[[str, str], Relation] = relation,
    likely: Callable[[str], float] = plausibility,
) -> Outcome:  # fmt: skip
    """Return the form that most support; ``related`` tells how two forms stand to each other, ``likely`` how likely one is to be no slip.

    >>> consensus([Vote("tern ropes", "a"), Vote("tern rope", "b"), Vote("tern ropes", "c")]).form
    'tern ropes'
    """
    sources: dict[str, set[str]] = {}
    for vote in votes:
        if vote.form:
            sources.setdefault(vote.form, set()).add(vote.source)
    forms = list(sources)
    if len(forms) < 2:
        return Outcome(forms[0] if forms else "", frozenset(forms))
    own = {form: float(len(held)) for form, held in sources.items()}
    stands_for = _those_that_stand_for(forms, own, related)
    strength = {form: own[form] + sum(own[other] for other in stands_for[form]) for form in forms}
    for form in forms:
        if any(form in others for others in stands_for.values()):
            # What stands for another form is no candidate of its own beside it.
            strength[form] = 0.0
    lifted = {
        form: strength[form]
        + sum(
            own[other] * _LIFT / slips_apart(form, other)
            for other in forms
            if other != form and related(form, other) is Relation.SLIP
        )
        for form in forms
    }
    best = max(lifted.values())
    tied = [form for form in forms if lifted[form] == best]
    winner, tie = tied[0], ""
    if len(tied) > 1:
        winner, tie = _of_tied(tied, related, likely)
    return Outcome(winner, frozenset((winner, *stands_for[winner])), tie)


def in_one_order(forms: Sequence[str], sources: Sequence[str], turned: Sequence[bool]) -> list[str]:
    """Return forms in which the same words stand in one order: in that of most sources, of one that is not ``turned``, or of the first.

    >>> in_one_order(["ropes tern", "tern ropes"], ["a", "b"], [True, False])
    ['tern ropes', 'tern ropes']
    """
    keys = [" ".join(sorted(form.split())) for form in forms]
    votes: dict[str, dict[str, tuple[set[str], int]]] = {}
    for key, form, source, is_turned in zip(keys, forms, sources, turned, strict=True):
        held, straight = votes.setdefault(key, {}).get(form, (set(), 0))
        votes[key][form] = held | {source}, max(straight, int(not is_turned))
    best = {key: max(orders, key=lambda form: (len(orders[form][0]), orders[form][1])) for key, orders in votes.items()}
    return [best[key] for key in keys]


def _those_that_stand_for(
    forms: Sequence[str], own: Mapping[str, float], related: Callable[[str, str], Relation]
) -> dict[str, set[str]]:
    """Return, per form, the others that stand for it."""
    found: dict[str, set[str]] = {form: set() for form in forms}
    for one in forms:
        for other in forms:
            if one == other:
                continue
            stands = related(one, other)
            if (
                stands in (Relation.SHORT_FOR, Relation.WITH_ADDED)
                or (stands is Relation.FEWER_WORDS and own[one] <= own[other])
                or (stands is Relation.MORE_WORDS and own[one] < own[other])
                or (stands is Relation.SPACES and (own[one], one.count(" ")) < (own[other], other.count(" ")))
            ):
                found[other].add(one)
    return found


def _of_tied(
    tied: Sequence[str], related: Callable[[str, str], Relation], likely: Callable[[str], float]
) -> tuple[str, str]:
    """Return (the winner of forms with as many votes, what decided)."""
    # A digit between letters is a misread letter, whatever the forms have to do with each other.
    misread = [len(_MISREAD.findall(form)) for form in tied]
    if min(misread) < max(misread):
        return tied[misread.index(min(misread))], "the others have digits between their letters"
    chances = [likely(form) for form in tied]
    best = tied[chances.index(max(chances))]
    if len(set(chances)) > 1 and all(related(best, form) is Relation.SLIP for form in tied if form != best):
        return best, "what differs from it is likelier a slip"
    return tied[0], BY_ORDER
