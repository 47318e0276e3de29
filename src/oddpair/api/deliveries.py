"""Deliveries: uploading, mapping, loading, rejected rows."""

from dataclasses import asdict
from datetime import datetime
from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from ..core.mapping import Assignment
from ..files import Reading
from ..files.encodings import ENCODINGS, encoding_in_words
from ..services.bring_in import drafts as bring_in
from ..services.bring_in import take_back
from ..services.bring_in.ask_to_change import ask_to_change
from ..services.transactions import transaction
from .dependencies import (
    Actor,
    AppState,
    Slug,
    SmallId,
    State,
    Text,
    Transaction,
)
from .jobs import JobOut, job_out
from .uploads import BODY, MOST_BYTES, FileName, base_name, stored_upload

router = APIRouter(tags=["deliveries"])

#: Whether a delivery holds everything its source has, or only what changed; and what becomes of records it lacks.
Delivers = Literal["full", "changes"]
Gone = Literal["keep", "end"]


class AssignmentModel(BaseModel):
    """A field (or "id") and the column, or else the constant, that its value comes from; a label names the value.

    ``continues``: this column goes on where the field's column before is full, which is at so many letters.
    """

    field: Text
    column: Text = ""
    constant: Text = ""
    label: Text = ""
    continues: Annotated[int, Field(ge=0, le=1000)] = 0

    def assignment(self) -> Assignment:
        """Return the assignment as the core knows it."""
        return Assignment(**self.model_dump())


class DeliveryOut(BaseModel):
    """A delivery with its counts; rows = new + changed + unchanged + rejected. ``outcomes`` counts its records by what came of them: null
    where nobody recognises them, empty until they are."""

    id: int
    source: str
    file_name: str
    format: str
    columns: list[str]
    mapping: list[AssignmentModel]
    delivers: Delivers
    gone: Gone
    status: str
    counts: dict[str, int] | None
    outcomes: dict[str, int] | None
    created_at: datetime
    loaded_at: datetime | None


class ProposalOut(BaseModel):
    """What a column is taken to be, how surely (0 to 1), and why."""

    column: str
    target: str
    confidence: float
    reason: str
    label: str
    continues: int


class EncodingOut(BaseModel):
    """An encoding that can be chosen, and how people call it."""

    name: str
    label: str


class FormatOut(BaseModel):
    """How the file is read, and what else could be chosen; ``header_row`` is none where the format has no such row.

    ``looks_misread`` tells that its letters make no sense in the encoding that was found.
    """

    kind: str
    sheet: str
    sheets: list[str]
    header_row: int | None
    path: str
    paths: list[str]
    encoding: str
    encodings: list[EncodingOut]
    looks_misread: bool


class PreviewOut(BaseModel):
    """A draft delivery to be checked: proposals, first rows, and columns that came or went since the last delivery."""

    delivery: DeliveryOut
    format: FormatOut
    proposals: list[ProposalOut]
    remembered: bool
    new_columns: list[str]
    missing_columns: list[str]
    rows: list[dict[str, str]]


class ReadingIn(BaseModel):
    """Another way to read a file: a sheet, a header row (0: none), a path to the records of a JSON document, an encoding."""

    encoding: Text = ""
    sheet: Text = ""
    header_row: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    path: Text = ""


class MappingIn(BaseModel):
    """A mapping; columns that no assignment names are ignored."""

    mapping: Annotated[list[AssignmentModel], Field(max_length=2000)]

    def assignments(self) -> list[Assignment]:
        """Return the mapping as the core knows it."""
        return [item.assignment() for item in self.mapping]


class LoadIn(MappingIn):
    """A mapping, and what the delivery stands for."""

    delivers: Delivers = "full"
    gone: Gone = "keep"


class TriedRow(BaseModel):
    """A row under a mapping: delivered fields beside tidy values."""

    record_id: str
    fields: dict[str, str]
    tidy: dict[str, str]


class SetAside(BaseModel):
    """A row that would be set aside."""

    row_number: int
    column_name: str
    value: str
    reason: str


class TroubleOut(BaseModel):
    """What most of the first rows lack, and the mapping that would cure it, with words for it; empty where nobody can tell."""

    says: str
    cure: list[AssignmentModel]
    cure_says: str


class TriedOut(BaseModel):
    """What a mapping makes of the first rows."""

    rows: list[TriedRow]
    rejected: list[SetAside]
    trouble: TroubleOut | None


def _out(delivery: object, source: str) -> DeliveryOut:
    values = {name: getattr(delivery, name) for name in DeliveryOut.model_fields if name not in ("source", "outcomes")}
    told = getattr(delivery, "outcomes", None)
    counts = told and {name: number for name, number in told.items() if isinstance(number, int)}
    return DeliveryOut(source=source, outcomes=counts, **values)


def _encodings(present: str) -> list[EncodingOut]:
    """Return what can be chosen, with the present encoding among it; nothing for formats that have no choice."""
    names = dict.fromkeys([present, *ENCODINGS] if present not in ENCODINGS else ENCODINGS) if present else {}
    return [EncodingOut(name=name, label=encoding_in_words(name)) for name in names]


def preview_out(preview: bring_in.Preview) -> PreviewOut:
    """Return a draft delivery as it is sent."""
    format_ = preview.format
    return PreviewOut(
        delivery=_out(preview.delivery, preview.source.name),
        format=FormatOut(
            kind=format_.kind, sheet=format_.sheet, sheets=list(format_.sheets), path=format_.path, paths=list(format_.paths),
            header_row=format_.header_row if format_.has_header_row else None,
            encoding=format_.encoding, encodings=_encodings(format_.encoding), looks_misread=format_.looks_misread,
        ),
        proposals=[ProposalOut.model_validate(item, from_attributes=True) for item in preview.proposals],
        remembered=preview.remembered,
        new_columns=list(preview.new_columns),
        missing_columns=list(preview.missing_columns),
        rows=preview.rows,
    )  # fmt: skip


@router.get("/registers/{slug}/deliveries")
def list_deliveries(session: Transaction, slug: Slug) -> list[DeliveryOut]:
    """The register's deliveries, newest first."""
    return [_out(delivery, source) for delivery, source in bring_in.deliveries(session, slug)]


def _receive(state: State, slug: str, path: Path, file_name: str, source: str) -> PreviewOut:
    try:
        with transaction(state.sessions) as session:
            return preview_out(bring_in.receive(session, slug, path, file_name, source))
    except BaseException:
        path.unlink(missing_ok=True)
        raise


@router.post("/registers/{slug}/deliveries", status_code=201, max_body_size=MOST_BYTES, openapi_extra=BODY)
async def upload(
    request: Request,
    state: AppState,
    slug: Slug,
    file_name: FileName,
    source: Annotated[Text, Query(max_length=60)] = "",
) -> PreviewOut:
    """Bring a file in as a draft delivery; the body is the file itself."""
    base = base_name(file_name)
    path = await stored_upload(request, state.settings, base)
    return await run_in_threadpool(_receive, state, slug, path, base, source)


@router.get("/deliveries/{delivery_id}")
def get_preview(session: Transaction, state: AppState, delivery_id: SmallId) -> PreviewOut:
    """A delivery with proposals and first rows."""
    return preview_out(bring_in.preview(session, delivery_id, state.settings.deliveries))


@router.put("/deliveries/{delivery_id}/reading")
def read_again(session: Transaction, state: AppState, delivery_id: SmallId, body: ReadingIn) -> PreviewOut:
    """Read a draft's file in another way."""
    return preview_out(
        bring_in.read_again(session, delivery_id, Reading(**body.model_dump()), state.settings.deliveries)
    )


@router.post("/deliveries/{delivery_id}/try")
def try_mapping(session: Transaction, state: AppState, delivery_id: SmallId, body: MappingIn) -> TriedOut:
    """See what a mapping makes of the first rows."""
    tried = bring_in.try_mapping(session, delivery_id, body.assignments(), state.settings.deliveries)
    rejected = [
        SetAside(row_number=r.number, column_name=r.column, value=r.value, reason=r.reason) for r in tried.rejected
    ]
    trouble = tried.trouble
    return TriedOut(
        rows=[TriedRow(record_id=i, fields=f, tidy=t) for i, f, t in tried.rows],
        rejected=rejected,
        trouble=trouble
        and TroubleOut(
            says=trouble.says,
            cure=[AssignmentModel(**asdict(item)) for item in trouble.cure],
            cure_says=trouble.cure_says,
        ),
    )


@router.post("/registers/{slug}/deliveries/{delivery_id}/load", status_code=202)
def load(session: Transaction, slug: Slug, delivery_id: SmallId, body: LoadIn, actor: Actor) -> JobOut:
    """Load a draft delivery with this mapping, in the background."""
    job = bring_in.ask_to_load(
        session, slug, delivery_id, body.assignments(), delivers=body.delivers, gone=body.gone, actor=actor
    )
    return job_out(job, slug)


@router.delete("/deliveries/{delivery_id}", status_code=204)
def discard(session: Transaction, delivery_id: SmallId) -> None:
    """Discard a draft delivery."""
    bring_in.discard(session, delivery_id)


class TakeBackOut(BaseModel):
    """What taking a delivery back would do to records, and how many golden records would lose some."""

    withdrawn: int
    restored: int
    staying: int
    golden: int


@router.get("/deliveries/{delivery_id}/take-back")
def preview_take_back(session: Transaction, delivery_id: SmallId) -> TakeBackOut:
    """What taking a loaded delivery back would do."""
    return TakeBackOut.model_validate(take_back.preview_take_back(session, delivery_id), from_attributes=True)


@router.post("/registers/{slug}/deliveries/{delivery_id}/{change}", status_code=202)
def take_back_or_put_back(
    session: Transaction, slug: Slug, delivery_id: SmallId, change: Literal["take-back", "put-back"], actor: Actor
) -> JobOut:
    """Take a loaded delivery back, or put it back into force, in the background."""
    return job_out(ask_to_change(session, slug, delivery_id, change, actor=actor), slug)
