"""Which holder's name of a person wins by consensus."""

from collections.abc import Sequence

from ..people import given_name_forms
from .consensus import Vote, consensus
from .held import Chosen, Held, spelling, writing


def choose_person_name(root: str, holders: Sequence[Held]) -> Chosen:
    """Given and family names are voted on apart; the holder with both wins, and the one that tells them apart of several."""
    parts = [(held.tidy.get(f"{root}.given", ""), held.tidy.get(f"{root}.family", "")) for held in holders]
    straight = [_straight(own, parts) for own in parts]
    given = consensus([Vote(one, held.source) for (one, _), held in zip(straight, holders, strict=True)])
    family = consensus([Vote(one, held.source) for (_, one), held in zip(straight, holders, strict=True)])

    spelled = [" ".join(sorted(spelling(" ".join(held.values.values())).split())) for held in holders]
    sources = {
        text: len({held.source for other, held in zip(spelled, holders, strict=True) if other == text})
        for text in spelled
    }

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
            -sources[spelled[place]],
            *writing(held.values)[:2],
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
