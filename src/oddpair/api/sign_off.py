"""Sign-off: what needs a second yes, what waits for it, and giving it."""

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from ..core.errors import Refused
from ..core.rights import Permission
from ..core.sign_off import MOST_LEVELS, policy_document
from ..services.people.accounts import who_may_in
from ..services.proposals import policy as policies
from ..services.sign_off import listing, many, signing
from ..services.sign_off.listing import ENDS, SENT_BACK, WAITING, ProposalFilter
from .dependencies import Actor, AppState, Asker, RecordId, Slug, Text, Transaction

router = APIRouter(tags=["sign-off"])
_PATIENCE_S = 3.0
_STATES: dict[str, tuple[str, ...]] = {"waiting": (WAITING,), "sent back": (SENT_BACK,), "ended": ENDS}


class PolicyOut(BaseModel):
    """What needs a second yes: everything that people decide or change, golden records of more than so many records, values of some fields,
    bulk steps, deletions, plans and rules, a share of the rest. For each yes, in order, the people who may give it: nobody named is
    everybody who signs off, the ``approvers``."""

    everything: bool
    merges_over: int | None
    fields: list[str]
    bulk: bool
    deletions: bool
    plans: bool
    share: float
    levels: list[list[str]]
    version: int
    approvers: list[str]


class PolicyIn(BaseModel):
    """What is to need a second yes."""

    everything: bool = False
    merges_over: Annotated[int | None, Field(ge=1, le=1_000_000)] = None
    fields: Annotated[list[Text], Field(max_length=200)] = []
    bulk: bool = False
    deletions: bool = False
    plans: bool = False
    share: Annotated[float, Field(ge=0, le=1)] = 0.0
    levels: Annotated[
        list[Annotated[list[Text], Field(max_length=50)]], Field(min_length=1, max_length=MOST_LEVELS)
    ] = [[]]
    seen_version: int


class ProposalLine(BaseModel):
    """What a proposal will do: what it was, and will be."""

    what: str
    was: str
    will: str


class YesOut(BaseModel):
    """A yes that was given."""

    actor: str
    at: datetime
    remark: str


class ProposedActOut(BaseModel):
    """An act that waits for sign-off, was sent back, or ended: ``why_not_you`` is "" where the person who asks may sign it."""

    id: int
    slug: str
    act: str
    why: str
    summary: str
    shows: list[ProposalLine]
    leads_to: str
    proposed_by: str
    proposed_at: datetime
    state: str
    reason: str
    returned_to: str
    ended_by: str
    ended_at: datetime | None
    signatures: list[YesOut]
    needed: int
    next_by: list[str]
    why_not_you: str


class ProposalGroup(BaseModel):
    """How many proposals there are of an act, for a reason, by a person."""

    act: str
    why: str
    proposed_by: str
    count: int


class ProposalsOut(BaseModel):
    """A page of proposals; ``behind`` is where the next page begins."""

    proposals: list[ProposedActOut]
    behind: int | None
    groups: list[ProposalGroup]
    waiting: int
    sent_back: int


class ProposalsAsked(BaseModel):
    """Which proposals are asked for."""

    state: Literal["waiting", "sent back", "ended"] = "waiting"
    act: Annotated[Text, Field(max_length=40)] = ""
    why: Annotated[Text, Field(max_length=400)] = ""
    proposed_by: Annotated[Text, Field(max_length=200)] = ""

    def wanted(self) -> ProposalFilter:
        """Return the filter."""
        return ProposalFilter(_STATES[self.state], self.act, self.why, self.proposed_by)


class ProposalsPage(ProposalsAsked):
    """A page of them."""

    after: Annotated[int, Field(ge=0, le=2**63 - 1)] = 0
    limit: Annotated[int, Field(ge=1, le=200)] = 50


class YesIn(BaseModel):
    """A yes, with a remark if there is one to make."""

    remark: Text = ""


class SignedOut(BaseModel):
    """What came of a yes."""

    proposal_id: int
    state: str
    reason: str


class SendBackIn(BaseModel):
    """Why something is sent back, and whether to everybody instead of to the one who proposed it."""

    reason: Annotated[Text, Field(min_length=1)]
    to_all: bool = False


class ManyToSign(BaseModel):
    """The proposals that would be signed in one step: how many, how many of the others are not this person's to sign, some at random."""

    count: int
    not_yours: int
    sample: list[ProposedActOut]
    seen: str


class SignManyIn(BaseModel):
    """Which proposals are signed in one step, and the set that was seen."""

    which: ProposalsAsked
    seen: Annotated[Text, Field(min_length=1, max_length=40)]
    remark: Text = ""


class SignedManyOut(BaseModel):
    """What came of signing many."""

    carried_out: int
    waiting: int
    overtaken: list[str]


def proposal_out(shown: listing.Shown) -> ProposedActOut:
    """Return a proposal as it is sent."""
    return ProposedActOut.model_validate(shown, from_attributes=True)


def _policy_out(session: Transaction, slug: str) -> PolicyOut:
    policy, version = policies.policy_in_force(session, slug)
    document: dict[str, Any] = policy_document(policy)
    known = {name: document[name] for name in PolicyOut.model_fields if name in document}
    return PolicyOut(**known, version=version, approvers=who_may_in(session, Permission.SIGN_OFF, slug))


@router.get("/registers/{slug}/sign-off/policy")
def get_policy(session: Transaction, slug: Slug) -> PolicyOut:
    """What needs a second yes in a register."""
    return _policy_out(session, slug)


@router.put("/registers/{slug}/sign-off/policy")
def put_policy(session: Transaction, actor: Actor, slug: Slug, body: PolicyIn) -> PolicyOut:
    """Set what needs a second yes."""
    approvers = set(who_may_in(session, Permission.SIGN_OFF, slug))
    unknown = sorted({name for level in body.levels for name in level} - approvers)
    if unknown:
        raise Refused(f"{', '.join(unknown)} may not sign off here: name people who may, or nobody.")
    document = body.model_dump(exclude={"seen_version"})
    policies.set_policy(session, slug, document, seen_version=body.seen_version, actor=actor)
    return _policy_out(session, slug)


@router.get("/registers/{slug}/proposals")
def list_proposals(
    session: Transaction, actor: Actor, slug: Slug, query: Annotated[ProposalsPage, Query()]
) -> ProposalsOut:
    """What waits for sign-off, was sent back, or ended."""
    found = listing.page(session, slug, query.wanted(), actor=actor, after=query.after, limit=query.limit)
    return ProposalsOut(
        proposals=[proposal_out(shown) for shown in found.proposals], behind=found.behind,
        groups=[ProposalGroup(act=act, why=why, proposed_by=by, count=count) for act, why, by, count in found.groups],
        waiting=found.counts.get(WAITING, 0), sent_back=found.counts.get(SENT_BACK, 0),
    )  # fmt: skip


@router.get("/registers/{slug}/proposals/many")
def get_many(
    session: Transaction,
    actor: Actor,
    slug: Slug,
    query: Annotated[ProposalsAsked, Query()],
    seed: Annotated[int, Query(ge=0)] = 0,
) -> ManyToSign:
    """The proposals of a filter that this person may sign, counted, with a sample drawn at random by a seed."""
    found = many.many(session, slug, query.wanted(), actor=actor, seed=seed)
    return ManyToSign(
        count=found.count,
        not_yours=found.not_yours,
        sample=[proposal_out(shown) for shown in found.sample],
        seen=found.seen,
    )


@router.post("/registers/{slug}/proposals/many")
def sign_many(state: AppState, actor: Actor, slug: Slug, body: SignManyIn) -> SignedManyOut:
    """Sign all proposals of a filter that this person may sign, in one step."""
    signed = many.sign_many(
        state.sessions,
        slug,
        body.which.wanted(),
        seen=body.seen,
        remark=body.remark,
        actor=actor,
        patience_s=_PATIENCE_S,
    )
    return SignedManyOut.model_validate(signed, from_attributes=True)


@router.get("/proposals/{proposal_id}")
def get_proposal(session: Transaction, actor: Actor, proposal_id: RecordId) -> ProposedActOut:
    """A proposal: what it will do, who proposed it, who signed."""
    return proposal_out(listing.one(session, proposal_id, actor=actor))


@router.post("/proposals/{proposal_id}/sign")
def sign(state: AppState, actor: Actor, proposal_id: RecordId, body: YesIn) -> SignedOut:
    """Give a yes; the last one that is needed carries the proposal out."""
    signed = signing.sign(state.sessions, proposal_id, actor=actor, remark=body.remark, patience_s=_PATIENCE_S)
    return SignedOut.model_validate(signed, from_attributes=True)


@router.post("/proposals/{proposal_id}/send-back")
def send_back(session: Transaction, actor: Actor, proposal_id: RecordId, body: SendBackIn) -> SignedOut:
    """Send a proposal back with a reason."""
    found = signing.send_back(session, proposal_id, reason=body.reason, to_all=body.to_all, actor=actor)
    return SignedOut(proposal_id=found.id, state=found.state, reason=found.reason)


@router.post("/proposals/{proposal_id}/withdraw")
def withdraw_proposal(session: Transaction, asker: Asker, proposal_id: RecordId) -> SignedOut:
    """Withdraw a proposal of one's own, or let one go that was sent back."""
    found = signing.withdraw(session, proposal_id, actor=asker.name, may=_may(session, asker, proposal_id))
    return SignedOut(proposal_id=found.id, state=found.state, reason=found.reason)


@router.post("/proposals/{proposal_id}/again")
def propose_again(session: Transaction, asker: Asker, proposal_id: RecordId) -> SignedOut:
    """Propose what was sent back once more, as it was."""
    signing.propose_again(session, proposal_id, actor=asker.name, may=_may(session, asker, proposal_id))
    return SignedOut(proposal_id=proposal_id, state="carried out", reason="")


def _may(session: Transaction, asker: Asker, proposal_id: int) -> signing.May:
    slug = listing.one(session, proposal_id, actor=asker.name).slug
    return lambda act: asker.may(act, slug)
