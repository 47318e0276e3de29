"""Rows that were set aside: listed, downloaded, mended."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from ..files.writers import CONTENT_TYPES, table_chunks
from ..services.bring_in import rejected_rows as service
from .dependencies import Actor, RecordId, SmallId, Text, Transaction

router = APIRouter(tags=["deliveries"])


class RejectedOut(BaseModel):
    """A row set aside; ``cells`` by column where they could be told apart."""

    id: int
    row_number: int
    column_name: str
    value: str
    reason: str
    cells: dict[str, str] | None
    mended_at: datetime | None


class RejectedPageOut(BaseModel):
    """A page of rows set aside, with how many there are in all and how many of them still wait."""

    total: int
    waiting: int
    rows: list[RejectedOut]


class MendIn(BaseModel):
    """The cells of a row, by column, as a person mended them."""

    cells: dict[Text, Text]


def _out(row: object) -> RejectedOut:
    return RejectedOut.model_validate(row, from_attributes=True)


@router.get("/deliveries/{delivery_id}/rejected")
def list_rejected(
    session: Transaction, delivery_id: SmallId,
    offset: Annotated[int, Query(ge=0, le=100_000_000)] = 0, limit: Annotated[int, Query(ge=1, le=500)] = 200,
) -> RejectedPageOut:  # fmt: skip
    """The rows set aside, with reasons."""
    page = service.rejected_page(session, delivery_id, offset=offset, limit=limit)
    return RejectedPageOut(total=page.total, waiting=page.waiting, rows=[_out(row) for row in page.rows])


@router.get("/deliveries/{delivery_id}/rejected.csv", response_class=Response)
def download_rejected(session: Transaction, delivery_id: SmallId) -> Response:
    """The rows set aside as CSV: why, and their cells under the columns of the file."""
    name, columns, rows = service.rejected_table(session, delivery_id)
    body = b"".join(table_chunks("csv", columns, rows, "rejected"))
    headers = {"Content-Disposition": f'attachment; filename="{name}.csv"'}
    return Response(body, media_type=CONTENT_TYPES["csv"], headers=headers)


@router.post("/rejected/{row_id}/mend")
def mend_row(session: Transaction, row_id: RecordId, body: MendIn, actor: Actor) -> RejectedOut:
    """Bring a row in as a person mended it."""
    return _out(service.mend(session, row_id, body.cells, actor=actor))
