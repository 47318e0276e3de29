"""Sending out golden records and the crosswalk."""

from collections.abc import Iterator
from contextlib import ExitStack
from typing import Literal

from fastapi import APIRouter, Response
from fastapi.responses import StreamingResponse

from ..files.writers import CONTENT_TYPES, table_chunks
from ..services.golden.send_out import TABLES
from ..services.transactions import transaction
from .dependencies import AppState, Slug

router = APIRouter(tags=["send out"])


@router.get("/registers/{slug}/send-out/{table}.{file_format}", response_class=Response)
def download(
    state: AppState,
    slug: Slug,
    table: Literal["golden", "crosswalk"],
    file_format: Literal["csv", "xlsx", "jsonl"],
) -> StreamingResponse:
    """Golden records or the crosswalk, as CSV, XLSX or JSON Lines."""
    # The rows are read while they are sent, so the transaction lasts as long as the answer.
    stack = ExitStack()
    out = TABLES[table](stack.enter_context(transaction(state.sessions)), slug)
    headers = {"Content-Disposition": f'attachment; filename="{out.name}.{file_format}"'}

    def chunks() -> Iterator[bytes]:
        with stack:
            yield from table_chunks(file_format, out.columns, out.rows, out.name)

    return StreamingResponse(chunks(), media_type=CONTENT_TYPES[file_format], headers=headers)
