"""Match plans and runs."""

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..core.plan import MatchPlan
from ..services import work
from ..services.match import plans as service
from ..services.review import queue
from .dependencies import (
    Actor,
    LongText,
    Slug,
    Text,
    Transaction,
)
from .jobs import JobOut, job_out

router = APIRouter(tags=["plan"])


class PlanVersion(BaseModel):
    """A version of a plan."""

    version: int
    actor: str
    note: str
    at: datetime


class KeyOut(BaseModel):
    """A blocking key and what it says in words."""

    expression: str
    words: str


class PlanOut(BaseModel):
    """The plan in force: as YAML, as read, and its versions."""

    version: int
    yaml: str
    plan: MatchPlan
    keys: list[KeyOut]
    versions: list[PlanVersion]


class PlanIn(BaseModel):
    """A changed plan; ``seen_version`` is the version the change was made from."""

    yaml: LongText
    seen_version: Annotated[int, Field(ge=1, le=1_000_000)]
    note: Text = ""


class EstimateIn(BaseModel):
    """A plan, saved or not."""

    yaml: LongText


class KeyEstimateOut(BaseModel):
    """How many pairs a key will propose, about, and its largest block before narrowing."""

    key: str
    pairs: int
    largest_block: int


class EstimateOut(BaseModel):
    """What the keys of a plan will propose among all records, told from those sampled."""

    records: int
    sampled: int
    keys: list[KeyEstimateOut]


class RunOut(BaseModel):
    """A run with its report of counts."""

    id: int
    at: datetime
    report: dict[str, Any]


def _plan_out(session: Transaction, slug: str) -> PlanOut:
    found = service.plan_in_force(session, slug)
    keys = [KeyOut(expression=key.expression, words=key.describe()) for key in found.plan.blocking_keys()]
    versions = [PlanVersion.model_validate(item, from_attributes=True) for item in found.versions]
    return PlanOut(version=found.row.version, yaml=found.row.yaml, plan=found.plan, keys=keys, versions=versions)


@router.get("/registers/{slug}/plan")
def get_plan(session: Transaction, slug: Slug) -> PlanOut:
    """The plan in force."""
    return _plan_out(session, slug)


@router.put("/registers/{slug}/plan")
def save_plan(session: Transaction, actor: Actor, slug: Slug, body: PlanIn) -> PlanOut:
    """Keep a new version of the plan."""
    service.save_plan(session, slug, yaml=body.yaml, seen_version=body.seen_version, note=body.note, actor=actor)
    return _plan_out(session, slug)


@router.post("/registers/{slug}/plan/estimate")
def estimate_plan(session: Transaction, slug: Slug, body: EstimateIn) -> EstimateOut:
    """How many pairs each blocking key of a plan will propose; nothing is compared and nothing kept."""
    return EstimateOut.model_validate(service.estimate_plan(session, slug, body.yaml), from_attributes=True)


@router.get("/registers/{slug}/run")
def get_run(session: Transaction, slug: Slug) -> RunOut | None:
    """The latest run, or null."""
    run = queue.run_of(session, slug)
    return RunOut(id=run.id, at=run.at, report=run.report) if run else None


@router.post("/registers/{slug}/runs", status_code=202)
def start_run(session: Transaction, slug: Slug, actor: Actor) -> JobOut:
    """Run the plan in force, in the background."""
    return job_out(work.ask_for(session, slug, "run", "Run the match", {"register": slug, "actor": actor}), slug)
