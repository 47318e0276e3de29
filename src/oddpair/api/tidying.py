"""Tidy steps of a register: read, tried, saved, recounted."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..core.tidying.patterns import MarkedExample, pattern_from
from ..core.tidying.steps import STEP_KINDS, Parameter
from ..services import work
from ..services.tidy import tidy_steps
from .dependencies import Actor, Slug, Text, Transaction
from .jobs import JobOut, job_out

router = APIRouter(tags=["tidy"])

StepDocument = dict[Text, Text]
Steps = dict[Text, Annotated[list[StepDocument], Field(max_length=40)]]


class ParameterOut(BaseModel):
    """A parameter of a step: asked for as text, number, choice, field or table."""

    name: str
    label: str
    ask: str
    choices: list[str]
    default: str

    @classmethod
    def of(cls, parameter: Parameter) -> "ParameterOut":
        """Return a parameter as it is sent."""
        return cls.model_validate(parameter, from_attributes=True)


class StepKindOut(BaseModel):
    """A kind of step, what it says, and what it asks for."""

    name: str
    says: str
    parameters: list[ParameterOut]


class TidyStepsOut(BaseModel):
    """The tidy steps in force, per field, and the kinds of steps there are."""

    version: int
    steps: dict[str, list[dict[str, str]]]
    kinds: list[StepKindOut]
    tables: list[str]
    actor: str
    at: datetime | None


class TidyStepsIn(BaseModel):
    """Changed tidy steps; ``seen_version`` is the version the change was made from (0: there was none)."""

    steps: Steps
    seen_version: Annotated[int, Field(ge=0, le=1_000_000)]


class RecountIn(BaseModel):
    """Tidy steps, saved or not."""

    steps: Steps


class TryIn(BaseModel):
    """Steps of one field, to be tried on its real values."""

    field: Text
    steps: Annotated[list[StepDocument], Field(max_length=40)]
    search: Text = ""
    only_changed: bool = True


class TriedValueOut(BaseModel):
    """A value that so many records hold: before, and after every step."""

    records: int
    before: str
    after: list[str]


class TriedStepsOut(BaseModel):
    """What steps make of real values; ``stopped`` tells of patterns that ran away."""

    records: int
    complete: bool
    changed: int
    changed_by_step: list[int]
    values: list[TriedValueOut]
    stopped: list[str]


class ExampleIn(BaseModel):
    """A value with its marked part; nothing is marked where start and end are the same."""

    text: Text
    start: Annotated[int, Field(ge=0, le=4000)]
    end: Annotated[int, Field(ge=0, le=4000)]


class ExamplesIn(BaseModel):
    """Marked examples."""

    examples: Annotated[list[ExampleIn], Field(min_length=1, max_length=20)]


class PatternOut(BaseModel):
    """A pattern whose first match is what was marked."""

    pattern: str


@router.get("/registers/{slug}/tidy/steps")
def get_tidy_steps(session: Transaction, slug: Slug) -> TidyStepsOut:
    """The tidy steps in force."""
    present, tables = tidy_steps.steps_in_force(session, slug)
    kinds = [
        StepKindOut(name=kind.name, says=kind.says, parameters=[ParameterOut.of(item) for item in kind.parameters])
        for kind in STEP_KINDS.values()
    ]
    return TidyStepsOut(
        version=present.version if present else 0, steps=present.steps if present else {}, kinds=kinds, tables=tables,
        actor=present.actor if present else "", at=present.at if present else None,
    )  # fmt: skip


@router.put("/registers/{slug}/tidy/steps", status_code=202)
def save_tidy_steps(session: Transaction, slug: Slug, body: TidyStepsIn, actor: Actor) -> JobOut:
    """Save tidy steps; all records are tidied again in the background."""
    return job_out(
        tidy_steps.save_tidy_steps(session, slug, body.steps, seen_version=body.seen_version, actor=actor), slug
    )


@router.post("/registers/{slug}/tidy/try")
def try_steps(session: Transaction, slug: Slug, body: TryIn) -> TriedStepsOut:
    """See what steps make of the real values of a field."""
    tried = tidy_steps.try_steps(
        session, slug, body.field, body.steps, search=body.search, only_changed=body.only_changed
    )
    return TriedStepsOut.model_validate(tried, from_attributes=True)


@router.post("/registers/{slug}/tidy/recount", status_code=202)
def recount(session: Transaction, slug: Slug, body: RecountIn) -> JobOut:
    """Count, in the background, which verdicts these steps would change; nothing is kept."""
    tidy_steps.check_steps(session, slug, body.steps)
    arguments = {"register": slug, "steps": body.steps}
    return job_out(work.ask_for(session, slug, "recount", "Recount verdicts with changed tidy steps", arguments), slug)


@router.post("/tidy/pattern")
def build_pattern(body: ExamplesIn) -> PatternOut:
    """Build a pattern from marked examples."""
    return PatternOut(pattern=pattern_from([MarkedExample(e.text, e.start, e.end) for e in body.examples]))
