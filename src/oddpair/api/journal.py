"""The journal: every act, looked through, in full, taken along, checked; why two records are one; and undoing."""

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse
from pydantic import AwareDatetime, BaseModel, Field

from ..files.writers import CONTENT_TYPES, table_chunks
from ..services import work
from ..services.golden import undo as undoing
from ..services.golden import why as why_service
from ..services.journal import entries, search
from ..services.transactions import transaction
from .dependencies import Actor, AppState, RecordId, Slug, State, Text, Transaction
from .jobs import JobOut, job_out

router = APIRouter(tags=["journal"])


class JournalQuery(BaseModel):
    """What is looked for; what is left out is not asked. ``words`` stand in what an entry says, its reason, its values or its person."""

    actor: Annotated[Text, Field(max_length=80)] = ""
    kind: Annotated[Text, Field(max_length=30)] = ""
    since: AwareDatetime | None = None
    until: AwareDatetime | None = None
    words: Annotated[Text, Field(max_length=200)] = ""
    record: Annotated[int | None, Field(ge=1, le=2**63 - 1)] = None
    golden_key: Annotated[Text, Field(max_length=40)] = ""

    def asked(self) -> search.Asked:
        """Return it as the service takes it."""
        return search.Asked(**self.model_dump(include=set(JournalQuery.model_fields)))


class JournalPageQuery(JournalQuery):
    """A page of what is looked for: behind which position it begins."""

    before: Annotated[int | None, Field(ge=1, le=2**63 - 1)] = None
    limit: Annotated[int, Field(ge=1, le=500)] = 100


class ChoicesOut(BaseModel):
    """By which kinds of acts, and by whose, a journal can be looked through."""

    kinds: list[str]
    people: list[str]


class TouchedRecordOut(BaseModel):
    """A record that an entry is about."""

    id: int
    source: str
    source_key: str


class MovedOut(BaseModel):
    """A record that an entry moved between golden records; a key is "" where there was none."""

    source: str
    source_key: str
    from_key: str
    to_key: str


class WholeEntryOut(BaseModel):
    """An entry in full: ``data`` says what was done in numbers and names, ``values`` in words and values (None where they were erased).
    Of many moves the first are shown; ``moves`` counts all."""

    entry: entries.Entry
    data: dict[str, Any]
    values: dict[str, Any] | None
    rests_on: list[int]
    undone_by: list[int]
    records: list[TouchedRecordOut]
    golden: list[str]
    moved: list[MovedOut]
    moves: int


class NamedRecordOut(BaseModel):
    """A record, with the name that it was delivered with last."""

    id: int
    source: str
    source_key: str
    name: str


class WhyLinkOut(BaseModel):
    """A link on the way from one record to the other."""

    left: NamedRecordOut
    right: NamedRecordOut
    score: float | None
    says: str


class HappenedOut(BaseModel):
    """Something that happened to one of two records, or to both; ``actor`` is "" where no person did it."""

    at: datetime
    actor: str
    what: str
    says: str
    reason: str
    entry: int | None
    undone: bool


class WhyOut(BaseModel):
    """Why two records are one, or are not: what is so today, the links between them, and all that happened, oldest first."""

    left: NamedRecordOut
    right: NamedRecordOut
    left_key: str
    right_key: str
    are_one: bool
    path: list[WhyLinkOut]
    happened: list[HappenedOut]


class UndoneOut(BaseModel):
    """The journal entry that records that a step was undone."""

    entry: int


def _download(state: State, slug: str, file_format: str, query: JournalQuery) -> StreamingResponse:
    def chunks() -> Any:
        with transaction(state.sessions) as session:
            yield from table_chunks(file_format, search.COLUMNS, search.rows(session, slug, query.asked()), "journal")

    name = f"journal-{slug or 'shared'}.{file_format}"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return StreamingResponse(chunks(), media_type=CONTENT_TYPES[file_format], headers=headers)


@router.get("/registers/{slug}/journal")
def get_journal(session: Transaction, slug: Slug, query: Annotated[JournalPageQuery, Query()]) -> entries.JournalPage:
    """What was done in a register, newest first: all of it, or what is looked for."""
    return search.search(session, slug, query.asked(), before=query.before, limit=query.limit)


@router.get("/registers/{slug}/journal/choices")
def get_choices(session: Transaction, slug: Slug) -> ChoicesOut:
    """By which kinds of acts, and by whose, the journal of a register can be looked through."""
    kinds, people = search.choices(session, slug)
    return ChoicesOut(kinds=kinds, people=people)


@router.get("/registers/{slug}/journal/table.{file_format}", response_class=StreamingResponse)
def download_journal(
    state: AppState, session: Transaction, slug: Slug, file_format: Literal["csv", "jsonl"],
    query: Annotated[JournalQuery, Query()],
) -> StreamingResponse:  # fmt: skip
    """The journal of a register, or what is looked for in it, as a table: oldest first, what is nested as JSON."""
    search.choices(session, slug)
    return _download(state, slug, file_format, query)


@router.get("/registers/{slug}/journal/entries/{entry_id}")
def get_entry_of_journal(session: Transaction, slug: Slug, entry_id: RecordId) -> WholeEntryOut:
    """An entry in full."""
    return _entry_out(search.whole(session, slug, entry_id))


@router.post("/registers/{slug}/journal/verification", status_code=202)
def verify_journal(session: Transaction, actor: Actor, slug: Slug) -> JobOut:
    """Go through the chain of a register's journal, and tell what does not fit."""
    return job_out(
        work.ask_for(session, slug, "verify", "Verify the journal", {"register": slug, "actor": actor}), slug
    )


@router.get("/journal")
def get_shared_journal(session: Transaction, query: Annotated[JournalPageQuery, Query()]) -> entries.JournalPage:
    """What was done with what all registers share: people, swap lists, value maps."""
    return search.search(session, search.SHARED, query.asked(), before=query.before, limit=query.limit)


@router.get("/registers/{slug}/why")
def get_why(
    session: Transaction, slug: Slug, left: Annotated[int, Query(ge=1, le=2**63 - 1)],
    right: Annotated[int, Query(ge=1, le=2**63 - 1)],
) -> WhyOut:  # fmt: skip
    """Why two records are one, or are not: from their first deliveries to today."""
    found = why_service.why(session, slug, left, right)
    return WhyOut(
        left=_named(found.left), right=_named(found.right), left_key=found.golden_keys[0], right_key=found.golden_keys[1],
        are_one=found.are_one,
        path=[WhyLinkOut(left=_named(one), right=_named(other), score=score, says=says) for one, other, score, says in found.path],
        happened=[HappenedOut.model_validate(one, from_attributes=True) for one in found.happened],
    )  # fmt: skip


def _named(record: object) -> NamedRecordOut:
    return NamedRecordOut.model_validate(record, from_attributes=True)


def _entry_out(found: search.WholeEntry) -> WholeEntryOut:
    return WholeEntryOut(
        entry=found.entry, data=found.data, values=found.values, rests_on=found.rests_on, undone_by=found.undone_by,
        records=[TouchedRecordOut(id=number, source=source, source_key=key) for number, source, key in found.records],
        golden=found.golden, moved=[MovedOut.model_validate(one, from_attributes=True) for one in found.moved], moves=found.moves,
    )  # fmt: skip


@router.post("/journal/{entry_id}/undo", status_code=201)
def undo(
    session: Transaction, actor: Actor, entry_id: RecordId, part: Annotated[int, Query(ge=1, le=2**31 - 1)] = 1,
    with_later: bool = False,
) -> UndoneOut:  # fmt: skip
    """Undo a step of a golden record's history; ``with_later`` takes along the later steps that rest on it."""
    return UndoneOut(entry=undoing.undo_step(session, entry_id, part, actor=actor, with_later=with_later))
