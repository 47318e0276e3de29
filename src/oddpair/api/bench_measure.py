"""The plan bench, by what people decided: measuring a plan, learning from decisions, and a look at one pair."""

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field

from ..services.bench import blocks, lessons, measuring, one_pair, outside, tries
from ..services.bench.benches import BenchOfRegister
from ..services.bench.undecided import needs_undecided
from .bench import BorderPairOut, TryPlanIn, benches
from .dependencies import Actor, Slug, Text, Transaction
from .desk import EvidenceOut, FacedRecordOut

router = APIRouter(tags=["bench"], prefix="/registers/{slug}/bench")


class DrawIn(TryPlanIn):
    """How many pairs to draw; into the sample that is there, or ``anew``, by this plan."""

    many: Annotated[int, Field(ge=1, le=1000)] = 60
    anew: bool = False


class SomePairsIn(TryPlanIn):
    """How many pairs are wanted."""

    many: Annotated[int, Field(ge=1, le=200)] = 30


class LearnIn(TryPlanIn):
    """``wrong_weighs``: as many missed pairs weigh as much as one wrong one."""

    wrong_weighs: Annotated[float, Field(ge=0.01, le=1000)] = 1.0


class TeachIn(SomePairsIn):
    """``wrong_weighs``: as many missed pairs weigh as much as one wrong one."""

    wrong_weighs: Annotated[float, Field(ge=0.01, le=1000)] = 1.0


class SideIn(BaseModel):
    """A record by its id, or values of fields as they would be delivered."""

    model_config = ConfigDict(extra="forbid")
    record_id: Annotated[int, Field(ge=1, le=2**62)] | None = None
    fields: Annotated[
        dict[Annotated[Text, Field(max_length=80)], Annotated[Text, Field(max_length=2000)]], Field(max_length=200)
    ] = {}


class OnePairIn(TryPlanIn):
    """The two sides of the pair."""

    left: SideIn
    right: SideIn


class ShareEstimateOut(BaseModel):
    """A figure with its 95 % interval."""

    value: float
    low: float
    high: float


class MatchQualityOut(BaseModel):
    """Precision of what is called the same, the share of the true pairs that is, and F1."""

    precision: ShareEstimateOut
    recall: ShareEstimateOut
    f1: ShareEstimateOut


class MatchQualityAtOut(BaseModel):
    """The quality if everything from ``limit`` bits on is called the same."""

    limit: float
    quality: MatchQualityOut


class StratumOut(BaseModel):
    """A stratum of the sample: from which odds on (log2), pairs in it, drawn, decided, decided the same; whether it is drawn from."""

    odds_from: float
    pairs: float
    drawn: int
    decided: int
    same: int
    drawn_from: bool


class OutsideOut(BaseModel):
    """A look outside the blocks: so many records were held against all others; pairs found there, decided, the same; and how many true
    pairs blocking misses in all, as far as that tells."""

    records: int
    drawn: int
    looked_at: int
    found: int
    decided: int
    same: int
    missed: ShareEstimateOut
    drawn_at: datetime
    drawn_by: str


class MeasuredOut(BaseModel):
    """A plan measured among the pairs that blocking brings up, by the decided pairs of the fair sample and all others; ``needed`` more
    decisions would tell precision and recall to ± 1 %. ``f1_gained``: by how much F1 is higher than by the other version, from the same
    decisions. ``outside_of_blocks``: pairs decided the same that it never compares."""

    drawn: int
    decided: int
    known: int
    needed: int
    outside_of_blocks: int
    drawn_at: datetime | None
    drawn_by: str
    strata: list[StratumOut]
    own: MatchQualityAtOut
    f1_gained: ShareEstimateOut
    against_version: int
    along: list[MatchQualityAtOut]
    outside: OutsideOut | None


class DrawnOut(BaseModel):
    """How many pairs were drawn."""

    drawn: int


class LevelLessonOut(BaseModel):
    """A level of a comparison: decided pairs that came out at it, the same and different, and the bits they add to it."""

    comparison: str
    level: str
    same: int
    different: int
    bits: float


class ConditionLessonOut(BaseModel):
    """Decided pairs that a condition alone holds back, the same and different; ``dropped`` if the learned plan goes without it."""

    title: str
    same: int
    different: int
    dropped: bool


class DifferenceOut(BaseModel):
    """A figure before and after, with the 95 % interval of what is gained; the verdict is "not shown" where that holds 0."""

    before: float
    after: float
    low: float
    high: float
    verdict: Literal["better", "worse", "not shown"]


class HeldOutOut(BaseModel):
    """On decisions set aside: the share of right verdicts, and how surely what was decided was foreseen (0 certain, -1 a coin)."""

    decisions: int
    right: DifferenceOut
    foreseen: DifferenceOut


class PlanEditOut(BaseModel):
    """A part of the plan's document by its place, and what it becomes; null where it goes."""

    place: list[str | int]
    value: Any


class LessonOut(BaseModel):
    """What decisions teach: slope and shift of scores, limits (before and after), bits of levels; what that is worth on decisions set
    aside; the learned plan as YAML and as edits of the one sent."""

    decisions: int
    same: int
    by_condition: int
    against_conditions: int
    slope: float
    shift: float
    same_from: float
    unsure_from: float
    same_before: float
    unsure_before: float
    levels: list[LevelLessonOut]
    conditions: list[ConditionLessonOut]
    held_out: HeldOutOut | None
    yaml: str
    edits: list[PlanEditOut]


class EditedOut(BaseModel):
    """A plan as YAML, and as edits of the one sent."""

    yaml: str
    edits: list[PlanEditOut]


class TidyFormOut(BaseModel):
    """What a tidy field holds on either side."""

    field: str
    label: str
    left: str
    right: str


class LevelOfPairOut(BaseModel):
    """The level at which the two come out in a comparison."""

    name: str
    label: str
    level: str


class KeyOfPairOut(BaseModel):
    """What a blocking key takes of either side, and whether one value is the same."""

    key: str
    left: list[str]
    right: list[str]
    shared: bool


class OnePairOut(BaseModel):
    """Everything a plan says of one pair; ``lost_at`` is the stage at which the two are lost, "nowhere" if a run would find them."""

    tidy: list[TidyFormOut]
    score: float
    verdict: Literal["same", "unsure", "different"]
    reason: str
    levels: list[LevelOfPairOut]
    evidence: list[EvidenceOut]
    keys: list[KeyOfPairOut]
    brought_by: list[str]
    lost_at: str
    says: str
    by_register: bool


class BlocksIn(BaseModel):
    """A blocking key."""

    model_config = ConfigDict(extra="forbid")
    key: Annotated[Text, Field(min_length=1, max_length=400)]


class BlockSeenOut(BaseModel):
    """A block of a key, before any is narrowed: the value its records share, how many they are, and some of them."""

    value: str
    records: int
    examples: list[FacedRecordOut]


def _asked(session: Transaction, slug: str, body: TryPlanIn) -> tries.Asked:
    return tries.asked_for(session, slug, body.yaml, number=body.number, against=body.against)


def _by_decisions(
    request: Request, session: Transaction, slug: str, body: TryPlanIn
) -> tuple[BenchOfRegister, tries.Asked]:
    """Return the bench and what is asked of it, once decisions can tell of it; raise Busy until then."""
    every = benches(request)
    own, asked = every.needed(slug), _asked(session, slug, body)
    needs_undecided(every, slug, own, asked)
    return own, asked


@router.post("/measured")
def measure_plan(request: Request, session: Transaction, slug: Slug, body: TryPlanIn) -> MeasuredOut:
    """How good a plan is, by all decisions in force."""
    own, asked = _by_decisions(request, session, slug, body)
    found = measuring.measure_plan(session, slug, own, asked)
    seen = outside.seen_outside(session, slug, own, asked)
    told = {name: getattr(found, name) for name in MeasuredOut.model_fields if name != "outside"}
    return MeasuredOut.model_validate({**told, "outside": seen}, from_attributes=True)


@router.post("/sample")
def draw_sample(request: Request, session: Transaction, actor: Actor, slug: Slug, body: DrawIn) -> DrawnOut:
    """Draw pairs to decide, fairly, into the sample that the register is measured by."""
    own, asked = _by_decisions(request, session, slug, body)
    return DrawnOut(drawn=measuring.draw_sample(session, slug, own, asked, many=body.many, anew=body.anew, actor=actor))


@router.post("/sample/pairs")
def sample_pairs(request: Request, session: Transaction, slug: Slug, body: SomePairsIn) -> list[BorderPairOut]:
    """Pairs of the sample that nobody decided yet, in the order in which they were drawn."""
    own, asked = benches(request).needed(slug), _asked(session, slug, body)
    found = measuring.sample_pairs(session, slug, own, asked, body.many)
    return [BorderPairOut.model_validate(pair, from_attributes=True) for pair in found]


@router.post("/outside", status_code=202)
def look_outside(request: Request, session: Transaction, actor: Actor, slug: Slug, body: TryPlanIn) -> None:
    """Begin to hold some records, drawn by chance, against all others that no block brings them together with."""
    every = benches(request)
    outside.look(every, slug, every.needed(slug), _asked(session, slug, body), actor)


@router.post("/outside/pairs")
def outside_pairs(request: Request, session: Transaction, slug: Slug, body: SomePairsIn) -> list[BorderPairOut]:
    """Pairs from outside the blocks that nobody decided yet, those that score highest first."""
    own, asked = benches(request).needed(slug), _asked(session, slug, body)
    found = outside.outside_pairs(session, slug, own, asked, body.many)
    return [BorderPairOut.model_validate(pair, from_attributes=True) for pair in found]


@router.post("/teaching")
def teaching_pairs(request: Request, session: Transaction, slug: Slug, body: TeachIn) -> list[BorderPairOut]:
    """Pairs nobody decided yet whose answers would teach most: first those that judge a condition, then the one that teaches most."""
    own, asked = _by_decisions(request, session, slug, body)
    found = lessons.pairs_to_ask(session, slug, own, asked, many=body.many, wrong_weighs=body.wrong_weighs)
    return [BorderPairOut.model_validate(pair, from_attributes=True) for pair in found]


@router.post("/learned")
def learn(request: Request, session: Transaction, slug: Slug, body: LearnIn) -> LessonOut:
    """What all decisions in force teach; nothing is kept until the plan is."""
    own, asked = _by_decisions(request, session, slug, body)
    return LessonOut.model_validate(lessons.learn(session, slug, own, asked, body.wrong_weighs), from_attributes=True)


@router.post("/unlearned")
def unlearn(session: Transaction, slug: Slug, body: TryPlanIn) -> EditedOut:
    """A plan as it was before it learned."""
    yaml, edits = lessons.unlearned(_asked(session, slug, body))
    return EditedOut.model_validate({"yaml": yaml, "edits": edits}, from_attributes=True)


@router.post("/pair")
def look_at_pair(request: Request, session: Transaction, slug: Slug, body: OnePairIn) -> OnePairOut:
    """Everything a plan says of two records, or of values that are typed."""
    own, asked = benches(request).warm(slug), _asked(session, slug, body)
    left, right = (one_pair.Side(side.record_id, side.fields) for side in (body.left, body.right))
    found = one_pair.one_pair(session, slug, own, asked, left, right)
    return OnePairOut.model_validate(found, from_attributes=True)


@router.post("/blocks")
def largest_blocks(request: Request, session: Transaction, slug: Slug, body: BlocksIn) -> list[BlockSeenOut]:
    """The largest blocks that a key makes of the register's records."""
    found = blocks.blocks_of_key(session, slug, benches(request).needed(slug), body.key)
    return [BlockSeenOut.model_validate(block, from_attributes=True) for block in found]
