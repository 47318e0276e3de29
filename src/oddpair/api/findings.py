"""Findings: what records of two registers share, decided and reported, never merged."""

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Request, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

from ..core.findings import FindingsPlan
from ..core.rights import Permission
from ..services.findings import plans, rows
from ..services.people import who as rights
from ..services.transactions import Session, transaction
from .counterparts import CounterpartOut
from .dependencies import Actor, AppState, Asker, LongText, Name, Slug, SmallId, Text, Transaction, state
from .jobs import JobOut, job_out
from .tables import sent_table

State = Literal["open", "of interest", "explained", "not a finding"]
AnyState = Literal["", "open", "of interest", "explained", "not a finding"]


class FindingsPlanOut(BaseModel):
    """A plan of findings: the other register, the plan as text and as read, how many findings stand in each state (null before it was
    run), and per thing how many pairs were left out because too many hold it."""

    name: str
    other: str
    other_name: str
    yaml: str
    plan: FindingsPlan
    counts: dict[str, int] | None
    common: dict[str, int] | None
    ran_at: datetime | None
    actor: str


class NewFindingsPlan(BaseModel):
    """A new plan: what it is called, the short name of the other register, and its text (empty: the usual plan)."""

    name: Annotated[Text, Field(min_length=1, max_length=80)]
    other: Annotated[Text, Field(min_length=1, max_length=80)]
    yaml: LongText = ""


class FindingsPlanIn(BaseModel):
    """A changed plan."""

    yaml: LongText


class SharedThingOut(BaseModel):
    """A thing that two records share: what, its value, how many of either side hold it, how telling that is in bits, and in which source
    record of either side it stands."""

    title: str
    value: str
    bits: float
    one_holders: int
    other_holders: int
    one: int
    other: int


class FindingOut(BaseModel):
    """A finding; ``again`` says why it is open although it was decided before."""

    place: int
    one: CounterpartOut
    other: CounterpartOut
    score: float
    things: list[SharedThingOut]
    state: State
    said_by: str
    remark: str
    again: str


class FindingsOut(BaseModel):
    """A page of findings, those that share the same thing side by side."""

    rows: list[FindingOut]
    before: str
    behind: str


class FindingVerdictIn(BaseModel):
    """What a person says of a finding; what explains it is said as remark. "open" takes back what was said."""

    state: State
    remark: Text = ""


def sees_both(request: Request, asker: Asker) -> None:
    """Refuse what is found between two registers to who may not see the other one."""
    name = request.path_params.get("name")
    if name is None:
        return
    with transaction(state(request).sessions) as session:
        row = plans.plan_named(session, request.path_params["slug"], name)
        other = plans.other_register(session, row).slug
    rights.check(asker, Permission.SEE, [other])


router = APIRouter(tags=["findings"], dependencies=[Depends(sees_both)])


def _out(session: Session, row: plans.FindingPlanRow) -> FindingsPlanOut:
    other = plans.other_register(session, row)
    return FindingsPlanOut(
        name=row.name, other=other.slug, other_name=other.name, yaml=row.yaml, plan=plans.parsed(session, row), counts=row.counts,
        common=row.common, ran_at=row.ran_at, actor=row.actor,
    )  # fmt: skip


@router.get("/registers/{slug}/findings")
def list_plans(session: Transaction, asker: Asker, slug: Slug) -> list[FindingsPlanOut]:
    """The plans of findings of a register, by name; those against registers that one may see."""
    found = [_out(session, row) for row in plans.plans(session, slug)]
    return [one for one in found if asker.may(Permission.SEE, one.other)]


@router.get("/registers/{slug}/findings/{name}")
def get_findings_plan(session: Transaction, slug: Slug, name: Name) -> FindingsPlanOut:
    """A plan of findings."""
    return _out(session, plans.plan_named(session, slug, name))


@router.post("/registers/{slug}/findings", status_code=201)
def make_plan(session: Transaction, asker: Asker, slug: Slug, actor: Actor, body: NewFindingsPlan) -> FindingsPlanOut:
    """Make a plan that holds this register against another one, which one may see, too."""
    rights.check(asker, Permission.SEE, [body.other])
    made = plans.make(session, slug, name=body.name, other=body.other, text=body.yaml, actor=actor)
    return _out(session, made)


@router.put("/registers/{slug}/findings/{name}")
def change_findings_plan(session: Transaction, slug: Slug, name: Name, body: FindingsPlanIn) -> FindingsPlanOut:
    """Change what a plan looks for."""
    return _out(session, plans.change(session, slug, name, body.yaml))


@router.delete("/registers/{slug}/findings/{name}", status_code=204)
def forget_findings_plan(session: Transaction, slug: Slug, name: Name) -> None:
    """Remove a plan with its findings and all that was said of them."""
    plans.forget(session, slug, name)


@router.post("/registers/{slug}/findings/{name}/run", status_code=202)
def run_findings_plan(session: Transaction, slug: Slug, name: Name, actor: Actor) -> JobOut:
    """Run a plan, in the background."""
    return job_out(plans.ask_to_run(session, slug, name, actor=actor), slug)


@router.get("/registers/{slug}/findings/{name}/rows")
def list_findings(
    session: Transaction, slug: Slug, name: Name, state: AnyState = "",
    cursor: Annotated[Text, Query(max_length=2000)] = "", limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> FindingsOut:  # fmt: skip
    """Findings, those that share the same thing side by side; of one state where one is named."""
    page = rows.findings_page(session, slug, name, state=state, cursor=cursor, limit=limit)
    return FindingsOut.model_validate(page, from_attributes=True)


@router.post("/registers/{slug}/findings/{name}/rows/{number}")
def say_of_finding(
    session: Transaction, slug: Slug, name: Name, number: SmallId, actor: Actor, body: FindingVerdictIn
) -> FindingOut:
    """Say what a finding (its number counts from 1) is; remembered for the next run."""
    shown = rows.say(session, slug, name, number - 1, body.state, remark=body.remark, actor=actor)
    return FindingOut.model_validate(shown, from_attributes=True)


@router.get("/registers/{slug}/findings/{name}/report.{file_format}", response_class=Response)
def report(
    state: AppState, slug: Slug, name: Name, file_format: Literal["csv", "xlsx", "jsonl"], only: AnyState = ""
) -> StreamingResponse:
    """The findings as a table, a line per shared thing."""
    return sent_table(
        state, lambda session: rows.report_table(session, slug, name, state=only), file_format, "findings"
    )
