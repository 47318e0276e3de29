"""The queue of the review desk: doubts about pairs and clusters that wait for a person."""

from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...store.counters import counters_of
from ...store.doubts import wake
from ...store.queue import ORDERS, Queued, QueueFilter, queue_page
from ...store.registers import register_by_slug, source_by_name, standing_run
from ...store.tables import Register, Run
from ...store.word_search import expected_holders, find_by_words
from ..state.evidence import EvidenceReader
from ..state.search import word_query
from .work_given import condition_of

__all__ = [
    "EVERYTHING",
    "ORDERS",
    "QueueAsked",
    "QueueItem",
    "QueuePage",
    "filter_of",
    "kinds",
    "queue",
    "run_of",
    "wake",
]
#: Doubts about few records are looked up by the records; about more than this share of all, enough of them are found on the
#: way through the queue.
_FEW, _FEW_OF_ALL = 1_000, 0.005
#: The planner is believed where it expects so many times more than what is few.
_SURELY_MANY = 4


@dataclass(frozen=True, slots=True)
class QueueAsked:
    """Which doubts a person asks for: by words of the records, kind, source, pairs or clusters alone, those that ``asked`` is asked about;
    ``desk`` is the window that asks; ``work`` asks for the ``person``'s own, for what nobody has, or for a piece of work by its number."""

    search: str = ""
    kind: str = ""
    source: str = ""
    what: str = ""
    asked: str = ""
    desk: str = ""
    work: str = ""
    person: str = ""


EVERYTHING = QueueAsked()


@dataclass(frozen=True, slots=True)
class QueueItem:
    """A doubt that waits, with its kind in words."""

    doubt: Queued
    kind: str


@dataclass(frozen=True, slots=True)
class QueuePage:
    """A page of the queue: how many wait in all and are put off, and where the next page begins ("" at the end)."""

    waiting: int
    put_off: int
    items: list[QueueItem]
    behind: str


def queue(
    session: Session, slug: str, asked: QueueAsked = EVERYTHING, *, order: str = "doubt", after: str = "", limit: int = 100
) -> QueuePage:  # fmt: skip
    """Return a page of what waits; nothing before the first run. The counts are of the whole queue, whatever is searched."""
    register = register_by_slug(session, slug)
    run = standing_run(session, register.id)
    only = filter_of(session, register, asked)
    counters = counters_of(session, register.id)
    if run is None or only is None:
        return QueuePage(counters.waiting if run else 0, counters.put_off if run else 0, [], "")
    found = queue_page(session, run.id, only, order=order, after=after, limit=limit)
    reader = EvidenceReader(session, register, run)
    items = [QueueItem(doubt, reader.kind_in_words(doubt.kind)) for doubt in found]
    return QueuePage(counters.waiting, counters.put_off, items, found[-1].cursor if len(found) == limit else "")


def filter_of(session: Session, register: Register, asked: QueueAsked) -> QueueFilter | None:
    """Return the filter that a person asks for, None where a search can find nothing; raise NotFound for a source that is not there."""
    words = word_query(register.id, asked.search)
    if asked.search.strip() and not words:
        return None
    source_id = 0
    if asked.source:
        source = source_by_name(session, register.id, asked.source)
        if source is None:
            raise NotFound("source", asked.source)
        source_id = source.id
    work = condition_of(session, register, asked.work, asked.person)
    only = QueueFilter(asked.kind, source_id, asked.what, asked.asked, words, desk=asked.desk, work=work)
    if not words:
        return only
    return replace(only, among=_few_with(session, words, counters_of(session, register.id).records))


def _few_with(session: Session, words: str, records: int) -> tuple[int, ...] | None:
    """Return the records that hold words, None if these are not few."""
    most = max(_FEW, int(records * _FEW_OF_ALL))
    if expected_holders(session, "record_words", words) > _SURELY_MANY * most:
        return None
    found = find_by_words(session, "record_words", words, most)
    return found if len(found) < most else None


def kinds(session: Session, slug: str) -> list[tuple[str, str, int]]:
    """Return (kind, kind in words, how many wait) of what waits, the most frequent first."""
    register = register_by_slug(session, slug)
    run = standing_run(session, register.id)
    if run is None:
        return []
    reader = EvidenceReader(session, register, run)
    counted = counters_of(session, register.id).kinds
    return [
        (kind, reader.kind_in_words(kind), counted[kind])
        for kind in sorted(counted, key=lambda kind: (-counted[kind], kind))
    ]


def run_of(session: Session, slug: str) -> Run | None:
    """Return the register's standing run, or None."""
    return standing_run(session, register_by_slug(session, slug).id)
