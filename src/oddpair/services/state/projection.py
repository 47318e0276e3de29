"""From the members of golden records to their values, many at a time.

Other processes import this module to do the work, so it leads to nothing that takes long to import.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import groupby
from typing import NamedTuple

import orjson

from ...core.fields import FRESHNESS_FIELD, Layout
from ...core.standard import AS_DELIVERED, STANDARD, standard_values
from ...core.survivorship import Contributor, Rules, golden_rows
from ...core.text.search_words import search_words
from ...core.tidying import NOTHING, TidySteps, prepare_row
from .copy_text import copy_line, word_vector

_LONGEST_SORT_NAME = 200
Pinned = Sequence[tuple[str, str]]


@dataclass(frozen=True, slots=True)
class Projector:
    """What golden values of a register hang on besides its records: layout, rules, tidy steps, sources, pins, form."""

    register_id: int
    layout: Layout
    rules: Rules
    tidy_steps: TidySteps = NOTHING
    #: Source id → (name, trust rank).
    sources: Mapping[int, tuple[str, int]] = field(default_factory=dict)
    #: Golden id → (field, value).
    pins: Mapping[int, Pinned] = field(default_factory=dict)
    form: str = AS_DELIVERED


class _Member(NamedTuple):
    golden: int
    key: str
    #: The number of the key of a golden record that is not written yet.
    number: int | None
    state: str
    contributor: Contributor


def _member(projector: Projector, line: bytes) -> _Member:
    golden, key, number, source_id, source_key, state, fields, tidy = line.split(b"\x01")
    name, rank = projector.sources[int(source_id)]
    delivered = orjson.loads(fields)
    understood = orjson.loads(tidy) if tidy else {}
    if projector.tidy_steps.steps:
        delivered = prepare_row(projector.tidy_steps, delivered)
    fresh = understood.get(FRESHNESS_FIELD, "")
    contributor = Contributor(orjson.loads(source_key), name, rank, fresh, delivered, understood)
    return _Member(int(golden), key.decode(), int(number) if number else None, state.decode(), contributor)


def with_a_say(states: Sequence[str]) -> list[int]:
    """Return the places of the members that have a say: those that their source has ended only where no other is left."""
    current = [place for place, state in enumerate(states) if state == "current"]
    return current or list(range(len(states)))


def in_form(layout: Layout, form: str, values: Mapping[str, str]) -> dict[str, str]:
    """Return golden values in the form that their register gives them in."""
    return standard_values(layout, values) if form == STANDARD else dict(values)


def with_pins(values: Mapping[str, str], pins: Pinned) -> dict[str, str]:
    """Return values with pinned ones in their place; an empty pin leaves its field empty."""
    pinned = dict(pins)
    return {name: value for name, value in {**values, **pinned}.items() if value}


def sort_name_of(values: Mapping[str, str]) -> str:
    """Return by what a golden record is ordered among others: its name, the family name first."""
    family, given = values.get("name.family", ""), values.get("name.given", "")
    name = f"{family} {given}" if family else values.get("name") or given
    return name.strip().lower()[:_LONGEST_SORT_NAME]


@dataclass(frozen=True, slots=True)
class Projected:
    """Lines of ``store.golden_values``: of new golden records and their words, and of those that are there already."""

    fresh: bytes
    fresh_words: bytes
    values: bytes
    fresh_count: int


def project_lines(projector: Projector, lines: Sequence[bytes]) -> Projected:
    """Return the values of the golden records whose members are given."""
    by_golden = [list(group) for _, group in groupby(lines, lambda line: line.partition(b"\x01")[0])]
    groups = [[_member(projector, line) for line in group] for group in by_golden]
    rows = golden_rows(projector.layout, projector.rules, map(_heard, groups))
    fresh: list[str] = []
    fresh_words: list[str] = []
    known: list[str] = []
    register = str(projector.register_id)
    for group, row in zip(groups, rows, strict=True):
        first = group[0]
        values = with_pins(in_form(projector.layout, projector.form, row), projector.pins.get(first.golden, ()))
        words = word_vector(projector.register_id, search_words([first.key, *values.values()]))
        golden, as_json, name = str(first.golden), orjson.dumps(values).decode(), sort_name_of(values)
        if first.number is None:
            known.append(copy_line((golden, as_json, name, words)))
        else:
            fresh.append(copy_line((golden, register, str(first.number), first.key, as_json, str(len(group)), name)))
            fresh_words.append(copy_line((golden, words)))
    return Projected("".join(fresh).encode(), "".join(fresh_words).encode(), "".join(known).encode(), len(fresh))


def _heard(group: Sequence[_Member]) -> list[Contributor]:
    return [group[place].contributor for place in with_a_say([member.state for member in group])]
