"""Working on a plan before it is in force: drafts, problems with their lines, words, ready-made and proposed plans, differences."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..services.match import plan_drafts, plan_help
from .dependencies import Actor, LongText, Slug, SmallId, Text, Transaction

router = APIRouter(tags=["plan"], prefix="/registers/{slug}/plan")

Version = Annotated[int, Field(ge=0, le=1_000_000)]


class DraftIn(BaseModel):
    """A draft as it is typed; ``based_on`` is the version it was made from."""

    title: Annotated[Text, Field(max_length=120)]
    yaml: LongText
    based_on: Version


class DraftChange(BaseModel):
    """A draft as it is typed now, and the version of it that was seen."""

    title: Annotated[Text, Field(max_length=120)]
    yaml: LongText
    seen_version: Annotated[int, Field(ge=1, le=1_000_000_000)]


class DraftOut(BaseModel):
    """A draft, with who made it and who changed it last."""

    id: int
    title: str
    yaml: str
    based_on: int
    version: int
    actor: str
    changed_by: str
    changed_at: datetime


class TextIn(BaseModel):
    """A plan as YAML."""

    yaml: LongText


class ProblemAt(BaseModel):
    """A problem of a plan: lines and columns from 1."""

    says: str
    line: int
    column: int
    last_line: int
    last_column: int


class FieldWordOut(BaseModel):
    """A tidy field that a plan may name."""

    name: str
    label: str


class OptionOut(BaseModel):
    """An option of a comparison: numbers in a range, or one of some words."""

    default: float | int | str
    least: float
    most: float
    words: list[str]


class ComparisonWordOut(BaseModel):
    """A way of comparing: its levels with what each says, and its options."""

    name: str
    levels: dict[str, str]
    options: dict[str, OptionOut]


class VocabularyOut(BaseModel):
    """The words that a plan may use."""

    fields: list[FieldWordOut]
    comparisons: list[ComparisonWordOut]
    takers: dict[str, str]


class StartingPlanOut(BaseModel):
    """A ready-made plan."""

    name: str
    about: str
    yaml: str


class PlanReasonOut(BaseModel):
    """Why a part of a proposed plan is as it is."""

    part: str
    says: str


class PlanProposalOut(BaseModel):
    """A plan proposed from the data, with its reasons, which stand as comments in its text as well."""

    yaml: str
    reasons: list[PlanReasonOut]


class DifferenceIn(BaseModel):
    """A plan as YAML, and the version it is held against (0: the one in force)."""

    yaml: LongText
    against: Version = 0


class PlanChangeOut(BaseModel):
    """A change: of which part, what it was and is."""

    part: str
    before: str
    after: str
    sentence: str


class PlanTextOut(BaseModel):
    """A version of the plan with its text."""

    version: int
    yaml: str
    actor: str
    note: str
    at: datetime


@router.get("/drafts")
def list_drafts(session: Transaction, slug: Slug) -> list[DraftOut]:
    """The drafts of a register, those changed last first."""
    return [DraftOut.model_validate(draft, from_attributes=True) for draft in plan_drafts.drafts(session, slug)]


@router.post("/drafts", status_code=201)
def make_draft(session: Transaction, actor: Actor, slug: Slug, body: DraftIn) -> DraftOut:
    """Keep a new draft, valid or not."""
    draft = plan_drafts.make(session, slug, **body.model_dump(), actor=actor)
    return DraftOut.model_validate(draft, from_attributes=True)


@router.put("/drafts/{draft_id}")
def keep_draft(session: Transaction, actor: Actor, slug: Slug, draft_id: SmallId, body: DraftChange) -> DraftOut:
    """Keep a draft as it is typed now; 409 if somebody changed it since."""
    draft = plan_drafts.keep(session, slug, draft_id, **body.model_dump(), actor=actor)
    return DraftOut.model_validate(draft, from_attributes=True)


@router.delete("/drafts/{draft_id}", status_code=204)
def throw_draft_away(session: Transaction, slug: Slug, draft_id: SmallId) -> None:
    """Throw a draft away."""
    plan_drafts.throw_away(session, slug, draft_id)


@router.post("/check")
def check_plan(session: Transaction, slug: Slug, body: TextIn) -> list[ProblemAt]:
    """Every problem of a plan given as text, with its line; empty if it may be put in force."""
    found = plan_drafts.check(session, slug, body.yaml)
    return [ProblemAt.model_validate(problem, from_attributes=True) for problem in found]


@router.get("/words")
def plan_words(session: Transaction, slug: Slug) -> VocabularyOut:
    """The words that a plan may use: fields, ways of comparing with their levels and options, ways of taking a key."""
    return VocabularyOut.model_validate(plan_help.vocabulary(session, slug), from_attributes=True)


@router.get("/ready-made")
def ready_made(session: Transaction, slug: Slug) -> list[StartingPlanOut]:
    """Ready-made plans to start from."""
    found = plan_help.ready_made(session, slug)
    return [StartingPlanOut.model_validate(plan, from_attributes=True) for plan in found]


@router.get("/proposal")
def propose(session: Transaction, slug: Slug) -> PlanProposalOut:
    """A plan proposed from the register's records, with a reason per line."""
    return PlanProposalOut.model_validate(plan_help.proposal(session, slug), from_attributes=True)


@router.post("/difference")
def difference(session: Transaction, slug: Slug, body: DifferenceIn) -> list[PlanChangeOut]:
    """What a plan says otherwise than a version, in words."""
    found = plan_help.difference(session, slug, body.yaml, body.against)
    return [PlanChangeOut.model_validate(change, from_attributes=True) for change in found]


@router.get("/versions/{version}")
def plan_version(session: Transaction, slug: Slug, version: SmallId) -> PlanTextOut:
    """An earlier version of the plan with its text."""
    return PlanTextOut.model_validate(plan_help.version_of(session, slug, version), from_attributes=True)
