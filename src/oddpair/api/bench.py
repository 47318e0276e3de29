"""The plan bench. These routes are answered by the bench's own process, to which the web process passes them on."""

from typing import Annotated, Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field

from ..core.bench import BINS_PER_BIT, CURVE_FROM, Wanted
from ..services.bench import border, tries
from ..services.bench.benches import Benches
from ..services.bench.changed import named_changes
from ..services.bench.pace import pace_of
from .dependencies import Actor, LongText, Slug, Text, Transaction
from .desk import EvidenceOut, FacedRecordOut

router = APIRouter(tags=["bench"], prefix="/registers/{slug}/bench")


def benches(request: Request) -> Benches:
    """Return the benches of this process."""
    found = request.app.state.benches
    assert isinstance(found, Benches)
    return found


class BenchOut(BaseModel):
    """How the bench of a register is: ``warm`` once it answers; what it is doing, by ``stage``, and what went wrong last."""

    warm: bool
    running: bool
    stage: str
    done: int
    total: int
    seconds: float
    error: str
    records: int
    kept_bytes: int
    pace_s: float
    pace_decisions: int


class TryPlanIn(BaseModel):
    """A plan as YAML ("" for the one in force), which of its passes (from 0), against which version (0 for the one in force)."""

    model_config = ConfigDict(extra="forbid")
    yaml: LongText = ""
    number: Annotated[int, Field(alias="pass", ge=0, le=19)] = 0
    against: Annotated[int, Field(ge=0, le=1_000_000)] = 0


class SettleIn(BaseModel):
    """A plan as YAML, "" for the one in force; whether its pairs are held from now on."""

    model_config = ConfigDict(extra="forbid")
    yaml: LongText = ""
    hold: bool = True


class PairsIn(TryPlanIn):
    """Which held pairs are wanted: around a limit in bits, all or those gained or lost, those that a comparison or condition decides."""

    limit: Annotated[float, Field(ge=-1000, le=1000)]
    shown: Literal["all", "gained", "lost"] = "all"
    decided_by: Annotated[Text, Field(max_length=200)] = ""
    condition: Annotated[Text, Field(max_length=400)] = ""
    many: Annotated[int, Field(ge=1, le=200)] = 40


class CurveOut(BaseModel):
    """Pairs by score in bins, the first from ``low`` bits, ``per_bit`` to a bit: ``free`` ones that the limits decide, ``capped`` ones
    that a condition leaves unsure at most, how often groups of records join at a score, the variance of a bin; and what is decided
    wherever the limits are."""

    low: float
    per_bit: int
    free: list[float]
    capped: list[float]
    joining: list[float]
    spread: list[float]
    fixed_same: float
    fixed_unsure: float
    fixed_different: float
    always_joined: float


class ConditionCountOut(BaseModel):
    """A condition: for how many pairs it holds, how many it decides, and its place in the order in which they catch most."""

    title: str
    then: str
    holds: float
    decides: float
    best_place: int


class ComparisonShareOut(BaseModel):
    """For how many pairs a comparison alone decides which verdict they have."""

    name: str
    label: str
    decides: float


class SettledPlanOut(BaseModel):
    """What a whole match found; what it changes is null until the other plan is settled as well."""

    same: int
    unsure: int
    clusters: int
    compared: int
    gained: int | None
    lost: int | None
    joining: int | None
    cutting: int | None


class TriedPlanOut(BaseModel):
    """What a plan does to the held pairs, which stand for all candidate pairs; ``exact`` if they are all."""

    passes: list[str]
    number: int
    records: int
    held: int
    standing_for: float
    exact: bool
    same_limit: float
    unsure_limit: float
    curve: CurveOut
    gained: float
    lost: float
    conditions: list[ConditionCountOut]
    comparisons: list[ComparisonShareOut]
    measured_again: list[str]
    others_blocks: bool
    settled: SettledPlanOut | None
    against_version: int
    against_settled: bool


class DecidedPairOut(BaseModel):
    """What a person decided of a pair; ``id`` is 0 for a decision about a group."""

    id: int
    verdict: str


class BorderPairOut(BaseModel):
    """A pair at the border."""

    left: FacedRecordOut
    right: FacedRecordOut
    score: float
    verdict: Literal["same", "unsure", "different"]
    verdict_before: Literal["same", "unsure", "different"]
    condition: str
    evidence: list[EvidenceOut]
    reason: str
    decided: DecidedPairOut | None


class ClusterChangeOut(BaseModel):
    """Records whose clusters become others: their clusters before and after, numbered within the change."""

    records: list[FacedRecordOut]
    before: list[int]
    after: list[int]


class ClusterChangesOut(BaseModel):
    """Clusters that join or come apart: the first of them, and how many there are."""

    joining: int
    cutting: int
    changes: list[ClusterChangeOut]


@router.get("")
def get_bench(request: Request, session: Transaction, actor: Actor, slug: Slug) -> BenchOut:
    """How the bench of a register is, and what it is doing."""
    pace = pace_of(session, slug, actor)
    every = benches(request)
    own, doing = every.warm(slug), every.doing(slug)
    return BenchOut(
        warm=own is not None, running=doing.running, stage=doing.stage, done=doing.done, total=doing.total,
        seconds=round(doing.seconds, 2), error=doing.error, records=len(own.ids) if own else 0,
        kept_bytes=own.bench.kept_bytes if own else 0, pace_s=pace.seconds, pace_decisions=pace.decisions,
    )  # fmt: skip


@router.post("/settled", status_code=202)
def settle(request: Request, session: Transaction, slug: Slug, body: SettleIn) -> None:
    """Begin a whole match of a plan on the bench, which changes nothing elsewhere; its pairs are held from then on."""
    tries.asked_for(session, slug, body.yaml)
    benches(request).settle(slug, body.yaml, hold=body.hold)


@router.delete("/settled", status_code=204)
def cancel(request: Request, slug: Slug) -> None:
    """Stop the match that is going on; what was settled before stays."""
    benches(request).cancel(slug)


@router.post("/tried")
def try_plan(request: Request, session: Transaction, slug: Slug, body: TryPlanIn) -> TriedPlanOut:
    """What a plan does to the held pairs, at once; 503 until the bench is warm."""
    asked = tries.asked_for(session, slug, body.yaml, number=body.number, against=body.against)
    tried = tries.try_plan(benches(request).needed(slug), asked)
    curve = tried.curve
    told = CurveOut(
        low=CURVE_FROM, per_bit=BINS_PER_BIT, free=curve.free.round(1).tolist(), capped=curve.capped.round(1).tolist(),
        joining=curve.joining.round(1).tolist(), spread=curve.spread.round(1).tolist(), fixed_same=curve.fixed["same"],
        fixed_unsure=curve.fixed["unsure"], fixed_different=curve.fixed["different"], always_joined=curve.always_joined,
    )  # fmt: skip
    plain = {name: getattr(tried, name) for name in TriedPlanOut.model_fields if name != "curve"}
    return TriedPlanOut.model_validate({**plain, "curve": told}, from_attributes=True)


@router.post("/pairs")
def border_pairs(request: Request, session: Transaction, slug: Slug, body: PairsIn) -> list[BorderPairOut]:
    """Held pairs on either side of a limit, from the highest score down."""
    asked = tries.asked_for(session, slug, body.yaml, number=body.number, against=body.against)
    wanted = Wanted(body.shown, body.decided_by, body.condition)
    found = border.border_pairs(
        session, slug, benches(request).needed(slug), asked, wanted, limit=body.limit, many=body.many
    )
    return [BorderPairOut.model_validate(pair, from_attributes=True) for pair in found]


@router.post("/clusters")
def changed_clusters(request: Request, session: Transaction, slug: Slug, body: TryPlanIn) -> ClusterChangesOut:
    """Clusters that a settled plan joins or cuts against the other one, which must be settled as well."""
    asked = tries.asked_for(session, slug, body.yaml, against=body.against)
    found = named_changes(session, benches(request).needed(slug), asked)
    return ClusterChangesOut.model_validate(found, from_attributes=True)
