"""Work given to people: doubts to decide, until a day."""

from datetime import UTC, date, datetime
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from ..core.errors import Refused
from ..core.rights import Permission
from ..services.people.accounts import who_may_in
from ..services.review import work_given
from .dependencies import Actor, AppState, Slug, SmallId, State, Text, Transaction

router = APIRouter(tags=["review"])
_People = Annotated[list[Annotated[Text, Field(min_length=1, max_length=80)]], Field(min_length=1, max_length=50)]
_Records = Annotated[int, Field(ge=0, le=1_000_000)]


class GiveIn(BaseModel):
    """Doubts to be given: of a kind, with a record of a source, pairs or clusters, of so many records (0: no limit), so many of a hundred
    of these; to whom, until when."""

    people: _People
    kind: Annotated[Text, Field(max_length=400)] = ""
    source: Annotated[Text, Field(max_length=200)] = ""
    what: Literal["", "pair", "cluster"] = ""
    least_records: _Records = 0
    most_records: _Records = 0
    share: Annotated[int, Field(ge=1, le=100)] = 100
    due_on: date | None = None
    remark: Text = ""


class GivenToIn(BaseModel):
    """To whom a piece of work goes, and until when it is to be done."""

    people: _People
    due_on: date | None = None


class HandOverIn(BaseModel):
    """Who is to do all of a person's work in the register while that person is away."""

    person: Annotated[Text, Field(min_length=1, max_length=80)]
    to: Annotated[Text, Field(min_length=1, max_length=80)]


class HandedOver(BaseModel):
    """How many pieces of work somebody else has a part in now."""

    pieces: int


class PieceOut(BaseModel):
    """A piece of work: what it is of in words, and how many of its doubts wait, are put off, wait for sign-off, are decided."""

    model_config = ConfigDict(from_attributes=True)
    id: int
    people: list[str]
    says: str
    share_from: int
    share_to: int
    due_on: date | None
    remark: str
    given_by: str
    given_at: datetime
    waiting: int
    put_off: int
    proposed: int
    decided: int
    late: bool


def _may_decide(session: Transaction, state: State, slug: str) -> list[str] | None:
    return who_may_in(session, Permission.DECIDE, slug) if state.settings.sign_in else None


@router.get("/registers/{slug}/work")
def list_work(session: Transaction, slug: Slug) -> list[PieceOut]:
    """What is given to whom, first given first, and how far it is."""
    found = work_given.pieces(session, slug, today=datetime.now(UTC).date())
    return [PieceOut.model_validate(piece) for piece in found]


@router.post("/registers/{slug}/work", status_code=201)
def give_work(session: Transaction, state: AppState, actor: Actor, slug: Slug, body: GiveIn) -> list[PieceOut]:
    """Give doubts to people, or take them oneself; return all pieces of work."""
    wished = work_given.Wished(**body.model_dump())
    work_given.give(session, slug, wished, may_decide=_may_decide(session, state, slug), actor=actor)
    return list_work(session, slug)


@router.put("/registers/{slug}/work/{piece_id}")
def change_work(
    session: Transaction, state: AppState, actor: Actor, slug: Slug, piece_id: SmallId, body: GivenToIn
) -> list[PieceOut]:
    """Hand a piece of work over, or give it another day; return all pieces of work."""
    work_given.change(
        session,
        slug,
        piece_id,
        people=body.people,
        due_on=body.due_on,
        may_decide=_may_decide(session, state, slug),
        actor=actor,
    )
    return list_work(session, slug)


@router.delete("/registers/{slug}/work/{piece_id}")
def end_work(session: Transaction, actor: Actor, slug: Slug, piece_id: SmallId) -> list[PieceOut]:
    """End a piece of work: what of it waits is everybody's again; return all pieces that are left."""
    work_given.end(session, slug, piece_id, actor=actor)
    return list_work(session, slug)


@router.post("/registers/{slug}/work/hand-over")
def hand_over(session: Transaction, state: AppState, actor: Actor, slug: Slug, body: HandOverIn) -> HandedOver:
    """Let somebody do the work of a person who is away."""
    may_decide = _may_decide(session, state, slug)
    if may_decide is not None and body.to not in may_decide:
        raise Refused(f"{body.to} may not decide here.")
    return HandedOver(pieces=work_given.hand_over(session, body.person, body.to, slug=slug, actor=actor))
