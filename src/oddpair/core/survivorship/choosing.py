"""Which holder's values win by consensus: of names, addresses, and all that is one value.

The form that most support is found first (``consensus``); then the holder that writes it best: not in capitals, with the legal form that
most give, spelled as most sources do, with accents, written out.
"""

from collections.abc import Callable, Sequence

from ..fields import FieldKind
from ..text.folding import fold, split_words
from .choosing_addresses import choose_address
from .choosing_people import choose_person_name
from .consensus import Outcome, Vote, consensus, in_one_order
from .held import (
    Chosen,
    Held,
    abbreviations,
    code_relation,
    cut_short,
    has_article,
    spelling,
    unrelated,
    writing,
)
from .plausible import plausibility

#: What is best written in small letters; all else, not in letters of one case.
IN_SMALL_LETTERS = (FieldKind.EMAIL, FieldKind.WEB_SITE)
_NEW_YEAR, _YEARS = "-01-01", ("1900", "2100")


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
        name: consensus([Vote(held.tidy.get(name, ""), held.source) for held in holders], unrelated).form
        for name in sorted(beside)
    }

    spelled = [spelling(" ".join(held.values.values())) for held in holders]
    forms = [_form(root, held) for held in holders]
    writing_it = [spelled[place] for place in writers]
    cut = dict(zip(writing_it, cut_short(writing_it), strict=True))
    articles = {has_article(spelled[place]) for place in writers}
    sources = {text: len({holders[place].source for place in writers if spelled[place] == text}) for text in spelled}

    def standing(place: int) -> tuple[object, ...]:
        held = holders[place]
        unusual = sum(held.tidy.get(name, "") != value for name, value in usual.items())
        odd, *finer = writing(held.values)
        if in_small_letters:
            odd = any(value != value.lower() for value in held.values.values())
        other_order = forms[place] != outcome.form
        return (
            other_order,
            cut[spelled[place]],
            sum(map(abbreviations, held.values.values())),
            unusual,
            len(articles) > 1 and has_article(spelled[place]),
            -sources[spelled[place]],
            odd,
            *finer,
            place,
        )

    return Chosen(min(writers, key=standing), {}, support, outcome.tie)


def _form(root: str, held: Held) -> str:
    return held.tidy.get(root, "") or fold(" ".join(held.values.values()))


def _choose_value(root: str, holders: Sequence[Held]) -> Chosen:
    sources = [held.source for held in holders]
    # "Ropes, Tern Ltd" is turned round.
    turned = ["," in "".join(held.values.values()) for held in holders]
    votes = list(map(Vote, in_one_order([_form(root, held) for held in holders], sources, turned), sources))
    return _of_one_kind(root, holders, votes, consensus(votes))


def _choose_code(root: str, holders: Sequence[Held]) -> Chosen:
    valid = {held.tidy.get(f"{root}.checked", "") for held in holders} - {""}
    votes = [Vote(_form(root, held), held.source) for held in holders]
    return _of_one_kind(root, holders, votes, consensus(votes, code_relation, lambda form: float(form in valid)))


def _choose_mailbox(root: str, holders: Sequence[Held]) -> Chosen:
    votes = [Vote(_form(root, held), held.source) for held in holders]
    outcome = consensus(votes, code_relation, lambda form: plausibility(" ".join(split_words(form))))
    return _of_one_kind(root, holders, votes, outcome, in_small_letters=True)


def is_remembered(date: str) -> bool:
    """Whether an ISO date is one that somebody may remember: of our times, and not the first of January, with which gaps are filled."""
    return _YEARS[0] <= date[:4] <= _YEARS[1] and not date.endswith(_NEW_YEAR)


def _choose_date(root: str, holders: Sequence[Held]) -> Chosen:
    """Dates of no year that anybody remembers, and the first of January, with which systems fill gaps, count where there is no other."""
    forms = [_form(root, held) for held in holders]
    known = {form for form in forms if is_remembered(form)} or set(forms)
    votes = [Vote(form if form in known else "", held.source) for form, held in zip(forms, holders, strict=True)]
    return _of_one_kind(root, holders, votes, consensus(votes, code_relation, lambda form: 0.0))


_WAYS: dict[FieldKind, Callable[[str, Sequence[Held]], Chosen]] = {
    FieldKind.PERSON_NAME: choose_person_name,
    FieldKind.ADDRESS: choose_address,
    FieldKind.PHONE: _choose_code,
    FieldKind.EMAIL: _choose_mailbox,
    FieldKind.WEB_SITE: _choose_mailbox,
    FieldKind.IDENTIFIER: _choose_code,
    FieldKind.DATE: _choose_date,
    FieldKind.POSTCODE: _choose_code,
}
