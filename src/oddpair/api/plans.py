"""Match plans and runs."""

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..core.plan import MatchPlan
from ..services import work
from ..services.match import plans as service
from ..services.match import runs
from ..services.match.runs import Run
from ..services.review import queue
from .dependencies import (
    Actor,
    LongText,
    RecordId,
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
    """A run with its report of counts: the standing one, which golden records follow, or a trial; ``yaml`` is the plan of a trial that
    was not the one in force."""

    id: int
    at: datetime
    purpose: Literal["standing", "trial"]
    title: str
    yaml: str
    report: dict[str, Any]


class TrialIn(BaseModel):
    """A trial: what it is called, and a plan as YAML (empty: the one in force)."""

    title: Annotated[Text, Field(max_length=120)] = ""
    yaml: LongText = ""


def _run_out(run: Run) -> RunOut:
    return RunOut.model_validate(run, from_attributes=True)


def _plan_out(session: Transaction, slug: str) -> PlanOut:
    found = service.plan_in_force(session, slug)
    every_key = {key.expression: key for _, own in found.plan.in_order() for key in own.blocking_keys()}
    keys = [KeyOut(expression=name, words=key.describe()) for name, key in every_key.items()]
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
    return _run_out(run) if run else None


@router.get("/registers/{slug}/runs")
def list_runs(session: Transaction, slug: Slug) -> list[RunOut]:
    """The runs that are kept, newest first: the standing one, and trials."""
    return [_run_out(run) for run in runs.kept_runs(session, slug)]


@router.post("/registers/{slug}/trials", status_code=202)
def start_trial(session: Transaction, slug: Slug, actor: Actor, body: TrialIn) -> JobOut:
    """Run a plan in the background and keep what it finds beside the standing run, where it changes nothing."""
    return job_out(runs.ask_for_trial(session, slug, title=body.title, yaml=body.yaml, actor=actor), slug)


@router.delete("/registers/{slug}/runs/{run_id}", status_code=204)
def clear_run(session: Transaction, slug: Slug, run_id: RecordId) -> None:
    """Clear a trial away."""
    runs.clear(session, slug, run_id)


@router.post("/registers/{slug}/runs", status_code=202)
def start_run(session: Transaction, slug: Slug, actor: Actor) -> JobOut:
    """Run the plan in force, in the background."""
    return job_out(work.ask_for(session, slug, "run", "Run the match", {"register": slug, "actor": actor}), slug)
