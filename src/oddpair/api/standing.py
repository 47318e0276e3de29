"""The register as a standing service: recognition of deliveries, and what came of them."""

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel, ConfigDict, Field

from ..services.standing import outcomes
from ..services.standing.switch import ask_to_recognise, choose_parents, choose_recognisable, switch_recognition
from .dependencies import Actor, Slug, SmallId, Text, Transaction
from .jobs import JobOut, job_out

router = APIRouter(tags=["standing"], prefix="/registers/{slug}")
OutcomeWord = Literal["unchanged", "updated", "recognised", "added", "doubtful", "refused", "ended"]


class OnlyModel(BaseModel):
    """Which golden records may be recognised: those whose field holds one of some values; all, where no field is named."""

    model_config = ConfigDict(extra="forbid")
    field: Annotated[Text, Field(max_length=80)] = ""
    values: Annotated[list[Annotated[Text, Field(max_length=200)]], Field(max_length=100)] = []


class RecognitionIn(BaseModel):
    """Whether deliveries are recognised as they come in; and, where they are named, which golden records may be recognised, and what
    becomes of records that refer to something that is not there."""

    model_config = ConfigDict(extra="forbid")
    on: bool
    only: OnlyModel | None = None
    parents: Literal["tell", "aside", "make"] | None = None


class RecognitionOut(BaseModel):
    """How recognition stands: whether it is ``on``, why everything is matched the next time ("" if it need not be), how many records
    changed since clusters were formed, and from how many records, when, what it rests on was learned; by which values of a field ("" for
    any) golden records may be recognised; what becomes of records without a parent, where a field, ``parent_field``, refers to one."""

    on: bool
    hindrance: str
    changed: int
    learned_from: int
    learned_at: datetime | None
    only_field: str
    only_values: list[str]
    parents: Literal["tell", "aside", "make"]
    parent_field: str


class DeliveryOutcomesOut(BaseModel):
    """What came of a delivery: records by outcome, and in how many updated ones each field changed."""

    source: str
    file_name: str
    counts: dict[str, int]
    fields: dict[str, int]


class OutcomeRecordOut(BaseModel):
    """A record of a delivery with the key of its golden record ("" for none), and the fields that changed."""

    id: int
    source_key: str
    fields: dict[str, str]
    golden_key: str
    changed: list[str]


@router.get("/recognition")
def get_recognition(session: Transaction, slug: Slug) -> RecognitionOut:
    """How recognition stands."""
    return RecognitionOut.model_validate(outcomes.recognition_of(session, slug), from_attributes=True)


@router.put("/recognition")
def set_recognition(session: Transaction, slug: Slug, actor: Actor, body: RecognitionIn) -> RecognitionOut:
    """Let deliveries be recognised as they come in, or leave matching and merging to people."""
    if body.only is not None:
        choose_recognisable(session, slug, body.only.field, body.only.values, actor=actor)
    if body.parents is not None:
        choose_parents(session, slug, body.parents, actor=actor)
    switch_recognition(session, slug, body.on, actor=actor)
    return RecognitionOut.model_validate(outcomes.recognition_of(session, slug), from_attributes=True)


@router.post("/recognition", status_code=202)
def recognise_now(session: Transaction, slug: Slug, actor: Actor) -> JobOut:
    """Recognise what came in until now."""
    return job_out(ask_to_recognise(session, slug, actor=actor), slug)


@router.get("/deliveries/{delivery_id}/outcomes")
def delivery_outcomes(session: Transaction, slug: Slug, delivery_id: SmallId) -> DeliveryOutcomesOut:
    """What came of the records of a delivery."""
    return DeliveryOutcomesOut.model_validate(outcomes.outcomes_of(session, slug, delivery_id), from_attributes=True)


@router.get("/deliveries/{delivery_id}/outcomes/{outcome}")
def records_of_outcome(
    session: Transaction, slug: Slug, delivery_id: SmallId, outcome: OutcomeWord,
    after: Annotated[int, Query(ge=0, le=2**62)] = 0, limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> list[OutcomeRecordOut]:  # fmt: skip
    """A page of the records of a delivery that came out in one way, by record; ``after`` is the last record of the page before."""
    found = outcomes.records_of(session, slug, delivery_id, outcome, after, limit)
    return [OutcomeRecordOut.model_validate(record, from_attributes=True) for record in found]
