"""Search, then create: what is there is told before a record is entered; the checks that say so; and the trusted reference."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, ConfigDict, Field

from ..services.entering import checks as check_service
from ..services.entering import enter as service
from ..services.entering import reference as reference_service
from ..services.entering.checks import Part, Told
from ..services.registers.registers import register_with_layout
from ..services.standing.asked_together import AskedTogether
from ..services.standing.look_up import Candidate
from ..services.transactions import transaction
from .dependencies import Actor, AppState, RecordId, Slug, SmallId, Text, Transaction
from .look_up import FieldName, LookUpCandidateOut, Value, candidate_out

router = APIRouter(tags=["entering"], prefix="/registers/{slug}")
How = Literal["same", "first", "last", "plan same", "plan unsure"]
Values = Annotated[dict[FieldName, Value], Field(max_length=200)]
_BEST = 5


class CheckPart(BaseModel):
    """What has to agree: a field that is the same, or its first or last so many letters; or what the plan says, without a field."""

    model_config = ConfigDict(extra="forbid")
    how: How
    field: FieldName = ""
    letters: Annotated[int, Field(ge=0, le=50)] = 0


class CheckIn(BaseModel):
    """A check: its parts, which must all agree with one record, and whether that forbids entering another one or warns."""

    model_config = ConfigDict(extra="forbid")
    parts: Annotated[list[CheckPart], Field(min_length=1, max_length=5)]
    forbids: bool = False


class CheckOut(BaseModel):
    """A check in force, with what it ``says``."""

    id: int
    parts: list[CheckPart]
    says: str
    forbids: bool
    actor: str
    at: datetime


class TryCheckIn(BaseModel):
    """Parts of a check, and over how many of the latest days it is tried."""

    model_config = ConfigDict(extra="forbid")
    parts: Annotated[list[CheckPart], Field(min_length=1, max_length=5)]
    days: Annotated[int, Field(ge=1, le=3650)] = 30


class TriedExample(BaseModel):
    """A record, and the one that was there."""

    source: str
    source_key: str
    there_source: str
    there_source_key: str


class TriedCheckOut(BaseModel):
    """Of how many ``records`` that came in these days a check would have ``told`` that one like it was there."""

    records: int
    told: int
    examples: list[TriedExample]


class ToldOut(BaseModel):
    """What a check tells: what agrees, with which golden records, and whether that forbids another one."""

    check_id: int
    says: str
    forbids: bool
    golden_keys: list[str]


class LookIn(BaseModel):
    """What was typed, by field."""

    model_config = ConfigDict(extra="forbid")
    values: Values


class LookOut(BaseModel):
    """Whom the record may be, and what the checks tell of it."""

    candidates: list[LookUpCandidateOut]
    told: list[ToldOut]


class EntryIn(BaseModel):
    """A record to enter: to ``use`` the golden record of ``golden_key`` as it is, ``add`` to it, or ``create`` one, with a reason where
    somebody may be there already; ``taken`` says per field from which trusted reference its value is."""

    model_config = ConfigDict(extra="forbid")
    values: Values
    act: Literal["use", "add", "create"]
    golden_key: Annotated[Text, Field(max_length=40)] = ""
    reason: Annotated[Text, Field(max_length=1000)] = ""
    taken: Annotated[dict[FieldName, Value], Field(max_length=200)] = {}


class EntryOut(BaseModel):
    """What was entered: the golden key, "" until a new record is recognised; the id of the new record in its source, "" for none."""

    id: int
    act: str
    golden_key: str
    source: str
    source_key: str


class ReferenceModel(BaseModel):
    """A trusted reference: what people call it, and where it is asked."""

    model_config = ConfigDict(extra="forbid")
    name: Annotated[Text, Field(min_length=1, max_length=80)]
    address: Annotated[Text, Field(min_length=1, max_length=2000)]


class ReferenceIn(BaseModel):
    """The trusted reference of a register, or none."""

    model_config = ConfigDict(extra="forbid")
    reference: ReferenceModel | None


class ReferredOut(BaseModel):
    """What a trusted reference knows of somebody."""

    number: str
    name: str
    status: str
    values: dict[str, str]


def _parts(parts: Sequence[CheckPart]) -> list[Part]:
    return [Part(part.how, part.field, part.letters) for part in parts]


@router.get("/checks")
def list_checks(session: Transaction, slug: Slug) -> list[CheckOut]:
    """The checks that records go through before they are entered."""
    _, layout = register_with_layout(session, slug)
    return [
        CheckOut(
            id=check.id, parts=[CheckPart(**part) for part in check.parts],
            says=check_service.says(check_service.parts_of(check), layout), forbids=check.forbids, actor=check.actor, at=check.at,
        )
        for check in check_service.checks(session, slug)
    ]  # fmt: skip


@router.post("/checks", status_code=201)
def put_check_in_force(session: Transaction, slug: Slug, actor: Actor, body: CheckIn) -> CheckOut:
    """Put a check in force."""
    parts = _parts(body.parts)
    check = check_service.put_in_force(session, slug, parts, forbids=body.forbids, actor=actor)
    says = check_service.says(parts, register_with_layout(session, slug)[1])
    return CheckOut(id=check.id, parts=body.parts, says=says, forbids=check.forbids, actor=check.actor, at=check.at)


@router.post("/checks/try")
def try_check(session: Transaction, slug: Slug, body: TryCheckIn) -> TriedCheckOut:
    """Of how many records that came in the latest days a check would have told that one like it was there."""
    tried = check_service.try_check(session, slug, _parts(body.parts), body.days)
    examples = [
        TriedExample(source=one[0], source_key=one[1], there_source=one[2], there_source_key=one[3])
        for one in tried.examples
    ]
    return TriedCheckOut(records=tried.records, told=tried.told, examples=examples)


@router.delete("/checks/{check_id}", status_code=204)
def remove_check(session: Transaction, slug: Slug, check_id: SmallId, actor: Actor) -> None:
    """Take a check out of force."""
    check_service.remove(session, slug, check_id, actor=actor)


def _candidates(request: Request, slug: str, values: dict[str, str]) -> list[Candidate]:
    look_ups: AskedTogether = request.app.state.look_ups
    return look_ups.ask(slug, [values], _BEST)[0]


@router.post("/entries/look")
def look_before_entering(request: Request, state: AppState, slug: Slug, body: LookIn) -> LookOut:
    """Whom a record may be that is about to be entered, and what the checks tell of it; nothing is kept."""
    candidates = _candidates(request, slug, body.values)
    with transaction(state.sessions) as session:
        register, _ = register_with_layout(session, slug)
        values = {name: value for name, value in body.values.items() if value.strip()}
        told: list[Told] = check_service.look_into(session, register, values, candidates) if values else []
    return LookOut(
        candidates=[candidate_out(one) for one in candidates],
        told=[
            ToldOut(check_id=one.check_id, says=one.says, forbids=one.forbids, golden_keys=list(one.golden_keys))
            for one in told
        ],
    )


@router.post("/entries", status_code=201)
def enter(request: Request, state: AppState, slug: Slug, actor: Actor, body: EntryIn) -> EntryOut:
    """Enter a record: looked up and checked once more, then saved with what was said about it."""
    candidates = _candidates(request, slug, body.values)
    wished = service.Wished(body.values, body.act, body.golden_key, body.reason, body.taken)
    with transaction(state.sessions) as session:
        entered = service.enter(session, slug, wished, candidates, state.settings.deliveries, actor=actor)
        return _entry(entered, entered.entry.golden_key)


def _entry(entered: service.Entered, golden_key: str) -> EntryOut:
    source = service.ENTERED_HERE if entered.source_key else ""
    return EntryOut(
        id=entered.entry.id, act=entered.entry.act, golden_key=golden_key, source=source, source_key=entered.source_key
    )  # fmt: skip


@router.get("/entries/{number}")
def get_entry(session: Transaction, slug: Slug, number: RecordId) -> EntryOut:
    """What was entered, and the golden key that it has now."""
    return _entry(*service.entered(session, slug, number))


@router.get("/reference")
def get_reference(session: Transaction, slug: Slug) -> ReferenceIn:
    """The trusted reference of a register, if it has one."""
    found = reference_service.reference_of(session, slug)
    return ReferenceIn(reference=ReferenceModel(name=found.name, address=found.address) if found else None)


@router.put("/reference")
def set_reference(session: Transaction, slug: Slug, actor: Actor, body: ReferenceIn) -> ReferenceIn:
    """Let a register ask a trusted reference, or none any more."""
    given = body.reference
    wished = reference_service.Reference(given.name, given.address) if given else None
    reference_service.set_reference(session, slug, wished, actor=actor)
    return get_reference(session, slug)


@router.get("/reference/ask")
def ask_reference(
    state: AppState, slug: Slug, name: Annotated[Text, Query(max_length=200)] = "",
    number: Annotated[Text, Query(max_length=40)] = "",
) -> list[ReferredOut]:  # fmt: skip
    """Whom the trusted reference knows by a name or a number."""
    with transaction(state.sessions) as session:
        register, _ = register_with_layout(session, slug)
    return [
        ReferredOut(number=one.number, name=one.name, status=one.status, values=dict(one.values))
        for one in reference_service.ask(register, name, number)
    ]
