"""Counterpart lists: the rows of files looked up in a register."""

from dataclasses import asdict
from datetime import datetime
from pathlib import Path
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

from ..services.counterparts import lists as service
from ..services.counterparts import rows, send_out
from ..services.counterparts.settings import ListSettings, settings_of
from ..services.golden.send_out import OutTable
from ..services.state.mappings import mapping_of
from ..services.transactions import Session, transaction
from .deliveries import AssignmentModel
from .dependencies import Actor, AppState, LongText, Name, Slug, State, Text, Transaction
from .jobs import JobOut, job_out
from .tables import sent_table
from .uploads import BODY, MOST_BYTES, FileName, base_name, stored_upload

router = APIRouter(tags=["counterparts"])
Outcome = Literal["", "matched", "several", "unsure", "none", "rejected"]
Key = Annotated[Text, Query(min_length=1, max_length=500)]
_FIELDS = Annotated[list[Annotated[Text, Field(max_length=80)]], Field(max_length=200)]


class ListSettingsModel(BaseModel):
    """How rows are looked up: limits in bits (null: those of the plan), by how many bits the best must lead, how many candidates are told,
    which fields of the counterpart are sent out, whether neither side has duplicates, further fields that settle what is ambiguous, and
    a plan of the list's own (empty: the one in force)."""

    best: Annotated[int, Field(ge=1, le=100)] = 3
    keep: _FIELDS = []
    matched_from: Annotated[float | None, Field(ge=-100, le=200)] = None
    none_below: Annotated[float | None, Field(ge=-100, le=200)] = None
    margin: Annotated[float, Field(ge=0, le=100)] = 3.0
    one_to_one: bool = False
    further: _FIELDS = []
    yaml: LongText = ""

    def settings(self) -> ListSettings:
        """Return the settings."""
        return settings_of(self.model_dump())


class CounterpartListOut(BaseModel):
    """A counterpart list: its file, mapping and settings, how many rows came to each outcome (null before it was run), and whether the
    register's records changed since."""

    name: str
    file_name: str
    columns: list[str]
    mapping: list[AssignmentModel]
    settings: ListSettingsModel
    follows: bool
    counts: dict[str, int] | None
    report: dict[str, Any] | None
    ran_at: datetime | None
    stale: bool
    actor: str
    created_at: datetime


class ChangeListIn(BaseModel):
    """A changed list: settings, mapping, and whether it is run again when the register changes."""

    settings: ListSettingsModel
    mapping: Annotated[list[AssignmentModel], Field(max_length=2000)]
    follows: bool = False


class CounterpartOut(BaseModel):
    """A record of the register as a counterpart: its golden key ("" if it is in no golden record), source and id, and its values."""

    record_id: int
    golden_key: str
    source: str
    source_key: str
    values: dict[str, str]
    gone: bool


class CandidateOut(BaseModel):
    """A candidate of a row; ``rejected`` if a person said that it is not the counterpart."""

    of: CounterpartOut
    rank: int
    score: float
    probability: float
    reason: str
    rejected: bool


class CounterpartRowOut(BaseModel):
    """A row of the file with its outcome, its counterpart and candidates; ``said_by`` a person, or "" where the machine said so."""

    number: int
    key: str
    cells: dict[str, str]
    outcome: str
    said_by: str
    note: str
    counterpart: CounterpartOut | None
    candidates: list[CandidateOut]


class CounterpartRowsOut(BaseModel):
    """A page of rows in the order of the file."""

    rows: list[CounterpartRowOut]
    before: str
    behind: str


class SayIn(BaseModel):
    """What a person says of a row: a record is its counterpart (confirmed) or is not (rejected), or it has none (nobody)."""

    key: Annotated[Text, Field(min_length=1, max_length=500)]
    verdict: Literal["confirmed", "rejected", "nobody"]
    record_id: Annotated[int | None, Field(ge=1, le=2**63 - 1)] = None
    remark: Text = ""


class UnmatchedGoldenOut(BaseModel):
    """A golden record that no matched row means."""

    key: str
    values: dict[str, str]
    records: int


class UnmatchedOut(BaseModel):
    """A page of golden records that no matched row means."""

    rows: list[UnmatchedGoldenOut]
    before: str
    behind: str


def _out(session: Session, found: service.CounterpartList) -> CounterpartListOut:
    return CounterpartListOut(
        name=found.name, file_name=found.file_name, columns=found.columns,
        mapping=[AssignmentModel(**asdict(item)) for item in mapping_of(found.mapping)],
        settings=ListSettingsModel(**settings_of(found.settings).document()), follows=found.follows, counts=found.counts,
        report=found.report, ran_at=found.ran_at, stale=service.is_stale(session, found), actor=found.actor,
        created_at=found.created_at,
    )  # fmt: skip


def _rows_out(shown: object) -> CounterpartRowsOut:
    return CounterpartRowsOut.model_validate(shown, from_attributes=True)


@router.get("/registers/{slug}/counterparts")
def list_lists(session: Transaction, slug: Slug) -> list[CounterpartListOut]:
    """The counterpart lists of a register, by name."""
    return [_out(session, found) for found in service.lists(session, slug)]


@router.get("/registers/{slug}/counterparts/{name}")
def get_list(session: Transaction, slug: Slug, name: Name) -> CounterpartListOut:
    """A counterpart list."""
    return _out(session, service.list_named(session, slug, name))


def _make(state: State, slug: str, name: str, path: Path, file_name: str, actor: str) -> CounterpartListOut:
    try:
        with transaction(state.sessions) as session:
            made = service.make(
                session, slug, name=name, stored=path, file_name=file_name, settings=ListSettings(), actor=actor
            )
            return _out(session, made)
    except BaseException:
        path.unlink(missing_ok=True)
        raise


@router.post("/registers/{slug}/counterparts", status_code=201, max_body_size=MOST_BYTES, openapi_extra=BODY)
async def make_list(
    request: Request, state: AppState, slug: Slug, actor: Actor, file_name: FileName,
    name: Annotated[Text, Query(min_length=1, max_length=80)],
) -> CounterpartListOut:  # fmt: skip
    """Make a counterpart list of a file; the body is the file itself."""
    base = base_name(file_name)
    path = await stored_upload(request, state.settings, base)
    return await run_in_threadpool(_make, state, slug, name, path, base, actor)


def _replace(state: State, slug: str, name: str, path: Path, file_name: str) -> CounterpartListOut:
    try:
        with transaction(state.sessions) as session:
            return _out(session, service.replace_file(session, slug, name, stored=path, file_name=file_name))
    except BaseException:
        path.unlink(missing_ok=True)
        raise


@router.put(
    "/registers/{slug}/counterparts/{name}/file", max_body_size=MOST_BYTES, openapi_extra=BODY
)  # fmt: skip
async def replace_file(
    request: Request, state: AppState, slug: Slug, name: Name, file_name: FileName
) -> CounterpartListOut:
    """Take a newer file for a list; what people said of its rows stays."""
    base = base_name(file_name)
    path = await stored_upload(request, state.settings, base)
    return await run_in_threadpool(_replace, state, slug, name, path, base)


@router.put("/registers/{slug}/counterparts/{name}")
def change_list(session: Transaction, slug: Slug, name: Name, body: ChangeListIn) -> CounterpartListOut:
    """Change how a list is looked up."""
    mapping = [item.assignment() for item in body.mapping]
    changed = service.change(
        session, slug, name, settings=body.settings.settings(), mapping=mapping, follows=body.follows
    )
    return _out(session, changed)


@router.delete("/registers/{slug}/counterparts/{name}", status_code=204)
def forget_list(session: Transaction, slug: Slug, name: Name) -> None:
    """Remove a list with all that was found and said."""
    service.forget(session, slug, name)


@router.post("/registers/{slug}/counterparts/{name}/run", status_code=202)
def run_list(session: Transaction, slug: Slug, name: Name, actor: Actor) -> JobOut:
    """Look the rows of a list up, in the background."""
    return job_out(service.ask_to_run(session, slug, name, actor=actor), slug)


@router.get("/registers/{slug}/counterparts/{name}/rows")
def list_rows(
    session: Transaction, slug: Slug, name: Name, outcome: Outcome = "",
    search: Annotated[Text, Query(max_length=200)] = "", by_hand: bool = False,
    cursor: Annotated[Text, Query(max_length=2000)] = "", limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> CounterpartRowsOut:  # fmt: skip
    """Rows in the order of the file: of one outcome, holding some letters, or those that a person settled."""
    return _rows_out(
        rows.rows_page(session, slug, name, outcome=outcome, search=search, by_hand=by_hand, cursor=cursor, limit=limit)
    )


@router.post("/registers/{slug}/counterparts/{name}/rows")
def say(session: Transaction, slug: Slug, name: Name, actor: Actor, body: SayIn) -> list[CounterpartRowOut]:
    """Say what a row means; it is remembered, whatever run comes."""
    said = rows.Said(body.verdict, body.record_id, body.remark)
    shown = rows.say(session, slug, name, body.key, said, actor=actor)
    return [CounterpartRowOut.model_validate(row, from_attributes=True) for row in shown]


@router.delete("/registers/{slug}/counterparts/{name}/rows")
def take_back(session: Transaction, slug: Slug, name: Name, key: Key) -> list[CounterpartRowOut]:
    """Take back all that people said of a row."""
    shown = rows.take_back(session, slug, name, key)
    return [CounterpartRowOut.model_validate(row, from_attributes=True) for row in shown]


@router.get("/registers/{slug}/counterparts/{name}/unmatched-golden")
def list_unmatched_golden(
    session: Transaction, slug: Slug, name: Name, cursor: Annotated[Text, Query(max_length=2000)] = "",
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> UnmatchedOut:  # fmt: skip
    """Golden records that no matched row means, by number."""
    page = rows.unmatched_golden(session, slug, name, cursor=cursor, limit=limit)
    return UnmatchedOut.model_validate(page, from_attributes=True)


@router.get("/registers/{slug}/counterparts/{name}/table.{file_format}", response_class=Response)
def download(
    state: AppState, slug: Slug, name: Name, file_format: Literal["csv", "xlsx", "jsonl", "parquet"], outcome: Outcome = "",
    best: Annotated[int, Query(ge=1, le=100)] = 1,
) -> StreamingResponse:  # fmt: skip
    """The rows with their counterparts as a table, all columns of the file passed through."""

    def table(session: Session) -> OutTable:
        return send_out.out_table(session, slug, name, outcome=outcome, best=best)

    return sent_table(state, table, file_format, "counterparts")
