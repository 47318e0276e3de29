"""The list of golden records: searched, filtered, ordered."""

from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...store.golden_filter import GoldenFilter
from ...store.golden_list import MOST_COUNTED, GoldenRow, Order, count_golden, golden_page, named_like
from ...store.keyset import Page
from ...store.registers import register_by_slug, source_by_name
from ...store.tables import Register
from ...store.word_search import MOST_FOUND, find_by_words
from ..state.layouts import layout_of
from ..state.search import sound_query, word_query

__all__ = ["Asked", "GoldenList", "Order", "filter_of", "golden_list"]
BY_MEMBERS = Order()


@dataclass(frozen=True, slots=True)
class Asked:
    """Which golden records a person asks for: words of keys and values, and what a filter names."""

    search: str = ""
    source: str = ""
    without: str = ""
    least_members: int = 0
    most_members: int = 0
    country: str = ""
    changed_since: datetime | None = None
    pinned: bool = False
    contradictory: bool = False
    empty: str = ""


@dataclass(frozen=True, slots=True)
class GoldenList:
    """A page of golden records; ``total`` counts what was found, ``at_least`` tells that there may be more, ``by_sound`` that no word is
    spelled as searched, and these sound like it; ``contradictory`` how many of the register hold a contradiction that nobody settled.
    """

    total: int
    at_least: bool
    by_sound: bool
    contradictory: int
    page: Page[GoldenRow]


def filter_of(session: Session, register: Register, asked: Asked) -> GoldenFilter:
    """Return the filter that a person asks for, with all that words find, as they are spelled; raise NotFound for a source or field that is
    not there.
    """
    return _filter(session, register, asked, _spelled(session, register, asked.search, _EVERY))


def _spelled(session: Session, register: Register, search: str, most: int = MOST_FOUND) -> tuple[int, ...] | None:
    """Return the golden records that hold the words of a search; None without one."""
    if not search.strip():
        return None
    words = word_query(register.id, search)
    return find_by_words(session, "golden_words", words, most) if words else ()


def _found(session: Session, register: Register, search: str) -> tuple[tuple[int, ...] | None, bool]:
    """Return (the golden records that are found by words, None without a search; whether by their sound)."""
    spelled = _spelled(session, register, search)
    if spelled is not None and len(spelled) >= MOST_FOUND:
        # Of very many some were drawn: those whose name begins as searched are never left out.
        named = named_like(session, register.id, search, _MOST_NAMED)
        spelled = tuple(dict.fromkeys((*named, *spelled)))[:MOST_FOUND]
    sounds = sound_query(register.id, search) if spelled == () else ""
    heard = find_by_words(session, "golden_words", sounds) if sounds else ()
    return (heard, True) if heard else (spelled, False)


def _filter(session: Session, register: Register, asked: Asked, found: tuple[int, ...] | None) -> GoldenFilter:
    if asked.empty:
        layout_of(register).field(asked.empty)
    return GoldenFilter(
        found, _source_id(session, register, asked.source), _source_id(session, register, asked.without),
        asked.least_members, asked.most_members, asked.country.strip(), asked.changed_since, asked.pinned,
        asked.contradictory, asked.empty,
    )  # fmt: skip


_MOST_NAMED = 200
#: More golden records than a register holds.
_EVERY = 2**31 - 1


def _source_id(session: Session, register: Register, name: str) -> int:
    if not name:
        return 0
    source = source_by_name(session, register.id, name)
    if source is None:
        raise NotFound("source", name)
    return source.id


def golden_list(
    session: Session, slug: str, asked: Asked, *, order: Order = BY_MEMBERS, cursor: str = "", limit: int
) -> GoldenList:  # fmt: skip
    """Return a page of golden records in force."""
    register = register_by_slug(session, slug)
    if order.field:
        layout_of(register).field(order.field)
    found, by_sound = _found(session, register, asked.search)
    only = _filter(session, register, asked, found)
    unsearched = order.by == "match" and not asked.search.strip()
    order = replace(order, by=BY_MEMBERS.by if unsearched else order.by, search=asked.search)
    page = golden_page(session, register.id, only, order=order, cursor=cursor, limit=limit)
    total = count_golden(session, register.id, only)
    found_most = only.found is not None and len(only.found) >= MOST_FOUND
    at_least = found_most or (total >= MOST_COUNTED and not only.is_everything)
    contradictory = count_golden(session, register.id, GoldenFilter(contradictory=True))
    return GoldenList(total, at_least, by_sound, contradictory, page)
