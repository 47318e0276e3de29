"""The review desk: the queue, pairs face to face, decisions."""

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from ..services.match import review as service
from .dependencies import Actor, RecordId, Slug, Text, Transaction

router = APIRouter(tags=["review"])


class QueuedPairOut(BaseModel):
    """A pair that waits, with the kind of its doubt; ``cluster_size`` counts the records that a *same* would put together.

    ``changed`` lists the fields in which the records are others than when the pair was decided.
    """

    left_id: int
    right_id: int
    score: float
    kind: str
    kind_says: str
    changed: list[str]
    put_off: bool
    left_name: str
    right_name: str
    cluster_size: int


class QueueOut(BaseModel):
    """A page of the queue: how many wait and are put off in all, and the cursor behind which the next page begins."""

    waiting: int
    put_off: int
    behind: str
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
    withdrawn_by: str | None


class ChangedOut(BaseModel):
    """A tidy value that is another than when a pair was decided, on the left or right side."""

    field: str
    side: str
    was: str
    now: str


class KindOut(BaseModel):
    """A kind of doubt, in words, and how many such doubts wait."""

    kind: str
    says: str
    waiting: int


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
    changed: list[ChangedOut]


class DecisionIn(BaseModel):
    """A decision to keep; ``seen_decision`` is the decision the pair had when it was shown, if any."""

    left_id: Annotated[int, Field(ge=1, le=2**63 - 1)]
    right_id: Annotated[int, Field(ge=1, le=2**63 - 1)]
    verdict: Literal["same", "different", "later"]
    remark: Text = ""
    seen_decision: Annotated[int, Field(ge=1, le=2**63 - 1)] | None = None


def _decision(decision: object) -> DecisionOut:
    return DecisionOut.model_validate(decision, from_attributes=True)


@router.get("/registers/{slug}/review")
def get_queue(
    session: Transaction, slug: Slug, order: Literal["doubt", "score", "cluster"] = "doubt",
    search: Annotated[Text, Query(max_length=200)] = "", kind: Annotated[Text, Query(max_length=120)] = "",
    after: Annotated[Text, Query(max_length=200)] = "", limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> QueueOut:  # fmt: skip
    """Pairs that wait for a decision, most doubtful first by default; searched by any words of the two records."""
    page = service.queue(session, slug, order=order, search=search, kind=kind, after=after, limit=limit)
    pairs = [
        QueuedPairOut(
            left_id=item.pair.left_id, right_id=item.pair.right_id, score=item.pair.score, kind=item.pair.kind, kind_says=item.kind,
            changed=item.pair.changed, put_off=item.pair.put_off, left_name=item.pair.left_name, right_name=item.pair.right_name,
            cluster_size=item.pair.cluster_size,
        )
        for item in page.pairs
    ]  # fmt: skip
    return QueueOut(waiting=page.waiting, put_off=page.put_off, behind=page.behind, pairs=pairs)


@router.get("/registers/{slug}/review/kinds")
def get_kinds(session: Transaction, slug: Slug) -> list[KindOut]:
    """The kinds of doubts that wait, the most frequent first."""
    return [KindOut(kind=kind, says=says, waiting=count) for kind, says, count in service.kinds(session, slug)]


@router.get("/registers/{slug}/pairs/{left_id}/{right_id}")
def get_pair(session: Transaction, slug: Slug, left_id: RecordId, right_id: RecordId) -> PairOut:
    """A pair of the latest run with its evidence."""
    pair = service.pair(session, slug, left_id, right_id)
    return PairOut(
        left=FacedRecordOut.model_validate(pair.left, from_attributes=True),
        right=FacedRecordOut.model_validate(pair.right, from_attributes=True),
        score=pair.score, probability=pair.probability, verdict=pair.verdict, reason=pair.reason,
        evidence=[EvidenceOut.model_validate(item, from_attributes=True) for item in pair.evidence],
        same_from=pair.same_from, unsure_from=pair.unsure_from,
        fields=[FieldLabel(name=name, label=label) for name, label in pair.labels],
        decision=_decision(pair.decision) if pair.decision else None,
        changed=[ChangedOut.model_validate(item, from_attributes=True) for item in pair.changed],
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
    session: Transaction, slug: Slug, actor: Actor, limit: Annotated[int, Query(ge=1, le=500)] = 50, mine: bool = False
) -> list[DecisionOut]:
    """The latest decisions, newest first; only one's own with ``mine``."""
    return [_decision(one) for one in service.decisions(session, slug, limit, actor=actor if mine else "")]


@router.post("/decisions/{decision_id}/withdraw")
def withdraw(session: Transaction, decision_id: RecordId, actor: Actor) -> DecisionOut:
    """Take a decision back."""
    return _decision(service.withdraw(session, decision_id, actor=actor))
