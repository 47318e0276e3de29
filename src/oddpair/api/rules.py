"""Survivorship rules of a register: set, tried before, put back."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..services import work
from ..services.golden import rules as service
from ..services.registers.registers import view_of
from .dependencies import Actor, RecordId, Slug, Transaction
from .jobs import JobOut, job_out
from .registers import RegisterOut, register_out
from .survivorship import RulesChange, SurvivorshipIn

router = APIRouter(tags=["golden"])


class EarlierRulesOut(BaseModel):
    """A change of rules or form, which can be taken back."""

    entry_id: int
    summary: str
    actor: str
    at: datetime


class SampleOut(BaseModel):
    """A golden value as it is and as it would be."""

    key: str
    before: str
    after: str


class FieldDifferenceOut(BaseModel):
    """How many golden values of a field would change, and examples."""

    field: str
    label: str
    changed: int
    samples: list[SampleOut]


class RulesTried(BaseModel):
    """What rules would do: of so many golden records so many would change."""

    golden: int
    changed: int
    fields: list[FieldDifferenceOut]


class PutBackIn(BaseModel):
    """The version of the settings that was seen."""

    seen_version: Annotated[int, Field(ge=1, le=2**31 - 1)]


@router.put("/registers/{slug}/rules")
def change_rules(session: Transaction, slug: Slug, body: RulesChange, actor: Actor) -> RegisterOut:
    """Change survivorship rules and the form of golden values; golden records follow in the background."""
    service.change_rules(session, slug, body.documents(), form=body.form, actor=actor, seen_version=body.seen_version)
    return register_out(view_of(session, slug))


@router.post("/registers/{slug}/rules/try", status_code=202)
def try_rules(session: Transaction, slug: Slug, body: SurvivorshipIn) -> JobOut:
    """Find out in the background what rules or a form would change; the job's result is as ``RulesTried``."""
    service.check_draft(session, slug, body.documents(), body.form)
    arguments = {"register": slug, "rules": body.documents(), "form": body.form}
    return job_out(work.ask_for(session, slug, "try rules", "Try survivorship rules", arguments), slug)


@router.get("/registers/{slug}/rules/tried/{job_id}")
def rules_tried(session: Transaction, slug: Slug, job_id: RecordId) -> RulesTried:
    """What came of trying rules, once its job is done."""
    return RulesTried.model_validate(service.tried(session, slug, job_id))


@router.get("/registers/{slug}/rules/earlier")
def earlier_rules(session: Transaction, slug: Slug) -> list[EarlierRulesOut]:
    """The latest changes of rules and form."""
    return [EarlierRulesOut.model_validate(item, from_attributes=True) for item in service.earlier_rules(session, slug)]


@router.post("/registers/{slug}/rules/earlier/{entry_id}/put-back")
def put_back(session: Transaction, slug: Slug, entry_id: RecordId, body: PutBackIn, actor: Actor) -> RegisterOut:
    """Set rules and form as they were before a change; golden records follow in the background."""
    service.put_rules_back(session, slug, entry_id, actor=actor, seen_version=body.seen_version)
    return register_out(view_of(session, slug))
