"""Deliveries out of a PostgreSQL database."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field, SecretStr

from ..services.bring_in import query_source
from ..services.transactions import transaction
from .deliveries import PreviewOut, preview_out
from .dependencies import AppState, LongText, Slug, Text

router = APIRouter(tags=["deliveries"])


class QueryIn(BaseModel):
    """The address of a database, a password, and one query."""

    address: Annotated[Text, Field(min_length=1, max_length=1000)]
    password: Annotated[SecretStr, Field(max_length=1000)] = SecretStr("")
    sql: Annotated[LongText, Field(min_length=1)]


class SourceQueryIn(QueryIn):
    """A query that becomes the source's own."""

    source: Annotated[Text, Field(min_length=1, max_length=60)]


class TriedQueryOut(BaseModel):
    """The first rows of a query."""

    columns: list[str]
    rows: list[list[str]]


@router.post("/queries/try")
def try_query(state: AppState, body: QueryIn) -> TriedQueryOut:
    """See the first rows of a query; nothing is kept."""
    columns, rows = query_source.try_source(body.address, body.password.get_secret_value(), body.sql, state.settings)
    return TriedQueryOut(columns=columns, rows=rows)


@router.post("/registers/{slug}/queries", status_code=201)
def bring_in_query(state: AppState, slug: Slug, body: SourceQueryIn) -> PreviewOut:
    """Ask a query, keep it with its source, and bring its rows in as a draft delivery."""
    query = query_source.query_from(body.address, body.password.get_secret_value(), body.sql, state.settings)
    with transaction(state.sessions) as session:
        return preview_out(query_source.bring_in_query(session, slug, body.source, query, state.settings))


@router.post("/registers/{slug}/sources/{name}/query", status_code=201)
def query_again(state: AppState, slug: Slug, name: Text) -> PreviewOut:
    """Ask a source's query again; its rows become a draft delivery."""
    with transaction(state.sessions) as session:
        return preview_out(query_source.query_again(session, slug, name, state.settings))
