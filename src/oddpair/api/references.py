"""References from one register to another."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..services.tidy import references as service
from .dependencies import Actor, Slug, Text, Transaction

router = APIRouter(tags=["references"])


class LikelyTargetOut(BaseModel):
    """A record that a reference might lead to."""

    record_id: int
    source: str
    source_key: str
    name: str


class UnresolvedOut(BaseModel):
    """A reference that leads nowhere yet."""

    record_id: int
    source: str
    source_key: str
    value: str
    likely: list[LikelyTargetOut]


class ReferenceFieldOut(BaseModel):
    """A field that refers to another register: how references are known, and those that are not."""

    field: str
    label: str
    register_slug: str
    by_id: int
    by_name: int
    by_hand: int
    unresolved: int
    listed: list[UnresolvedOut]


class LinkIn(BaseModel):
    """The record of the other register that a reference leads to."""

    record_id: Annotated[int, Field(ge=1, le=2**63 - 1)]
    target_id: Annotated[int, Field(ge=1, le=2**63 - 1)]


def _out(item: service.ReferenceField) -> ReferenceFieldOut:
    listed = [UnresolvedOut.model_validate(entry, from_attributes=True) for entry in item.listed]
    return ReferenceFieldOut(
        field=item.field, label=item.label, register_slug=item.register, by_id=item.by_id, by_name=item.by_name,
        by_hand=item.by_hand, unresolved=item.unresolved, listed=listed,
    )  # fmt: skip


def _all(session: Transaction, slug: str) -> list[ReferenceFieldOut]:
    return [_out(item) for item in service.references(session, slug)]


@router.get("/registers/{slug}/references")
def get_references(session: Transaction, slug: Slug) -> list[ReferenceFieldOut]:
    """What is known of the references of a register."""
    return _all(session, slug)


@router.post("/registers/{slug}/references")
def resolve_again(session: Transaction, slug: Slug) -> list[ReferenceFieldOut]:
    """Resolve all references anew, as after a delivery to the other register."""
    return [_out(item) for item in service.resolve_anew(session, slug)]


@router.put("/registers/{slug}/references/{field}")
def link(session: Transaction, slug: Slug, field: Text, body: LinkIn, actor: Actor) -> list[ReferenceFieldOut]:
    """Link a reference by hand."""
    service.link(session, slug, field, body.record_id, body.target_id, actor=actor)
    return _all(session, slug)
