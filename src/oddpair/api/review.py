"""The review desk: the queue, pairs face to face, decisions."""

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from ..services.match import review as service
from ..store.tables import Decision
from .dependencies import Actor, RecordId, Slug, Text, Transaction

router = APIRouter(tags=["review"])


class QueuedPairOut(BaseModel):
    """A pair that waits; ``cluster_size`` counts the records that a *same* would put together."""

    left_id: int
    right_id: int
    score: float
    reason: str
    put_off: bool
    left_name: str
    right_name: str
    cluster_size: int


class QueueOut(BaseModel):
    """A page of the queue."""

    waiting: int
    pairs: list[QueuedPairOut]


class FacedRecordOut(BaseModel):
    """One side of the desk."""

    id: int
    source: str
    source_key: str
    fields: dict[str, str]
    tidy: dict[str, str]


class EvidenceOut(BaseModel):
    """What one comparison says, in bits for (+) or against (-)."""

    field: str
    label: str
    level: str
    bits: float
    sentence: str
    veto: bool


class DecisionOut(BaseModel):
    """A decision about a pair."""

    id: int
    left_id: int
    right_id: int
    verdict: str
    remark: str
    actor: str
    at: datetime
    withdrawn_at: datetime | None


class FieldLabel(BaseModel):
    """A field and its label."""

    name: str
    label: str


class PairOut(BaseModel):
    """Two records face to face."""

    left: FacedRecordOut
    right: FacedRecordOut
    score: float
    probability: Annotated[float, Field(ge=0, le=1)] | None
    verdict: str
    reason: str
    evidence: list[EvidenceOut]
    same_from: float
    unsure_from: float
    fields: list[FieldLabel]
    decision: DecisionOut | None


class DecisionIn(BaseModel):
    """A decision to keep; ``seen_decision`` is the decision the pair had when it was shown, if any."""

    left_id: Annotated[int, Field(ge=1, le=2**63 - 1)]
    right_id: Annotated[int, Field(ge=1, le=2**63 - 1)]
    verdict: Literal["same", "different", "later"]
    remark: Text = ""
    seen_decision: Annotated[int, Field(ge=1, le=2**63 - 1)] | None = None


def _decision(decision: Decision) -> DecisionOut:
    return DecisionOut.model_validate(decision, from_attributes=True)


@router.get("/registers/{slug}/review")
def get_queue(
    session: Transaction, slug: Slug, order: Literal["doubt", "score", "cluster"] = "doubt",
    search: Annotated[Text, Query(max_length=200)] = "",
    offset: Annotated[int, Query(ge=0, le=100_000_000)] = 0, limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> QueueOut:  # fmt: skip
    """Pairs that wait for a decision, most doubtful first by default."""
    waiting, pairs = service.queue(session, slug, order=order, search=search, offset=offset, limit=limit)
    return QueueOut(waiting=waiting, pairs=[QueuedPairOut.model_validate(pair, from_attributes=True) for pair in pairs])


@router.get("/registers/{slug}/pairs/{left_id}/{right_id}")
def get_pair(session: Transaction, slug: Slug, left_id: RecordId, right_id: RecordId) -> PairOut:
    """A pair of the latest run with its evidence."""
    pair = service.pair(session, slug, left_id, right_id)
    return PairOut(
        left=FacedRecordOut.model_validate(pair.left, from_attributes=True),
        right=FacedRecordOut.model_validate(pair.right, from_attributes=True),
        score=pair.score, probability=pair.probability, verdict=pair.verdict, reason=pair.reason,
        evidence=[EvidenceOut.model_validate(item) for item in pair.evidence],
        same_from=pair.same_from, unsure_from=pair.unsure_from,
        fields=[FieldLabel(name=name, label=label) for name, label in pair.labels],
        decision=_decision(pair.decision) if pair.decision else None,
    )  # fmt: skip


@router.post("/registers/{slug}/decisions", status_code=201)
def decide(session: Transaction, actor: Actor, slug: Slug, body: DecisionIn) -> DecisionOut:
    """Decide a pair."""
    return _decision(
        service.decide(
            session, slug, body.left_id, body.right_id, verdict=body.verdict, remark=body.remark, actor=actor,
            seen_decision=body.seen_decision,
        )
    )  # fmt: skip


@router.get("/registers/{slug}/decisions")
def list_decisions(
    session: Transaction, slug: Slug, limit: Annotated[int, Query(ge=1, le=500)] = 50
) -> list[DecisionOut]:
    """The latest decisions, newest first."""
    return [_decision(decision) for decision in service.decisions(session, slug, limit)]


@router.post("/decisions/{decision_id}/withdraw")
def withdraw(session: Transaction, decision_id: RecordId) -> DecisionOut:
    """Take a decision back."""
    return _decision(service.withdraw(session, decision_id))
