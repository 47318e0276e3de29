"""Ask before creating: whom records may be among the golden records of a register."""

from typing import Annotated, Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field

from ..services.standing.asked_together import AskedTogether
from ..services.standing.look_up import MOST_AT_ONCE, Candidate
from .dependencies import Slug, Text

router = APIRouter(tags=["look-up"], prefix="/registers/{slug}")
FieldName = Annotated[Text, Field(max_length=80)]
Value = Annotated[Text, Field(max_length=2000)]


class LookUpIn(BaseModel):
    """Records to look up: values of fields of the register's layout, in any spelling; and how many candidates are wanted of each."""

    model_config = ConfigDict(extra="forbid")
    records: Annotated[
        list[Annotated[dict[FieldName, Value], Field(max_length=200)]], Field(min_length=1, max_length=MOST_AT_ONCE)
    ]
    best: Annotated[int, Field(ge=1, le=50)] = 5


class DiffersOut(BaseModel):
    """A field in which the record asked for and the one that is there say something else."""

    asked: str
    there: str


class LookUpCandidateOut(BaseModel):
    """A golden record that the one asked for may be: of how many ``records`` it is made; the score in bits of the likeliest of them, the
    probability, the verdict and one sentence why; its values, what it ``has`` that the asked one lacks, what it ``lacks``, what
    ``differs``."""

    golden_key: str
    records: int
    score: float
    probability: float
    verdict: Literal["same", "unsure"]
    reason: str
    values: dict[str, str]
    has: dict[str, str]
    lacks: dict[str, str]
    differs: dict[str, DiffersOut]


class LookedUpOut(BaseModel):
    """Whom a record may be, likeliest first; nobody where it seems to be new."""

    candidates: list[LookUpCandidateOut]


@router.post("/look-up")
def look_up(request: Request, slug: Slug, body: LookUpIn) -> list[LookedUpOut]:
    """Whom each of some records may be, in their order; nothing is kept of what was asked."""
    asked_together: AskedTogether = request.app.state.look_ups
    found = asked_together.ask(slug, body.records, body.best)
    return [LookedUpOut(candidates=[candidate_out(one) for one in candidates]) for candidates in found]


def candidate_out(one: Candidate) -> LookUpCandidateOut:
    """Return a candidate as it is sent."""
    return LookUpCandidateOut(
        golden_key=one.golden_key, records=one.records, score=one.score, probability=one.probability, verdict=one.verdict,
        reason=one.reason, values=dict(one.values), has=dict(one.has), lacks=dict(one.lacks),
        differs={name: DiffersOut(asked=asked, there=there) for name, (asked, there) in one.differs.items()},
    )  # fmt: skip
