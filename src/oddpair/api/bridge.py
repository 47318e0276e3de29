"""The bridge between two systems: ids of one source against those of another."""

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from ..services.bridge import bridge as service
from .dependencies import AppState, Slug, Text, Transaction
from .tables import sent_table

router = APIRouter(tags=["bridge"])
BridgeState = Literal["known", "several", "proposed", "in doubt", "none"]
AnyState = Literal["", "known", "several", "proposed", "in doubt", "none"]
Source = Annotated[Text, Query(min_length=1, max_length=60)]


class BridgeRowOut(BaseModel):
    """A record of one source with its partners in the other, those that are known in front: known (of one golden record, or decided to be
    the same), several, proposed (of one cluster), in doubt, or none."""

    record_id: int
    source_key: str
    fields: dict[str, str]
    golden_key: str
    partners: list[str]
    partner_ids: list[int]
    partner_names: list[str]
    state: BridgeState


class BridgeOut(BaseModel):
    """A page of the bridge, by the ids of the one source."""

    rows: list[BridgeRowOut]
    before: str
    behind: str


@router.get("/registers/{slug}/bridge")
def get_bridge(
    session: Transaction, slug: Slug, one: Source, other: Source, state: AnyState = "",
    cursor: Annotated[Text, Query(max_length=2000)] = "", limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> BridgeOut:  # fmt: skip
    """Records of source ``one`` with their partners in source ``other``; of one state where one is named."""
    page = service.bridge_page(session, slug, service.Between(one, other), state=state, cursor=cursor, limit=limit)
    return BridgeOut.model_validate(page, from_attributes=True)


@router.get("/registers/{slug}/bridge/counts")
def count_bridge(session: Transaction, slug: Slug, one: Source, other: Source) -> dict[BridgeState, int]:
    """How many records of source ``one`` stand in each state to source ``other``."""
    return service.counts(session, slug, service.Between(one, other))  # type: ignore[return-value]


@router.get("/registers/{slug}/bridge/table.{file_format}", response_class=Response)
def download_bridge(
    state: AppState, slug: Slug, file_format: Literal["csv", "xlsx", "jsonl", "parquet"], one: Source, other: Source
) -> StreamingResponse:
    """The bridge as a table, with what has no partner on either side."""
    between = service.Between(one, other)
    return sent_table(state, lambda session: service.bridge_table(session, slug, between), file_format, "bridge")
