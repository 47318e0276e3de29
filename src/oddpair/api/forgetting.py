"""A person's data erased on request."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, ConfigDict, Field

from ..services.forgetting import find as finding
from ..services.forgetting.forget import ask_to_forget
from .dependencies import Actor, Slug, Text, Transaction
from .jobs import JobOut, job_out

router = APIRouter(tags=["forgetting"])
_Ids = Annotated[list[Annotated[int, Field(ge=1, le=2**63 - 1)]], Field(max_length=finding.MOST)]
_Key = Annotated[Text, Field(max_length=40)]


class _Out(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class KeptRecordOut(_Out):
    """A record that would be erased."""

    id: int
    source: str
    source_key: str
    fields: dict[str, str]


class KeptFileOut(_Out):
    """A file that holds the person's values: what it is of, its name when it came, and whether it stays, as it is still needed."""

    what: str
    name: str
    needed: bool


class KeptPlaceOut(BaseModel):
    """How many rows of a kind hold the person's values."""

    what: str
    count: int


class ToldBeforeOut(BaseModel):
    """Somebody who was told of golden records, and how: not reached from here."""

    who: str
    how: str


class KeptOut(BaseModel):
    """All that is kept of a person."""

    records: list[KeptRecordOut]
    golden_keys: list[str]
    places: list[KeptPlaceOut]
    files: list[KeptFileOut]
    told: list[ToldBeforeOut]


class ForgetPersonIn(BaseModel):
    """Whose data are to be erased: a golden key, or records; and a reason that names nobody, since it is kept."""

    key: _Key = ""
    record_ids: _Ids = []
    reason: Annotated[Text, Field(min_length=1)]


@router.get("/registers/{slug}/forgetting")
def find_person(session: Transaction, slug: Slug, key: _Key = "", record_ids: Annotated[_Ids, Query()] = []) -> KeptOut:  # noqa: B006
    """All that is kept of a person, given by a golden key or records."""
    found = finding.find(session, slug, key=key, record_ids=record_ids)
    return KeptOut(
        records=[KeptRecordOut.model_validate(one) for one in found.records], golden_keys=found.golden_keys,
        places=[KeptPlaceOut(what=what, count=count) for what, count in found.places],
        files=[KeptFileOut.model_validate(one) for one in found.files], told=[ToldBeforeOut(who=who, how=how) for who, how in found.told],
    )  # fmt: skip


@router.post("/registers/{slug}/forgetting", status_code=202)
def forget_person(session: Transaction, actor: Actor, slug: Slug, body: ForgetPersonIn) -> JobOut:
    """Have all that is kept of a person erased: it waits for a second yes first."""
    job = ask_to_forget(session, slug, record_ids=body.record_ids, key=body.key, reason=body.reason, actor=actor)
    return job_out(job, slug)
