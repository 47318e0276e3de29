"""Profiles: what fields and columns look like."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from ..core.profiling import ODDITIES
from ..services import work
from ..services.bring_in.draft_profile import profile_draft
from ..services.tidy.profile import Scope, profile_of
from .dependencies import AppState, Slug, SmallId, Text, Transaction
from .jobs import JobOut, job_out

router = APIRouter(tags=["profile"])


class ValueCountOut(BaseModel):
    """A value, a shape or a kind, and how many records hold it."""

    value: str
    records: int


class FieldProfileOut(BaseModel):
    """What a field looks like; ``further`` says how many records hold a second and a third value."""

    name: str
    label: str
    kind: str
    checked: bool
    further: list[int]
    records: int
    filled: int
    empty: int
    distinct: int
    single: int
    frequent: list[ValueCountOut]
    shapes: list[ValueCountOut]
    rare_shapes: list[ValueCountOut]
    shortest: int
    usual_length: int
    longest: int
    odd: list[ValueCountOut]
    gap_fillers: list[ValueCountOut]
    invalid: int
    invalid_examples: list[ValueCountOut]


class ProfileOut(BaseModel):
    """The profile of all fields of some records; ``odd_letters`` says what the kinds of odd letters are."""

    records: int
    fields: list[FieldProfileOut]
    odd_letters: dict[str, str]


class ProfileAnswer(BaseModel):
    """A profile, or, where there are too many records to wait for it, none yet."""

    profile: ProfileOut | None


def _out(result: dict[str, object]) -> ProfileOut:
    return ProfileOut.model_validate(
        {**result, "odd_letters": {name: oddity.says for name, oddity in ODDITIES.items()}}
    )


SourceName = Annotated[Text, Query(max_length=60)]
DeliveryNumber = Annotated[int, Query(ge=0, le=2**31 - 1)]


@router.get("/registers/{slug}/profile")
def get_profile(
    session: Transaction, slug: Slug, source: SourceName = "", delivery: DeliveryNumber = 0
) -> ProfileAnswer:
    """The profile of a register's fields, of all records or those of a source or a delivery."""
    result = profile_of(session, slug, Scope(source, delivery))
    return ProfileAnswer(profile=_out(result) if result else None)


@router.post("/registers/{slug}/profile", status_code=202)
def ask_for_profile(session: Transaction, slug: Slug, source: SourceName = "", delivery: DeliveryNumber = 0) -> JobOut:
    """Make a profile in the background."""
    arguments = {"register": slug, "source": source, "delivery_id": delivery}
    return job_out(work.ask_for(session, slug, "profile", "Look at values", arguments), slug)


@router.get("/deliveries/{delivery_id}/profile")
def get_draft_profile(session: Transaction, state: AppState, delivery_id: SmallId) -> ProfileOut:
    """The profile of the columns of a delivery's file."""
    return _out(profile_draft(session, delivery_id, state.settings.deliveries))
