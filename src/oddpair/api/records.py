"""Source records: delivered values beside tidy ones."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from ..core.mapping import place_labels
from ..core.tidying import tidy_fields
from ..services.bring_in.drafts import mapping_of
from ..services.state.layouts import layout_of
from ..services.tidy.quality import filter_for
from ..store.records import records_page
from ..store.registers import register_by_slug, sources_of
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
    """A page of records; ``labels`` says, per source, which of several values of a field stands at which place."""

    total: int
    labels: dict[str, dict[str, str]]
    tidy_fields: list[str]
    records: list[RecordOut]


@router.get("/registers/{slug}/records")
def list_records(
    session: Transaction, slug: Slug, search: Annotated[Text, Query(max_length=200)] = "",
    source: Annotated[Text, Query(max_length=60)] = "",
    delivery: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0,
    field: Annotated[Text, Query(max_length=80)] = "", check: Annotated[Text, Query(max_length=20)] = "filled", wanted: Text = "",
    offset: Annotated[int, Query(ge=0, le=100_000_000)] = 0, limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> RecordsOut:  # fmt: skip
    """Source records, searched in their delivered values, or those of whose ``field`` something is asked (``check``)."""
    register = register_by_slug(session, slug)
    only = filter_for(session, register, field, check, wanted) if field else None
    total, rows = records_page(
        session, register.id, search=search, source=source, offset=offset, limit=limit, only=only, delivery_id=delivery
    )
    records = [
        RecordOut(
            id=r.id,
            source=name,
            source_key=r.source_key,
            state=r.state,
            delivered=r.delivered,
            fields=r.fields,
            tidy=r.tidy,
        )
        for r, name in rows
    ]
    labels = {
        source.name: place_labels(mapping_of(source.mapping))
        for source in sources_of(session, register.id)
        if source.mapping
    }
    return RecordsOut(total=total, labels=labels, tidy_fields=list(tidy_fields(layout_of(register))), records=records)
