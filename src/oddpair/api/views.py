"""Saved views of the list of golden records and of the review queue."""

from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel

from ..services.golden import saved
from .asked import SavedView
from .dependencies import Actor, Name, Slug, Transaction
from .desk import SavedQueue, SavedQueueOut

router = APIRouter(tags=["golden"])


class ViewOut(BaseModel):
    """A saved view."""

    name: str
    content: SavedView
    actor: str
    at: datetime


def _out(item: object) -> ViewOut:
    return ViewOut.model_validate(item, from_attributes=True)


@router.get("/registers/{slug}/views")
def saved_views(session: Transaction, slug: Slug) -> list[ViewOut]:
    """The saved views, by name."""
    return [_out(item) for item in saved.saved_of(session, slug, saved.VIEW)]


@router.put("/registers/{slug}/views/{name}")
def save_view(session: Transaction, actor: Actor, slug: Slug, name: Name, body: SavedView) -> ViewOut:
    """Save a view under a name; one of this name is replaced."""
    content = body.model_dump(mode="json", exclude_defaults=True, exclude={"cursor", "limit"})
    return _out(saved.save(session, slug, saved.VIEW, name, content, actor=actor))


@router.delete("/registers/{slug}/views/{name}", status_code=204)
def forget_view(session: Transaction, slug: Slug, name: Name) -> None:
    """Remove a saved view."""
    saved.forget(session, slug, saved.VIEW, name)


def _queue_out(item: object) -> SavedQueueOut:
    return SavedQueueOut.model_validate(item, from_attributes=True)


@router.get("/registers/{slug}/queue-views")
def saved_queues(session: Transaction, slug: Slug) -> list[SavedQueueOut]:
    """The saved views of the queue, by name."""
    return [_queue_out(item) for item in saved.saved_of(session, slug, saved.QUEUE)]


@router.put("/registers/{slug}/queue-views/{name}")
def save_queue(session: Transaction, actor: Actor, slug: Slug, name: Name, body: SavedQueue) -> SavedQueueOut:
    """Save a view of the queue under a name; one of this name is replaced."""
    content = body.model_dump(mode="json", exclude_defaults=True)
    return _queue_out(saved.save(session, slug, saved.QUEUE, name, content, actor=actor))


@router.delete("/registers/{slug}/queue-views/{name}", status_code=204)
def forget_queue(session: Transaction, slug: Slug, name: Name) -> None:
    """Remove a saved view of the queue."""
    saved.forget(session, slug, saved.QUEUE, name)
