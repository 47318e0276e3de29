"""Golden records by their key, for other programs: a retired key answers with where it leads."""

from datetime import datetime
from http import HTTPStatus
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from ..services.standing import by_key as service
from .dependencies import Slug, Text, Transaction
from .golden import Key, RecordName

router = APIRouter(tags=["golden"], prefix="/registers/{slug}")


class KeyedOut(BaseModel):
    """A golden key: what it stands for now. One that was merged ``leads_to`` another; one that ended stands for nobody."""

    key: str
    state: Literal["in force", "merged into", "ended"]
    leads_to: str
    values: dict[str, str]
    records: list[RecordName]
    version: int
    updated_at: datetime


class GoldenKeyOut(BaseModel):
    """The golden key of a record."""

    golden_key: str


@router.get(
    "/keys/{key}",
    responses={
        301: {"description": "Merged into the golden record that Location names", "model": KeyedOut},
        410: {"description": "Ended: all its records left the register", "model": KeyedOut},
    },
)
def get_key(session: Transaction, response: Response, slug: Slug, key: Key) -> KeyedOut:
    """What a golden key stands for: 200 with its values and the crosswalk, 301 with where it leads, 410 where it ended."""
    found = service.by_key(session, slug, key)
    if found.state == "merged into":
        response.status_code = HTTPStatus.MOVED_PERMANENTLY
        response.headers["Location"] = f"/api/registers/{slug}/keys/{found.leads_to}"
    elif found.state == "ended":
        response.status_code = HTTPStatus.GONE
    return KeyedOut(
        key=found.key, state=found.state, leads_to=found.leads_to, values=dict(found.values), version=found.version,
        records=[RecordName(source=source, source_key=own) for source, own in found.records], updated_at=found.updated_at,
    )  # fmt: skip


@router.get("/crosswalk")
def crosswalk(
    session: Transaction, slug: Slug, source: Annotated[Text, Query(max_length=200)],
    source_key: Annotated[Text, Query(max_length=400)],
) -> GoldenKeyOut:  # fmt: skip
    """The golden key of a record, by its source and the source's id."""
    return GoldenKeyOut(golden_key=service.key_of_record(session, slug, source, source_key))
