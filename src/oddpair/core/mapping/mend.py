"""A look at all proposals of a file together: parts of names beside each other, names that are missing, rows that would be lost."""

from collections.abc import Sequence
from dataclasses import replace

from ..fields import Layout, RegisterKind
from .contents import FIT, is_given_name, is_name_like, looks_like_organisation, share, words_per_value
from .cut_names import widths_of_names
from .samples import ColumnSample, Proposal

#: A column of one name only has hardly more words than this a value.
_MOST_WORDS_OF_ONE_NAME = 1.4
_LEAST_GIVEN_NAMES, _LEAST_NAME_LIKE = 0.3, 0.8
#: A name column with fewer values than this loses so many rows that another one is looked for.
_LEAST_FILLED_NAME = 0.8
_MOST_ORGANISATIONS_AMONG_PEOPLE = 0.3


def mended(layout: Layout, samples: Sequence[ColumnSample], proposals: Sequence[Proposal]) -> list[Proposal]:
    """Return the proposals with what they leave wrong together put right."""
    mending = list(proposals)
    employers: set[int] = set()
    if layout.kind is RegisterKind.PERSON:
        _read_as_parts(samples, mending)
        employers = _without_employers(samples, mending)
    _with_a_name(layout, samples, mending, employers)
    _without_lone_numbers(mending)
    _continuing(samples, mending)
    return mending


def _place_of(target: str, proposals: Sequence[Proposal]) -> int | None:
    return next((place for place, item in enumerate(proposals) if item.target == target), None)


def _read_as_parts(samples: Sequence[ColumnSample], proposals: list[Proposal]) -> None:
    """Read a column called *name* as the missing part beside the other one: *Prénom* and *Nom*, *Nombre* and *Apellidos*."""
    place = _place_of("name", proposals)
    given, family = (_place_of(part, proposals) for part in ("name.given", "name.family"))
    if place is None or (given is None) == (family is None):
        return
    missing = "name.family" if family is None else "name.given"
    if missing == "name.given" or words_per_value(samples[place].values) <= _MOST_WORDS_OF_ONE_NAME:
        reason = "it stands beside the other part of the name"
        proposals[place] = replace(proposals[place], target=missing, reason=reason)


def _without_employers(samples: Sequence[ColumnSample], proposals: list[Proposal]) -> set[int]:
    """Take away a column of names that are organisations' where the parts of people's names stand elsewhere; return its place."""
    place = _place_of("name", proposals)
    if place is None or _place_of("name.family", proposals) is None:
        return set()
    if share(samples[place].values, looks_like_organisation) <= _MOST_ORGANISATIONS_AMONG_PEOPLE:
        return set()
    proposals[place] = replace(proposals[place], target="", confidence=0.0, reason="organisations, not people")
    return {place}


def _with_a_name(
    layout: Layout, samples: Sequence[ColumnSample], proposals: list[Proposal], employers: set[int]
) -> None:
    """Take the column that looks most like names where none is mapped, or where the one that is leaves most rows without."""
    mapped = [place for place, item in enumerate(proposals) if item.target.startswith("name")]
    if mapped and max(samples[place].filled for place in mapped) >= _LEAST_FILLED_NAME:
        return
    free = [
        place for place, item in enumerate(proposals) if item.target in ("", "address.city") and place not in employers
    ]
    if layout.kind is RegisterKind.PERSON and not mapped:
        of_parts = [place for place in free if share(samples[place].values, is_given_name) >= _LEAST_GIVEN_NAMES]
        single = [place for place in of_parts if words_per_value(samples[place].values) <= _MOST_WORDS_OF_ONE_NAME]
        behind = [place + 1 for place in single if place + 1 in free and _may_be_name(samples[place + 1])]
        if behind:
            given = behind[0] - 1
            proposals[given] = Proposal(samples[given].header, "name.given", 0.4, "known given names stand in it")
            proposals[behind[0]] = Proposal(
                samples[behind[0]].header, "name.family", 0.4, "it stands behind the given names"
            )
            return
    likely = [place for place in free if _may_be_name(samples[place]) and samples[place].filled >= _LEAST_FILLED_NAME]
    if not likely:
        return
    best = max(likely, key=lambda place: (FIT["name"](samples[place].values), len(set(samples[place].values)), -place))
    for place in mapped:
        proposals[place] = replace(proposals[place], target="", confidence=0.0, reason="most rows have none")
    proposals[best] = Proposal(samples[best].header, "name", 0.4, "no other column looks like names")


def _without_lone_numbers(proposals: list[Proposal]) -> None:
    """Take away numbers of houses where no column holds streets: they are some other number."""
    place = _place_of("address.number", proposals)
    if place is not None and _place_of("address.line", proposals) is None:
        proposals[place] = replace(proposals[place], target="", confidence=0.0, reason="a number, but no street")


def _continuing(samples: Sequence[ColumnSample], proposals: list[Proposal]) -> None:
    """Let a further name go on where the name before it is full, if the rows say that it does."""
    widths = widths_of_names(samples, [item.column for item in proposals if item.target == "name"])
    for place, item in enumerate(proposals):
        if width := widths.get(item.column, 0):
            reason = f"it goes on where the name before is full, at {width} letters"
            proposals[place] = replace(item, continues=width, reason=reason)


def _may_be_name(sample: ColumnSample) -> bool:
    values = sample.values
    return share(values, is_name_like) >= _LEAST_NAME_LIKE and len(set(values)) > len(values) / 2
