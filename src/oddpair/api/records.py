"""Source records: delivered values beside tidy ones."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from ..services.tidy.records import FieldAsked, OutcomeAsked, record_list
from .dependencies import Slug, Text, Transaction

router = APIRouter(tags=["records"])


class RecordOut(BaseModel):
    """A source record: what was delivered, mapped onto fields, and tidied."""

    id: int
    source: str
    source_key: str
    state: str
    delivered: dict[str, str]
    fields: dict[str, str]
    tidy: dict[str, str]


class RecordsOut(BaseModel):
    """A page of records; ``before`` and ``behind`` are the cursors of the pages beside it, "" where there is none.

    ``labels`` says, per source, which of several values of a field stands at which place; a search may have found more than
    ``total``, where ``at_least`` tells so.
    """

    total: int
    at_least: bool
    before: str
    behind: str
    labels: dict[str, dict[str, str]]
    tidy_fields: list[str]
    records: list[RecordOut]


@router.get("/registers/{slug}/records")
def list_records(
    session: Transaction, slug: Slug, search: Annotated[Text, Query(max_length=200)] = "",
    source: Annotated[Text, Query(max_length=60)] = "",
    delivery: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0,
    field: Annotated[Text, Query(max_length=80)] = "", check: Annotated[Text, Query(max_length=20)] = "filled", wanted: Text = "",
    run: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0, number: Annotated[int, Query(alias="pass", ge=1, le=20)] = 1,
    outcome: Annotated[Text, Query(max_length=20)] = "in",
    cursor: Annotated[Text, Query(max_length=2000)] = "", limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> RecordsOut:  # fmt: skip
    """Source records: found by words, or beginnings of words, of their delivered values, or by what is asked of a ``field``,
    or by what a ``pass`` (counted from 1) of a ``run`` made of them: in, same before, same, several, unsure, left."""
    of_field = FieldAsked(field, check, wanted) if field else None
    of_pass = OutcomeAsked(run, number, outcome) if run else None
    found = record_list(
        session, slug, search=search, source=source, delivery_id=delivery, of_field=of_field, of_pass=of_pass, cursor=cursor,
        limit=limit,
    )  # fmt: skip
    return RecordsOut(
        total=found.total, at_least=found.at_least, before=found.page.before, behind=found.page.behind,
        labels={name: dict(labels) for name, labels in found.labels.items()}, tidy_fields=list(found.tidy_fields),
        records=[RecordOut.model_validate(row, from_attributes=True) for row in found.page.rows],
    )  # fmt: skip
