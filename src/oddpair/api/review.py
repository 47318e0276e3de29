"""The review desk: the queue, pairs face to face, decisions about pairs."""

from datetime import UTC, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import AwareDatetime

from ..core.rights import Permission
from ..services.people.accounts import who_may_in
from ..services.review import (
    bulk,
    context,
    contradictions,
    decide,
    leases,
    neighbours,
    pair,
    queue,
    second_looks,
    take_back,
)
from .dependencies import Actor, AppState, RecordId, Slug, Transaction
from .desk import (
    AgreementOut,
    ChangedOut,
    ContextOut,
    ContradictionOut,
    DecidedOut,
    DecisionIn,
    DecisionOut,
    DisagreementOut,
    EvidenceOut,
    FacedRecordOut,
    FieldLabel,
    JudgementOut,
    KindOut,
    LeasesIn,
    LikesOut,
    LinkSaid,
    LookIn,
    ManyIn,
    ManyOut,
    NeighboursOut,
    PairOut,
    ProgressOut,
    QueuedOut,
    QueueOut,
    QueuePageQuery,
    RelatedValuesOut,
    SaidOut,
    TakenBackOut,
    TakenOut,
)

router = APIRouter(tags=["review"])
#: What a day at the desk is where nobody says since when.
_DAY = timedelta(hours=24)


def decision_out(decision: object) -> DecisionOut:
    """Return a decision as it is sent."""
    return DecisionOut.model_validate(decision, from_attributes=True)


def contradiction_out(found: contradictions.Contradiction) -> ContradictionOut:
    """Return a contradiction as it is sent."""
    return ContradictionOut(
        different=LinkSaid.model_validate(found.different, from_attributes=True),
        chain=[LinkSaid.model_validate(link, from_attributes=True) for link in found.chain],
    )


@router.get("/registers/{slug}/review")
def get_queue(session: Transaction, actor: Actor, slug: Slug, query: Annotated[QueuePageQuery, Query()]) -> QueueOut:
    """Doubts that wait for a person, most doubtful first by default."""
    page = queue.queue(
        session, slug, query.wanted(query.desk, actor), order=query.order, after=query.after, limit=query.limit
    )
    doubts = [
        QueuedOut.model_validate(
            {
                **{name: getattr(item.doubt, name) for name in QueuedOut.model_fields if name != "kind_says"},
                "kind_says": item.kind,
            }
        )
        for item in page.items
    ]
    return QueueOut(waiting=page.waiting, put_off=page.put_off, behind=page.behind, doubts=doubts)


@router.get("/registers/{slug}/review/kinds")
def get_kinds(session: Transaction, slug: Slug) -> list[KindOut]:
    """The kinds of doubts that wait, the most frequent first."""
    return [KindOut(kind=kind, says=says, waiting=count) for kind, says, count in queue.kinds(session, slug)]


@router.get("/registers/{slug}/review/progress")
def get_progress(session: Transaction, actor: Actor, slug: Slug, since: AwareDatetime | None = None) -> ProgressOut:
    """What this person decided since a moment, else in the last 24 hours, and how many doubts wait."""
    said, waiting = decide.progress(session, slug, actor=actor, since=since or datetime.now(UTC) - _DAY)
    return ProgressOut(actor=actor, **{verdict: said.get(verdict, 0) for verdict in decide.VERDICTS}, waiting=waiting)


@router.get("/registers/{slug}/review/people")
def get_people(session: Transaction, state: AppState, actor: Actor, slug: Slug) -> list[str]:
    """Who can be asked about a doubt of this register: those who may decide here, or, where nobody signs in, the names under which somebody
    decided, and one's own."""
    if state.settings.sign_in:
        return who_may_in(session, Permission.DECIDE, slug)
    return decide.people(session, slug, actor=actor)


@router.post("/registers/{slug}/review/leases")
def take_leases(session: Transaction, actor: Actor, slug: Slug, body: LeasesIn) -> list[TakenOut]:
    """Have doubts before oneself for some minutes, so that nobody else gets them; the answer names those that another desk has."""
    taken = leases.take(session, slug, body.doubts, actor=actor, desk=body.desk)
    return [TakenOut(left_id=left, right_id=right, holder=holder) for left, right, holder in taken]


@router.delete("/review/leases/{desk}", status_code=204)
def leave_desk(session: Transaction, desk: str) -> None:
    """Give up what a desk has before it."""
    leases.leave(session, desk[:80])


@router.get("/registers/{slug}/pairs/{left_id}/{right_id}")
def get_pair(session: Transaction, slug: Slug, left_id: RecordId, right_id: RecordId) -> PairOut:
    """Two records face to face with the evidence between them; those that no run brought together are compared on the spot."""
    found = pair.pair(session, slug, left_id, right_id)
    return PairOut(
        left=FacedRecordOut.model_validate(found.left, from_attributes=True),
        right=FacedRecordOut.model_validate(found.right, from_attributes=True),
        score=found.score, probability=found.probability, verdict=found.verdict, reason=found.reason,
        evidence=[EvidenceOut.model_validate(item, from_attributes=True) for item in found.evidence],
        same_from=found.same_from, unsure_from=found.unsure_from,
        fields=[FieldLabel(name=name, label=label) for name, label in found.labels],
        decision=decision_out(found.decision) if found.decision else None, proposed=found.proposed,
        changed=[ChangedOut.model_validate(item, from_attributes=True) for item in found.changed],
        lost_at=found.lost_at, keys=list(found.keys),
        related=[RelatedValuesOut.model_validate(one, from_attributes=True) for one in found.related],
    )  # fmt: skip


@router.get("/registers/{slug}/pairs/{left_id}/{right_id}/neighbours")
def get_neighbours(session: Transaction, slug: Slug, left_id: RecordId, right_id: RecordId) -> list[NeighboursOut]:
    """The values of two records by which others are near them, how many hold each, what both share first."""
    found = neighbours.neighbours(session, slug, left_id, right_id)
    return [NeighboursOut.model_validate(item, from_attributes=True) for item in found]


@router.get("/registers/{slug}/pairs/{left_id}/{right_id}/context")
def get_context(session: Transaction, slug: Slug, left_id: RecordId, right_id: RecordId) -> ContextOut:
    """The other records of both clusters, what a *same* would make of the golden record, and earlier decisions."""
    found = context.context_of(session, slug, left_id, right_id)
    return ContextOut(
        left_cluster=[FacedRecordOut.model_validate(item, from_attributes=True) for item in found.left_cluster],
        right_cluster=[FacedRecordOut.model_validate(item, from_attributes=True) for item in found.right_cluster],
        left_golden=found.left_golden, right_golden=found.right_golden, together=found.together, left_key=found.left_key,
        right_key=found.right_key, said=[SaidOut.model_validate(item, from_attributes=True) for item in found.said],
    )  # fmt: skip


@router.post("/registers/{slug}/decisions", status_code=201)
def post_decision(session: Transaction, actor: Actor, slug: Slug, body: DecisionIn) -> DecidedOut:
    """Decide a pair."""
    decision = decide.decide(
        session, slug, body.left_id, body.right_id, verdict=body.verdict, remark=body.remark, actor=actor,
        seen_decision=body.seen_decision, until=body.until, asked=body.asked, desk=body.desk,
    )  # fmt: skip
    found = contradictions.contradictions_of(session, decision.register_id, [decision.left_id, decision.right_id])
    return DecidedOut(**decision_out(decision).model_dump(), contradicts=[contradiction_out(one) for one in found])


@router.get("/registers/{slug}/decisions")
def list_decisions(
    session: Transaction, slug: Slug, actor: Actor, limit: Annotated[int, Query(ge=1, le=500)] = 50, mine: bool = False
) -> list[DecisionOut]:
    """The latest decisions, newest first; only one's own with ``mine``."""
    return [decision_out(one) for one in decide.decisions(session, slug, limit, actor=actor if mine else "")]


@router.post("/decisions/{decision_id}/withdraw")
def withdraw(session: Transaction, decision_id: RecordId, actor: Actor) -> DecisionOut:
    """Take a decision back."""
    return decision_out(decide.withdraw(session, decision_id, actor=actor))


@router.post("/registers/{slug}/review/take-back")
def take_back_mine(session: Transaction, slug: Slug, actor: Actor) -> TakenBackOut:
    """Take back one's latest act at this desk: a decision about a pair or a cluster, or many pairs decided in one step."""
    return TakenBackOut.model_validate(take_back.take_back_latest(session, slug, actor=actor), from_attributes=True)


@router.get("/registers/{slug}/contradictions")
def get_contradictions(session: Transaction, slug: Slug) -> list[ContradictionOut]:
    """Decisions that contradict each other."""
    return [contradiction_out(one) for one in contradictions.contradictions(session, slug)]


@router.get("/registers/{slug}/pairs/{left_id}/{right_id}/likes")
def get_likes(
    session: Transaction, slug: Slug, left_id: RecordId, right_id: RecordId, seed: Annotated[int, Query(ge=0)] = 0
) -> LikesOut:
    """All doubts like one, counted, with a sample drawn at random by a seed."""
    return LikesOut.model_validate(bulk.like_this(session, slug, left_id, right_id, seed=seed), from_attributes=True)


@router.post("/registers/{slug}/pairs/{left_id}/{right_id}/likes", status_code=201)
def decide_likes(
    session: Transaction, actor: Actor, slug: Slug, left_id: RecordId, right_id: RecordId, body: ManyIn
) -> ManyOut:
    """Decide all doubts like one in one step, with a reason."""
    entry, pairs = bulk.decide_like(
        session, slug, left_id, right_id, verdict=body.verdict, remark=body.remark, seen=body.seen, actor=actor
    )
    return ManyOut(entry_id=entry, pairs=pairs)


@router.post("/decisions/many/{entry_id}/withdraw")
def withdraw_many(session: Transaction, actor: Actor, entry_id: RecordId) -> ManyOut:
    """Take back, in one step, what a step decided."""
    return ManyOut(entry_id=entry_id, pairs=bulk.take_back_many(session, entry_id, actor=actor))


@router.get("/registers/{slug}/second-looks/next")
def draw_second_look(session: Transaction, actor: Actor, slug: Slug) -> list[DecisionOut]:
    """A decided pair for another look, none where there is none. The desk shows it without its decision."""
    found = second_looks.draw(session, slug, actor=actor)
    return [decision_out(found)] if found else []


@router.post("/registers/{slug}/second-looks", status_code=201)
def look_again(session: Transaction, actor: Actor, slug: Slug, body: LookIn) -> None:
    """Keep what a person says of a decided pair that was shown again."""
    second_looks.look_again(session, slug, body.left_id, body.right_id, verdict=body.verdict, actor=actor)


@router.get("/registers/{slug}/second-looks/agreement")
def get_agreement(session: Transaction, actor: Actor, slug: Slug) -> JudgementOut:
    """How this person's judgement agrees with itself and with that of others."""
    found = second_looks.judgement_of(session, slug, actor=actor)
    return JudgementOut(
        with_self=AgreementOut.model_validate(found.with_self, from_attributes=True),
        with_others=AgreementOut.model_validate(found.with_others, from_attributes=True),
    )


@router.get("/registers/{slug}/second-looks/disagreements")
def get_disagreements(session: Transaction, slug: Slug) -> list[DisagreementOut]:
    """Standing decisions that a second look disagrees with."""
    return [
        DisagreementOut(decision=decision_out(decision), actor=look.actor, verdict=look.verdict, at=look.at)
        for decision, look in second_looks.disagreements(session, slug)
    ]
