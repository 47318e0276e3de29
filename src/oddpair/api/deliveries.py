"""Deliveries: uploading, mapping, loading, rejected rows."""

import os
from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel

from ..core.errors import InputError
from ..files.writers import CONTENT_TYPES, table_chunks
from ..services import bring_in, work
from ..store import deliveries as store
from ..store.registers import register_by_slug
from ..store.tables import Delivery
from .dependencies import AppState, Slug, SmallId, State, Text, Transaction
from .jobs import JobOut, job_out

router = APIRouter(tags=["deliveries"])


class DeliveryOut(BaseModel):
    """A delivery with its counts; rows = new + changed + unchanged + rejected."""

    id: int
    source: str
    file_name: str
    format: str
    columns: list[str]
    mapping: dict[str, str]
    status: str
    counts: dict[str, int] | None
    created_at: datetime
    loaded_at: datetime | None


class ProposalOut(BaseModel):
    """What a column is taken to be, how surely (0 to 1), and why."""

    column: str
    target: str
    confidence: float
    reason: str


class PreviewOut(BaseModel):
    """A draft delivery to be checked: proposals and first rows."""

    delivery: DeliveryOut
    proposals: list[ProposalOut]
    remembered: bool
    rows: list[dict[str, str]]


class MappingIn(BaseModel):
    """Column → field name, "id", or "" to ignore it."""

    mapping: dict[Text, Text]


class TriedRow(BaseModel):
    """A row under a mapping: delivered fields beside tidy values."""

    record_id: str
    fields: dict[str, str]
    tidy: dict[str, str]


class RejectedOut(BaseModel):
    """A row set aside."""

    row_number: int
    column_name: str
    value: str
    reason: str


class TriedOut(BaseModel):
    """What a mapping makes of the first rows."""

    rows: list[TriedRow]
    rejected: list[RejectedOut]


def _out(delivery: Delivery, source: str) -> DeliveryOut:
    values = {name: getattr(delivery, name) for name in DeliveryOut.model_fields if name != "source"}
    return DeliveryOut(source=source, **values)


def _preview(preview: bring_in.Preview) -> PreviewOut:
    proposals = [ProposalOut.model_validate(item, from_attributes=True) for item in preview.proposals]
    return PreviewOut(
        delivery=_out(preview.delivery, preview.source),
        proposals=proposals,
        remembered=preview.remembered,
        rows=preview.rows,
    )


@router.get("/registers/{slug}/deliveries")
def list_deliveries(session: Transaction, slug: Slug) -> list[DeliveryOut]:
    """The register's deliveries, newest first."""
    register = register_by_slug(session, slug)
    return [_out(delivery, source.name) for delivery, source in store.deliveries_of(session, register.id)]


async def _store(request: Request, folder: Path, file_name: str, most_bytes: int) -> Path:
    """Stream the body into a file of its own; nothing is left behind if it is too large or breaks off."""
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{uuid4().hex}{Path(file_name).suffix[:10].lower()}"
    size = 0
    try:
        with path.open("xb") as file:
            async for chunk in request.stream():
                size += len(chunk)
                if size > most_bytes:
                    raise InputError(
                        f"the file is larger than the {most_bytes // 1_000_000} MB that can be brought in",
                        file=file_name,
                    )
                file.write(chunk)
            file.flush()
            os.fsync(file.fileno())
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return path


def _receive(state: State, slug: str, path: Path, file_name: str, source: str) -> PreviewOut:
    try:
        with state.sessions.begin() as session:
            return _preview(bring_in.receive(session, slug, path, file_name, source))
    except BaseException:
        path.unlink(missing_ok=True)
        raise


@router.post("/registers/{slug}/deliveries", status_code=201, max_body_size=4_000_000_000, openapi_extra={
    "requestBody": {"required": True, "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}
})  # fmt: skip
async def upload(
    request: Request, state: AppState, slug: Slug,
    file_name: Annotated[Text, Query(min_length=1, max_length=255)], source: Annotated[Text, Query(max_length=60)] = "",
) -> PreviewOut:  # fmt: skip
    """Bring a file in as a draft delivery; the body is the file itself."""
    base = Path(file_name.replace("\\", "/")).name or "file"
    path = await _store(request, state.settings.deliveries, base, state.settings.most_upload_bytes)
    return await run_in_threadpool(_receive, state, slug, path, base, source)


@router.get("/deliveries/{delivery_id}")
def get_preview(session: Transaction, state: AppState, delivery_id: SmallId) -> PreviewOut:
    """A delivery with proposals and first rows."""
    return _preview(bring_in.preview(session, delivery_id, state.settings.deliveries))


@router.post("/deliveries/{delivery_id}/try")
def try_mapping(session: Transaction, state: AppState, delivery_id: SmallId, body: MappingIn) -> TriedOut:
    """See what a mapping makes of the first rows."""
    tried = bring_in.try_mapping(session, delivery_id, body.mapping, state.settings.deliveries)
    rejected = [
        RejectedOut(row_number=r.number, column_name=r.column, value=r.value, reason=r.reason) for r in tried.rejected
    ]
    return TriedOut(rows=[TriedRow(record_id=i, fields=f, tidy=t) for i, f, t in tried.rows], rejected=rejected)


@router.post("/registers/{slug}/deliveries/{delivery_id}/load", status_code=202)
def load(state: AppState, slug: Slug, delivery_id: SmallId, body: MappingIn) -> JobOut:
    """Load a draft delivery with this mapping, in the background."""
    with state.sessions.begin() as session:
        delivery = bring_in.check_loadable(session, delivery_id, body.mapping)
        job = work.ask_for(session, slug, "load", f"Bring in {delivery.file_name}", {"delivery_id": delivery_id})
        answer = job_out(job)
    state.enqueue(answer.id)
    return answer


@router.delete("/deliveries/{delivery_id}", status_code=204)
def discard(session: Transaction, delivery_id: SmallId) -> None:
    """Discard a draft delivery."""
    bring_in.discard(session, delivery_id)


def _rejected(rows: Sequence[object]) -> list[RejectedOut]:
    return [RejectedOut.model_validate(row, from_attributes=True) for row in rows]


@router.get("/deliveries/{delivery_id}/rejected")
def list_rejected(session: Transaction, delivery_id: SmallId) -> list[RejectedOut]:
    """The rows set aside, with reasons."""
    store.delivery_by_id(session, delivery_id)
    return _rejected(store.rejected_rows(session, delivery_id))


@router.get("/deliveries/{delivery_id}/rejected.csv", response_class=Response)
def download_rejected(session: Transaction, delivery_id: SmallId) -> Response:
    """The rows set aside as CSV."""
    delivery = store.delivery_by_id(session, delivery_id)
    rows = [
        {"row": str(row.row_number), "column": row.column_name, "reason": row.reason, "value": row.value}
        for row in _rejected(store.rejected_rows(session, delivery_id))
    ]
    body = b"".join(table_chunks("csv", ("row", "column", "reason", "value"), rows, "rejected"))
    name = f"{Path(delivery.stored_as).stem[:8]}-rejected.csv"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(body, media_type=CONTENT_TYPES["csv"], headers=headers)
