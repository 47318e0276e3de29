"""All that is kept of a person, wherever it stands."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...core.traces import Traces, traces_of
from ...store import forgetting as store
from ...store.golden import follow, golden_by_key, keys_of, records_with_sources
from ...store.membership import members_of
from ...store.registers import register_by_slug
from ...store.tables import Register
from ..state.layouts import layout_of

#: More records than one person ever has.
MOST = 500


@dataclass(frozen=True, slots=True)
class FoundRecord:
    """A record that would be erased."""

    id: int
    source: str
    source_key: str
    fields: dict[str, str]


@dataclass(frozen=True, slots=True)
class Found:
    """What is kept of a person: the records, the golden keys that these have or had, how many rows hold their values in each place, the
    files that hold them, and who was told of them and is not reached from here."""

    records: list[FoundRecord]
    golden_keys: list[str]
    places: list[tuple[str, int]]
    files: list[store.KeptFile]
    told: list[tuple[str, str]]


@dataclass(frozen=True, slots=True)
class Everywhere:
    """The same in ids, by place, with the traces by which it was found."""

    traces: Traces
    golden: list[int]
    texts: dict[str, list[int]]
    files: list[store.KeptFile]


def records_of(session: Session, slug: str, *, key: str = "", record_ids: Sequence[int] = ()) -> list[int]:
    """Return the records of a golden record, or those that are named; raise NotFound or Refused."""
    register = register_by_slug(session, slug)
    chosen = sorted(set(record_ids))
    if key:
        golden = follow(session, golden_by_key(session, register.id, key))
        chosen = sorted({*chosen, *members_of(session, [golden.id])[golden.id]})
    if not 1 <= len(chosen) <= MOST:
        raise Refused(f"Name 1 to {MOST} records of one person.")
    found = records_with_sources(session, chosen)
    for record in chosen:
        if record not in found or found[record][0].register_id != register.id or not found[record][0].fields:
            raise NotFound("record", record)
    return chosen


def everywhere(session: Session, register: Register, record_ids: Sequence[int]) -> Everywhere:
    """Find all that is kept of records: what is about them, and every text that speaks of the person."""
    golden = store.choose(session, record_ids)
    traces = traces_of(layout_of(register), store.spellings(session))
    texts = {
        place.what: {
            number for number, text in store.texts_with(session, place, register.id, traces.patterns) if traces.mentioned_in(text)
        }
        for place in store.PLACES
    }  # fmt: skip
    texts["entries of the journal"] |= set(store.journal_about(session))
    texts["proposals"] |= set(store.proposals_about(session, register.id))
    texts["entered records"] |= set(store.entries_of(session))
    listed = {what: sorted(ids) for what, ids in texts.items()}
    files = store.kept_files(session, listed["rejected rows"], listed["rows of counterpart lists"])
    return Everywhere(traces, golden, listed, files)


def _in_order(register: Register, fields: Mapping[str, str]) -> dict[str, str]:
    return {field.name: fields[field.name] for field in layout_of(register).fields if fields.get(field.name)}


def find(session: Session, slug: str, *, key: str = "", record_ids: Sequence[int] = ()) -> Found:
    """Return all that is kept of a person, given by a golden key or records."""
    register = register_by_slug(session, slug)
    chosen = records_of(session, slug, key=key, record_ids=record_ids)
    found = everywhere(session, register, chosen)
    records = records_with_sources(session, chosen)
    places = {**store.counts(session), **{what: len(ids) for what, ids in found.texts.items()}}
    return Found(
        [FoundRecord(record.id, source.name, record.source_key, _in_order(register, record.fields)) for record, source in records.values()],
        sorted(keys_of(session, found.golden).values()), [(what, count) for what, count in places.items() if count],
        found.files, store.told(session, register.id),
    )  # fmt: skip
