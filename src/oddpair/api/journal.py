"""The journal of a register: every act, newest first, and undoing."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from ..services.golden import undo as undoing
from ..services.journal import entries as service
from .dependencies import Actor, RecordId, Slug, Transaction

router = APIRouter(tags=["journal"])


class UndoneOut(BaseModel):
    """The journal entry that records that a step was undone."""

    entry: int


@router.get("/registers/{slug}/journal")
def get_journal(
    session: Transaction, slug: Slug, before: Annotated[int | None, Query(ge=1, le=2**63 - 1)] = None,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> service.JournalPage:  # fmt: skip
    """Every act in a register, newest first."""
    return service.journal_page(session, slug, before=before, limit=limit)


@router.post("/journal/{entry_id}/undo", status_code=201)
def undo(
    session: Transaction, actor: Actor, entry_id: RecordId, part: Annotated[int, Query(ge=1, le=2**31 - 1)] = 1,
    with_later: bool = False,
) -> UndoneOut:  # fmt: skip
    """Undo a step of a golden record's history; ``with_later`` takes along the later steps that rest on it."""
    return UndoneOut(entry=undoing.undo_step(session, entry_id, part, actor=actor, with_later=with_later))
