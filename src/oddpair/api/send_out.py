"""Sending out golden records and the crosswalk."""

from typing import Literal

from fastapi import APIRouter, Response
from fastapi.responses import StreamingResponse

from ..files.writers import CONTENT_TYPES, table_chunks
from ..services.golden.send_out import TABLES
from .dependencies import Slug, Transaction

router = APIRouter(tags=["send out"])


@router.get("/registers/{slug}/send-out/{table}.{file_format}", response_class=Response)
def download(
    session: Transaction,
    slug: Slug,
    table: Literal["golden", "crosswalk"],
    file_format: Literal["csv", "xlsx", "jsonl"],
) -> StreamingResponse:
    """Golden records or the crosswalk, as CSV, XLSX or JSON Lines."""
    out = TABLES[table](session, slug)
    headers = {"Content-Disposition": f'attachment; filename="{out.name}.{file_format}"'}
    chunks = table_chunks(file_format, out.columns, out.rows, out.name)
    return StreamingResponse(chunks, media_type=CONTENT_TYPES[file_format], headers=headers)
