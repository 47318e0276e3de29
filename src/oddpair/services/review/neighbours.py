"""Who else holds what two records hold: how rare a shared value is, and which other records share it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...core.fields import FRESHNESS_FIELD, FieldKind, Layout
from ...store.golden import records_with_sources
from ...store.registers import register_by_slug
from ...store.tables import Register, Source, SourceRecord
from ...store.word_search import MOST_FOUND, find_by_words
from ..state.layouts import layout_of
from ..state.search import word_query
from .pair import FacedRecord, faced

#: What single values of these kinds say of a record as a whole.
_TELLING = {
    FieldKind.ORGANISATION_NAME, FieldKind.PHONE, FieldKind.EMAIL, FieldKind.WEB_SITE, FieldKind.IDENTIFIER, FieldKind.DATE,
}  # fmt: skip
_NAME_PARTS = ("name.given", "name.family")
_MOST_SHOWN = 20


@dataclass(frozen=True, slots=True)
class Neighbours:
    """A tidy value of a field that one or both of two records hold, how many other records hold it (``at_least`` so many), and some of
    these."""

    field: str
    label: str
    value: str
    shared: bool
    others: int
    at_least: bool
    records: list[FacedRecord]


def neighbours(session: Session, slug: str, left_id: int, right_id: int) -> list[Neighbours]:
    """Return the values of two records by which other records are near them, what both share first."""
    register = register_by_slug(session, slug)
    both = records_with_sources(session, [left_id, right_id])
    if any(record.register_id != register.id for record, _ in both.values()) or not {left_id, right_id} <= both.keys():
        raise NotFound("pair", f"{left_id} / {right_id}")
    left, right = both[left_id][0], both[right_id][0]
    found = []
    for names, label in _asked(layout_of(register)):
        one, other = (_held(record, names) for record in (left, right))
        for value in dict.fromkeys((one, other)):
            if all(value):
                found.append(_holders(session, register, names, label, value, both, shared=one == other))
    return sorted((item for item in found if item.shared or item.others), key=lambda item: not item.shared)


def _asked(layout: Layout) -> list[tuple[tuple[str, ...], str]]:
    """Return (fields, label) of what is asked for: single values, and a person's name as a whole."""
    asked: list[tuple[tuple[str, ...], str]] = [
        ((field.name,), field.label) for field in layout.fields if field.kind in _TELLING
    ]
    if all(name in layout.names for name in _NAME_PARTS):
        asked.insert(0, (_NAME_PARTS, "Name"))
    return [item for item in asked if item[0] != (FRESHNESS_FIELD,)]


def _held(record: SourceRecord, names: Sequence[str]) -> tuple[str, ...]:
    return tuple(record.tidy.get(name, "") for name in names)


def _holds(record: SourceRecord, names: Sequence[str], value: Sequence[str]) -> bool:
    """Whether a record holds a value, as its first or a further one."""
    return all(
        any(held == one for place, held in record.tidy.items() if place.partition("#")[0] == name)
        for name, one in zip(names, value, strict=True)
    )


def _holders(
    session: Session, register: Register, names: Sequence[str], label: str, value: tuple[str, ...],
    both: Mapping[int, tuple[SourceRecord, Source]], *, shared: bool,
) -> Neighbours:  # fmt: skip
    words = word_query(register.id, " ".join(value)).replace(":*", "")
    ids = find_by_words(session, "record_words", words) if words else ()
    records = records_with_sources(session, [record for record in ids if record not in both])
    holding = [item for item in records.values() if item[0].state != "withdrawn" and _holds(item[0], names, value)]
    holding.sort(key=lambda item: item[0].id)
    return Neighbours(
        names[0].partition(".")[0] if len(names) > 1 else names[0], label, " ".join(value), shared, len(holding), len(ids) >= MOST_FOUND,
        [faced(*item) for item in holding[:_MOST_SHOWN]],
    )  # fmt: skip
