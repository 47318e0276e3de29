"""From the members of golden records to their values, many at a time.

Other processes import this module to do the work, so it leads to nothing that takes long to import.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import groupby

import orjson

from ...core.fields import FRESHNESS_FIELD, Layout
from ...core.survivorship import Candidate, golden_rows
from ...core.text.search_words import search_words
from ...core.tidying import NOTHING, Recipe, prepare_row
from .copy_text import copy_line, word_vector

_LONGEST_SORT_NAME = 200
Pinned = Sequence[tuple[str, str]]


@dataclass(frozen=True, slots=True)
class Projector:
    """What golden values of a register hang on besides its records: layout, rules, tidy steps, sources, pins."""

    register_id: int
    layout: Layout
    rules: Mapping[str, str]
    recipe: Recipe = NOTHING
    #: Source id → (name, trust rank).
    sources: Mapping[int, tuple[str, int]] = field(default_factory=dict)
    #: Golden id → (field, value).
    pins: Mapping[int, Pinned] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class _Member:
    golden: int
    key: str
    state: str
    candidate: Candidate


def _member(projector: Projector, line: bytes, *, alone: bool) -> _Member:
    golden, key, source_id, source_key, state, fields, tidy = line.split(b"\x01")
    name, rank = projector.sources[int(source_id)]
    delivered = orjson.loads(fields)
    # What only one record says needs no weighing, which most golden records of a first merge are.
    understood = {} if alone else orjson.loads(tidy)
    if projector.recipe.steps:
        delivered = prepare_row(projector.recipe, delivered)
    fresh = understood.get(FRESHNESS_FIELD, "")
    candidate = Candidate(orjson.loads(source_key), name, rank, fresh, delivered, understood)
    return _Member(int(golden), orjson.loads(key), orjson.loads(state), candidate)


def with_a_say(states: Sequence[str]) -> list[int]:
    """Return the places of the members that have a say: those that their source has ended only where no other is left."""
    current = [place for place, state in enumerate(states) if state == "current"]
    return current or list(range(len(states)))


def with_pins(values: Mapping[str, str], pins: Pinned) -> dict[str, str]:
    """Return values with pinned ones in their place; an empty pin leaves its field empty."""
    pinned = dict(pins)
    return {name: value for name, value in {**values, **pinned}.items() if value}


def sort_name_of(values: Mapping[str, str]) -> str:
    """Return by what a golden record is ordered among others: its name, the family name first."""
    name = values.get("name") or f"{values.get('name.family', '')} {values.get('name.given', '')}"
    return name.strip().lower()[:_LONGEST_SORT_NAME]


def project_lines(projector: Projector, lines: Sequence[bytes]) -> bytes:
    """Return lines with the columns ``store.golden_values.VALUE_COLUMNS`` of the golden records whose members are given."""
    by_golden = [list(group) for _, group in groupby(lines, lambda line: line.partition(b"\x01")[0])]
    groups = [[_member(projector, line, alone=len(group) == 1) for line in group] for group in by_golden]
    rows = golden_rows(projector.layout, projector.rules, map(_heard, groups))
    return "".join(_lines(projector, groups, rows)).encode()


def _heard(group: Sequence[_Member]) -> list[Candidate]:
    return [group[place].candidate for place in with_a_say([member.state for member in group])]


def _lines(
    projector: Projector, groups: Sequence[Sequence[_Member]], rows: Iterable[Mapping[str, str]]
) -> Iterator[str]:
    for group, row in zip(groups, rows, strict=True):
        values = with_pins(row, projector.pins.get(group[0].golden, ()))
        words = word_vector(projector.register_id, search_words([group[0].key, *values.values()]))
        yield copy_line(
            (str(group[0].golden), str(len(group)), orjson.dumps(values).decode(), sort_name_of(values), words)
        )
