"""Watching over the work in a register."""

from datetime import UTC, date, datetime
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, ConfigDict, Field

from ..services.review import watch as service
from .dependencies import Slug, Text, Transaction
from .desk import AgreementOut

router = APIRouter(tags=["review"])


class _Out(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class DayOut(_Out):
    """How much a person decided on a day and did not take back, by verdict."""

    actor: str
    day: date
    same: int
    different: int
    later: int


class PaceOut(_Out):
    """How long a decision took a person, in seconds: the middle one of ``pauses``, longer ones than ten minutes left out."""

    actor: str
    pauses: int
    median_s: float


class AskedPersonOut(_Out):
    """How many doubts wait for a person who was asked, how many of them for more than a week, and since when the oldest."""

    name: str
    waiting: int
    late: int
    oldest: datetime


class ProposalCountOut(_Out):
    """How many proposals wait, were sent back, or ended in the last days otherwise, and since when the oldest."""

    state: str
    count: int
    oldest: datetime


class WatchOut(_Out):
    """How the work in a register goes."""

    days: list[DayOut]
    paces: list[PaceOut]
    agreement: AgreementOut
    waiting: int
    put_off: int
    asked: list[AskedPersonOut]
    proposals: list[ProposalCountOut]


@router.get("/registers/{slug}/watch")
def get_watch(
    session: Transaction, slug: Slug, days: Annotated[int, Query(ge=1, le=90)] = 14,
    zone: Annotated[Text, Field(max_length=60)] = "UTC",
) -> WatchOut:  # fmt: skip
    """How the work in a register goes: what was decided by whom in the last days of a time zone, how long it took, what is overdue."""
    found = service.watch(session, slug, days=days, zone=zone, now=datetime.now(UTC))
    return WatchOut.model_validate(found, from_attributes=True)
