"""Saved views of the list of golden records."""

from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel

from ..services.golden import saved
from .asked import SavedView
from .dependencies import Actor, Name, Slug, Transaction

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
