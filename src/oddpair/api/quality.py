"""Quality rules, and the correction of fields in one step."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..core.profiling import RULE_KINDS
from ..services.tidy import corrections
from ..services.tidy import quality as service
from .dependencies import Actor, RecordId, Slug, Text, Transaction

router = APIRouter(tags=["quality"])


class RuleModel(BaseModel):
    """A rule of a field; ``asked`` is what its kind asks for: shapes, a table, another field."""

    field: Text
    kind: Text
    asked: Text = ""


class ShareOut(BaseModel):
    """How many of a source's records fail."""

    source: str
    records: int
    failing: int


class PastShareOut(ShareOut):
    """How many failed after a delivery."""

    at: datetime


class MeasuredRuleOut(BaseModel):
    """A rule in words, with its shares now, per source, and over time, oldest first."""

    key: str
    rule: RuleModel
    words: str
    shares: list[ShareOut]
    history: list[PastShareOut]


class RuleKindOut(BaseModel):
    """A kind of rule, what it says, and what it asks for: a text, a table, a field, or nothing."""

    name: str
    says: str
    asks: str


class QualityOut(BaseModel):
    """All rules, measured, and the kinds of rules there are; ``version`` is that of the register's settings."""

    version: int
    rules: list[MeasuredRuleOut]
    kinds: list[RuleKindOut]


class RulesIn(BaseModel):
    """All rules of a register; ``seen_version`` is the version of its settings that the change was made from."""

    seen_version: Annotated[int, Field(ge=1, le=2**31 - 1)]
    rules: Annotated[list[RuleModel], Field(max_length=200)]


class FilterIn(BaseModel):
    """Records of whose field something is asked, as in the list of records."""

    field: Text
    check: Text = "filled"
    wanted: Text = ""
    source: Text = ""


class CorrectFieldIn(FilterIn):
    """What to put in place of a value in all of those records that hold it; an empty value clears the field."""

    was: Text
    value: Text


class ValueRecordsOut(BaseModel):
    """A value, and how many of the records hold it."""

    value: str
    records: int


class BatchOut(BaseModel):
    """Fields corrected in one step."""

    batch: int
    field: str
    was: str
    value: str
    records: int
    actor: str
    at: datetime


def _quality(session: Transaction, slug: str) -> QualityOut:
    rules = [
        MeasuredRuleOut(
            key=item.rule.key, rule=RuleModel.model_validate(item.rule, from_attributes=True), words=item.words,
            shares=[ShareOut.model_validate(share, from_attributes=True) for share in item.shares],
            history=[PastShareOut.model_validate(share, from_attributes=True) for share in item.history],
        )
        for item in service.measured(session, slug)
    ]  # fmt: skip
    kinds = [RuleKindOut.model_validate(kind, from_attributes=True) for kind in RULE_KINDS.values()]
    return QualityOut(version=service.version_of(session, slug), rules=rules, kinds=kinds)


def _batch(batch: corrections.Batch) -> BatchOut:
    return BatchOut.model_validate(batch, from_attributes=True)


@router.get("/registers/{slug}/quality")
def get_quality(session: Transaction, slug: Slug) -> QualityOut:
    """The quality rules of a register with the share of records that fail them."""
    return _quality(session, slug)


@router.put("/registers/{slug}/quality")
def save_rules(session: Transaction, slug: Slug, body: RulesIn, actor: Actor) -> QualityOut:
    """Set the quality rules of a register."""
    rules = [rule.model_dump() for rule in body.rules]
    service.save_rules(session, slug, rules, actor=actor, seen_version=body.seen_version)
    return _quality(session, slug)


@router.post("/registers/{slug}/corrections/values")
def values_of(session: Transaction, slug: Slug, body: FilterIn) -> list[ValueRecordsOut]:
    """The values that records hold of a field, the most frequent first: what could be corrected alike."""
    only = service.filter_in(session, slug, body.field, body.check, body.wanted)
    values = corrections.values_of(session, slug, body.field, only, body.source)
    return [ValueRecordsOut.model_validate(value, from_attributes=True) for value in values]


@router.post("/registers/{slug}/corrections", status_code=201)
def correct(session: Transaction, slug: Slug, body: CorrectFieldIn, actor: Actor) -> BatchOut:
    """Correct a field in all records that hold a value, in one step; what was delivered stays."""
    only = service.filter_in(session, slug, body.field, body.check, body.wanted)
    return _batch(
        corrections.correct(session, slug, body.field, body.was, body.value, only, actor=actor, source=body.source)
    )


@router.get("/registers/{slug}/corrections")
def list_corrections(session: Transaction, slug: Slug) -> list[BatchOut]:
    """The steps whose corrections stand, newest first."""
    return [_batch(batch) for batch in corrections.batches(session, slug, 200)]


@router.delete("/registers/{slug}/corrections/{batch}", status_code=204)
def undo(session: Transaction, slug: Slug, batch: RecordId, actor: Actor) -> None:
    """Undo a step."""
    corrections.undo(session, slug, batch, actor=actor)
