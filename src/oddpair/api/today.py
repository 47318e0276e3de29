"""The start of the day."""

from datetime import date, datetime

from fastapi import APIRouter
from pydantic import BaseModel

from ..services.today import today
from .dependencies import Asker, Transaction
from .desk import KindOut
from .schedules import TurnOut, turn_out
from .work_given import PieceOut

router = APIRouter(tags=["today"])


class WaitingOut(BaseModel):
    """The most frequent kinds of doubt that wait in a register, and how many further kinds there are."""

    slug: str
    register_name: str
    kinds: list[KindOut]
    more_kinds: int


class CameBackOut(BaseModel):
    """How many doubts came back in a register: because a day came ("day"), or because records changed ("changed")."""

    slug: str
    register_name: str
    kind: str
    count: int


class AskedOut(BaseModel):
    """A doubt that somebody asks this person about."""

    slug: str
    register_name: str
    what: str
    left_id: int
    right_id: int
    asked_by: str
    remark: str
    until: date | None
    at: datetime


class WrongOut(BaseModel):
    """Something that looks wrong, in a sentence, and the address below the register that leads to it."""

    slug: str
    register_name: str
    says: str
    leads_to: str


class ToSignOut(BaseModel):
    """How many proposals of a register wait for a yes of this person."""

    slug: str
    register_name: str
    count: int


class SentBackOut(BaseModel):
    """What was sent back to this person, by whom and why."""

    id: int
    slug: str
    register_name: str
    summary: str
    sent_by: str
    reason: str


class OwnWorkOut(BaseModel):
    """A piece of this person's work in which something waits."""

    slug: str
    register_name: str
    piece: PieceOut


class TodayOut(BaseModel):
    """What waits for a person: doubts by register and kind, what came back, what others ask, what looks wrong, which turns
    are held, what they may sign off, and what was sent back to them."""

    waiting: list[WaitingOut]
    came_back: list[CameBackOut]
    asked: list[AskedOut]
    wrong: list[WrongOut]
    held: list[TurnOut]
    to_sign: list[ToSignOut]
    sent_back: list[SentBackOut]
    work: list[OwnWorkOut]


@router.get("/today")
def get_today(session: Transaction, asker: Asker) -> TodayOut:
    """What this person begins the day with, over all registers."""
    found = today(session, actor=asker.name, may=asker.may)
    return TodayOut(
        waiting=[
            WaitingOut(
                slug=one.slug, register_name=one.register_name, more_kinds=one.more_kinds,
                kinds=[KindOut(kind=kind, says=says, waiting=count) for kind, says, count in one.kinds],
            )
            for one in found.waiting
        ],
        came_back=[CameBackOut.model_validate(one, from_attributes=True) for one in found.came_back],
        asked=[AskedOut.model_validate(one, from_attributes=True) for one in found.asked],
        wrong=[WrongOut.model_validate(one, from_attributes=True) for one in found.wrong],
        held=[turn_out(one) for one in found.held],
        to_sign=[ToSignOut.model_validate(one, from_attributes=True) for one in found.to_sign],
        work=[OwnWorkOut.model_validate(one, from_attributes=True) for one in found.work],
        sent_back=[SentBackOut.model_validate(one, from_attributes=True) for one in found.sent_back],
    )  # fmt: skip
