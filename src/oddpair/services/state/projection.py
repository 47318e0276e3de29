"""From the members of golden records to their values, many at a time.

Other processes import this module to do the work, so it leads to nothing that takes long to import.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import groupby
from typing import NamedTuple

import orjson

from ...core.fields import FRESHNESS_FIELD, Field, FieldKind, Layout
from ...core.standard import AS_DELIVERED, COUNTRY, STANDARD, standard_values
from ...core.survivorship import Contributor, Rules, contradicting_fields, contradictions, golden_rows
from ...core.text.search_words import search_sounds, search_words
from ...core.tidying import NOTHING, TidySteps, prepare_row
from .copy_text import copy_line, word_vector

_LONGEST_SORT_NAME = 200
_NAME = "name"
Pinned = Sequence[tuple[str, str]]


@dataclass(frozen=True, slots=True)
class Projector:
    """What golden values of a register hang on besides its records: layout, rules, tidy steps, sources, pins, form."""

    register_id: int
    layout: Layout
    rules: Rules
    tidy_steps: TidySteps = NOTHING
    #: Source id → (name, trust rank, whether its values may change golden records).
    sources: Mapping[int, tuple[str, int, bool]] = field(default_factory=dict)
    #: Golden id → (field, value).
    pins: Mapping[int, Pinned] = field(default_factory=dict)
    form: str = AS_DELIVERED


class _Member(NamedTuple):
    golden: int
    key: str
    #: The number of the key of a golden record that is not written yet.
    number: int | None
    state: str
    source_id: int
    supplies: bool
    contributor: Contributor


def _member(projector: Projector, place: int, line: bytes) -> _Member:
    golden, key, number, source_id, source_key, state, fields, tidy = line.split(b"\x01")
    name, rank, supplies = projector.sources[int(source_id)]
    delivered = orjson.loads(fields)
    understood = orjson.loads(tidy) if tidy else {}
    if projector.tidy_steps.steps:
        delivered = prepare_row(projector.tidy_steps, delivered)
    fresh = understood.get(FRESHNESS_FIELD, "")
    contributor = Contributor(orjson.loads(source_key), name, rank, fresh, delivered, understood, place)
    return _Member(
        int(golden),
        key.decode(),
        int(number) if number else None,
        state.decode(),
        int(source_id),
        supplies,
        contributor,
    )


def with_a_say(members: Sequence[tuple[str, bool]]) -> list[int]:
    """Return the places of the members, given by state and whether their source's values count, that have a say: those whose values do
    not count, and those that their source has ended, only where no other is left."""
    supplied = [place for place, (_, supplies) in enumerate(members) if supplies] or list(range(len(members)))
    current = [place for place in supplied if members[place][0] == "current"]
    return current or supplied


def in_form(
    layout: Layout, form: str, values: Mapping[str, str], contributors: Sequence[Contributor] = ()
) -> dict[str, str]:
    """Return golden values in the form that their register gives them in; ``contributors`` are those that they come from."""
    if form != STANDARD:
        return dict(values)
    return standard_values(layout, values, {} if values.get(COUNTRY) else _countries(layout, values, contributors))


def _countries(layout: Layout, values: Mapping[str, str], contributors: Sequence[Contributor]) -> dict[str, str]:
    """Return, per number of a golden record that has no country itself, the country of a member that gives it."""
    found: dict[str, str] = {}
    for of_layout in layout.fields:
        if of_layout.kind is FieldKind.PHONE and (number := values.get(of_layout.name)):
            of_number = (one.values.get(COUNTRY) for one in contributors if one.values.get(of_layout.name) == number)
            if country := next(filter(None, of_number), ""):
                found[of_layout.name] = country
    return found


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


@dataclass(slots=True)
class Difference:
    """What another way to make golden values would change: how many golden records, how many values per field, and examples."""

    golden: int = 0
    by_field: dict[str, int] = field(default_factory=dict)
    samples: dict[str, list[dict[str, str]]] = field(default_factory=dict)

    def add(self, other: "Difference", shown: int) -> None:
        """Take in the differences among other golden records, and up to ``shown`` examples per field."""
        self.golden += other.golden
        for name, count in other.by_field.items():
            self.by_field[name] = self.by_field.get(name, 0) + count
        for name, samples in other.samples.items():
            own = self.samples.setdefault(name, [])
            own += samples[: max(shown - len(own), 0)]

    def note(self, key: str, before: Mapping[str, str], after: Mapping[str, str], names: Sequence[str]) -> None:
        """Note what differs between two values of a golden record."""
        changed = [name for name in names if before.get(name, "") != after.get(name, "")]
        self.golden += bool(changed)
        for name in changed:
            self.by_field[name] = self.by_field.get(name, 0) + 1
            sample = {"key": key, "before": before.get(name, ""), "after": after.get(name, "")}
            self.samples.setdefault(name, []).append(sample)


def differing_lines(now: Projector, then: Projector, lines: Sequence[bytes]) -> Difference:
    """Return what would change in golden records if values were made as ``then`` says instead of ``now``."""
    difference = Difference()
    groups = _groups(now, lines)
    heard = list(map(_heard, groups))
    rows = zip(*(golden_rows(way.layout, way.rules, heard) for way in (now, then)), strict=True)
    for group, contributors, (before, after) in zip(groups, heard, rows, strict=True):
        pins = now.pins.get(group[0].golden, ())
        was, becomes = (
            with_pins(in_form(way.layout, way.form, row, contributors), pins)
            for way, row in ((now, before), (then, after))
        )
        difference.note(group[0].key, was, becomes, now.layout.names)
    return difference


def _groups(projector: Projector, lines: Sequence[bytes]) -> list[list[_Member]]:
    """Return the members of every golden record, in the order in which they came."""
    by_golden = [list(group) for _, group in groupby(lines, lambda line: line.partition(b"\x01")[0])]
    return [[_member(projector, place, line) for place, line in enumerate(group)] for group in by_golden]


def project_lines(projector: Projector, lines: Sequence[bytes]) -> Projected:
    """Return the values of the golden records whose members are given."""
    groups = _groups(projector, lines)
    heard = list(map(_heard, groups))
    rows = golden_rows(projector.layout, projector.rules, heard)
    judged = contradicting_fields(projector.layout)
    fresh: list[str] = []
    fresh_words: list[str] = []
    known: list[str] = []
    register = str(projector.register_id)
    for group, contributors, row in zip(groups, heard, rows, strict=True):
        first = group[0]
        pins = projector.pins.get(first.golden, ())
        values = with_pins(in_form(projector.layout, projector.form, row, contributors), pins)
        sources = _array(sorted({member.source_id for member in group}))
        open_ones = _array(unsettled(judged, contributors, pins))
        spoken = search_sounds([value for name, value in values.items() if name.partition(".")[0] == _NAME])
        words = word_vector(projector.register_id, [*search_words([first.key, *values.values()]), *spoken])
        golden, as_json, name = str(first.golden), orjson.dumps(values).decode(), sort_name_of(values)
        if first.number is None:
            known.append(copy_line((golden, as_json, name, sources, open_ones, words)))
        else:
            about = (golden, register, str(first.number), first.key, as_json, str(len(group)), name, sources, open_ones)
            fresh.append(copy_line(about))
            fresh_words.append(copy_line((golden, words)))
    return Projected("".join(fresh).encode(), "".join(fresh_words).encode(), "".join(known).encode(), len(fresh))


def unsettled(judged: Sequence[Field], contributors: Sequence[Contributor], pins: Pinned) -> list[str]:
    """Return the fields of which members say what cannot all be true, but for those that a person settled by a pin."""
    settled = {name for name, _ in pins}
    return [name for name in contradictions(judged, contributors) if name not in settled]


def _array(items: Sequence[object]) -> str:
    """Return an array in the server's text format; names of fields need no quotes."""
    return "{" + ",".join(map(str, items)) + "}"


def _heard(group: Sequence[_Member]) -> list[Contributor]:
    return [group[place].contributor for place in with_a_say([(member.state, member.supplies) for member in group])]
