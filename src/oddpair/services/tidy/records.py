"""Source records in a list: searched by words, or those of whose field something is asked."""

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...core.mapping import place_labels
from ...core.pass_table import Outcome
from ...core.tidying import tidy_fields
from ...store.keyset import Page
from ...store.record_filter import Filter, OutcomeFilter, chosen
from ...store.records import MOST_COUNTED, Asked, RecordRow, count_records, records_page
from ...store.registers import register_by_slug, sources_of
from ...store.tables import Register, Run
from ...store.word_search import MOST_FOUND, find_by_words
from ..state.layouts import layout_of
from ..state.mappings import mapping_of
from ..state.search import word_query
from .quality import filter_for


@dataclass(frozen=True, slots=True)
class RecordList:
    """A page of records. ``labels`` says, per source, which of several values of a field stands at which place; ``at_least``
    tells that there are more than ``total``."""

    total: int
    at_least: bool
    labels: Mapping[str, Mapping[str, str]]
    tidy_fields: tuple[str, ...]
    page: Page[RecordRow]


@dataclass(frozen=True, slots=True)
class FieldAsked:
    """What is asked of a field: a check of its value, and what is wanted."""

    field: str
    check: str = "filled"
    wanted: str = ""


@dataclass(frozen=True, slots=True)
class OutcomeAsked:
    """What a pass (counted from 1) of a run is asked for: the records that took part ("in"), or those of one outcome."""

    run: int
    number: int
    outcome: str

    def filter_in(self, session: Session, register: Register) -> Filter:
        """Return the filter; raise NotFound or Refused if there is no such run, pass or outcome."""
        run = session.get(Run, self.run)
        if run is None or run.register_id != register.id:
            raise NotFound("run", self.run)
        passes = len(run.report.get("passes", ()))
        if not 1 <= self.number <= passes:
            raise Refused(f"Run {self.run} has {passes} passes, none with the number {self.number}.")
        codes: dict[str, tuple[int, ...]] = {
            outcome.word: (int(outcome),) for outcome in Outcome if outcome is not Outcome.NOT_IN
        }
        codes["in"] = tuple(int(outcome) for outcome in Outcome if outcome is not Outcome.NOT_IN)
        if self.outcome not in codes:
            raise Refused(f"'{self.outcome}' is no outcome of a pass, only {', '.join(codes)}.")
        return OutcomeFilter(self.run, self.number - 1, codes[self.outcome])


def record_list(
    session: Session,
    slug: str,
    *,
    search: str = "",
    source: str = "",
    delivery_id: int = 0,
    of_field: FieldAsked | None = None,
    of_pass: OutcomeAsked | None = None,
    cursor: str = "",
    limit: int = 100,
    most_found: int = MOST_FOUND,
) -> RecordList:
    """Return a page of the records asked for, by source and id; searched by any words of their delivered values."""
    register = register_by_slug(session, slug)
    only: Filter | None = None
    if of_field:
        only = filter_for(session, register, of_field.field, of_field.check, of_field.wanted)
        only = chosen(session, register.id, only, source=source, delivery_id=delivery_id)
    elif of_pass:
        only = of_pass.filter_in(session, register)
    words = word_query(register.id, search)
    found = find_by_words(session, "record_words", words, most_found) if words else () if search.strip() else None
    many = found is not None and len(found) >= most_found
    asked = Asked(found, source, only, delivery_id)
    if many and (source or only or delivery_id):
        # Those that were found are some of very many, and perhaps none of those that are asked for.
        asked = Asked(None, source, only, delivery_id, words)
    sources = sources_of(session, register.id)
    page = records_page(session, register.id, sources, asked, cursor=cursor, limit=limit)
    total = count_records(session, register.id, asked, most_found)
    labels = {source.name: place_labels(mapping_of(source.mapping)) for source in sources if source.mapping}
    at_least = total == MOST_COUNTED if asked == Asked(source=source) else many and total >= most_found
    return RecordList(total, at_least, labels, tuple(tidy_fields(layout_of(register))), page)
