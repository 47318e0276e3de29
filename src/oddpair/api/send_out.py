"""Sending out golden records, the crosswalk, keys and changes; send-outs that are saved under a name."""

from datetime import datetime
from typing import Annotated
from urllib.parse import urlencode

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from ..services.golden import saved
from ..services.golden.send_out import Wanted, out_table
from ..services.transactions import Session
from .asked import FileFormat, SavedSendOut, SendOutAsked, Table
from .dependencies import Actor, AppState, Hidden, Name, Slug, Transaction
from .tables import sent_table

router = APIRouter(tags=["send out"])


@router.get("/registers/{slug}/send-out/{table}.{file_format}", response_class=Response)
def download(
    state: AppState,
    hidden: Hidden,
    slug: Slug,
    table: Table,
    file_format: FileFormat,
    query: Annotated[SendOutAsked, Query()],
) -> StreamingResponse:
    """A table as CSV, XLSX, JSON Lines or Parquet; golden records also as vCard 4.0."""
    return sent_table(
        state, lambda session: out_table(session, slug, table, query.wanted(), file_format), file_format, hidden=hidden
    )


class SendOutOut(BaseModel):
    """A saved send-out; ``last_at`` is up to when its latest run had seen everything."""

    name: str
    content: SavedSendOut
    actor: str
    at: datetime
    last_at: datetime | None


class BegunOut(BaseModel):
    """Where a send-out that begins now can be fetched, as often as need be."""

    address: str


def _out(item: object) -> SendOutOut:
    return SendOutOut.model_validate(item, from_attributes=True)


@router.get("/registers/{slug}/send-outs")
def saved_send_outs(session: Transaction, slug: Slug) -> list[SendOutOut]:
    """The saved send-outs, by name."""
    return [_out(item) for item in saved.saved_of(session, slug, saved.SEND_OUT)]


@router.put("/registers/{slug}/send-outs/{name}")
def save_send_out(session: Transaction, actor: Actor, slug: Slug, name: Name, body: SavedSendOut) -> SendOutOut:
    """Save a send-out under a name; one of this name is replaced."""
    out_table(session, slug, body.table, body.wanted(), body.file_format)
    content = body.model_dump(mode="json", exclude_defaults=True)
    return _out(saved.save(session, slug, saved.SEND_OUT, name, content, actor=actor))


@router.delete("/registers/{slug}/send-outs/{name}", status_code=204)
def forget_send_out(session: Transaction, slug: Slug, name: Name) -> None:
    """Remove a saved send-out."""
    saved.forget(session, slug, saved.SEND_OUT, name)


@router.post("/registers/{slug}/send-outs/{name}/run")
def run_send_out(session: Transaction, actor: Actor, slug: Slug, name: Name) -> BegunOut:
    """Begin a saved send-out: changes are those since its latest run, unless it names a moment."""
    content = _begun(session, slug, name, actor)
    asked = content.model_dump(mode="json", exclude_defaults=True, exclude={"table", "file_format"})
    query = urlencode(asked, doseq=True)
    path = f"/api/registers/{slug}/send-out/{content.table}.{content.file_format}"
    return BegunOut(address=f"{path}?{query}" if query else path)


def _begun(session: Session, slug: str, name: str, actor: str) -> SavedSendOut:
    item, since = saved.begin_send_out(session, slug, name, actor=actor)
    content = SavedSendOut.model_validate(item.content)
    if content.table == "changes" and content.since is None:
        content.since = since
    return content


def saved_wanted(session: Session, slug: str, name: str, *, actor: str) -> tuple[str, str, Wanted]:
    """Begin a saved send-out; return (table, format, what is wanted of it)."""
    content = _begun(session, slug, name, actor)
    return content.table, content.file_format, content.wanted()
