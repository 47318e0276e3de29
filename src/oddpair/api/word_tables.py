"""Swap lists and value maps, shared by all registers."""

from datetime import datetime
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from ..core.rights import Permission
from ..core.tidying.ready_made import READY_MADE
from ..core.tidying.word_tables import MOST_ENTRIES, TableKind
from ..files.writers import CONTENT_TYPES, table_chunks
from ..services.people import who as rights
from ..services.tidy import word_tables as service
from .dependencies import Actor, Asker, Text, Transaction

router = APIRouter(tags=["tables"])
_MOST_TABLE_BYTES = 50_000_000
_COLUMNS = ("from", "to")
TableName = Annotated[Text, Field(min_length=1, max_length=60)]


class TableSummary(BaseModel):
    """A table without its entries."""

    name: str
    kind: TableKind
    version: int
    entries: int
    actor: str
    at: datetime


class TablesOut(BaseModel):
    """All tables, and the ready-made ones that a table can be made from."""

    tables: list[TableSummary]
    ready_made: list[str]


class VersionOut(BaseModel):
    """A version of a table."""

    version: int
    actor: str
    note: str
    at: datetime
    entries: int


class TableOut(BaseModel):
    """A table with its entries (from, to) and its versions, newest first."""

    name: str
    kind: TableKind
    version: int
    entries: list[tuple[str, str]]
    versions: list[VersionOut]


class NewTable(BaseModel):
    """A table to be made with some entries; ``ready`` names the ready-made one it starts from instead."""

    name: TableName
    kind: TableKind = TableKind.SWAP_LIST
    ready: Text = ""
    entries: Annotated[list[tuple[Text, Text]], Field(max_length=MOST_ENTRIES)] = []


class EntriesIn(BaseModel):
    """A table's entries as a person changed them; ``seen_version`` is the version the change was made from."""

    entries: Annotated[list[tuple[Text, Text]], Field(max_length=MOST_ENTRIES)]
    seen_version: Annotated[int, Field(ge=1, le=1_000_000)]
    note: Text = ""


class UnmappedOut(BaseModel):
    """A value that a value map does not know, with the nearest value that it does."""

    value: str
    records: int
    nearest: str


class UsageOut(BaseModel):
    """Records per entry (by its folded form), and the values that a value map does not know."""

    touched: dict[str, int]
    unmapped: list[UnmappedOut]
    records_unmapped: int


def _summary(table: service.Table) -> TableSummary:
    return TableSummary(
        name=table.name,
        kind=TableKind(table.kind),
        version=table.version,
        entries=len(table.entries),
        actor=table.actor,
        at=table.at,
    )


@router.get("/tables")
def list_tables(session: Transaction) -> TablesOut:
    """All swap lists and value maps."""
    return TablesOut(tables=[_summary(table) for table in service.tables(session)], ready_made=list(READY_MADE))


@router.post("/tables", status_code=201, max_body_size=_MOST_TABLE_BYTES)
def make_table(session: Transaction, body: NewTable, actor: Actor) -> TableSummary:
    """Make a table."""
    return _summary(
        service.make_table(session, body.name, body.kind, ready=body.ready, entries=body.entries, actor=actor)
    )


@router.get("/tables/{name}")
def get_table(session: Transaction, name: TableName) -> TableOut:
    """A table with its entries and versions."""
    table, all_versions = service.table(session, name)
    versions = [
        VersionOut(version=v.version, actor=v.actor, note=v.note, at=v.at, entries=len(v.entries)) for v in all_versions
    ]
    entries = [(entry[0], entry[1]) for entry in table.entries]
    return TableOut(name=name, kind=TableKind(table.kind), version=table.version, entries=entries, versions=versions)


@router.put("/tables/{name}", max_body_size=_MOST_TABLE_BYTES)
def save_table(session: Transaction, name: TableName, body: EntriesIn, actor: Actor) -> TableSummary:
    """Save a table's entries as a new version; registers that use it are tidied again in the background."""
    saved = service.save_table(session, name, body.entries, seen_version=body.seen_version, actor=actor, note=body.note)
    return _summary(saved)


@router.get("/tables/{name}/export.csv", response_class=Response)
def export_table(session: Transaction, name: TableName) -> Response:
    """A table as CSV."""
    rows = [dict(zip(_COLUMNS, entry, strict=True)) for entry in service.table(session, name)[0].entries]
    body = b"".join(table_chunks("csv", _COLUMNS, rows, name))
    return Response(
        body, media_type=CONTENT_TYPES["csv"], headers={"Content-Disposition": 'attachment; filename="table.csv"'}
    )


@router.post("/tables/{name}/import", max_body_size=_MOST_TABLE_BYTES, openapi_extra={
    "requestBody": {"required": True, "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}
})  # fmt: skip
async def import_table(
    request: Request, name: TableName, file_name: Annotated[Text, Query(min_length=1, max_length=255)]
) -> list[tuple[str, str]]:
    """The entries of a file, to be looked at before they are saved: the first two columns of any readable table."""
    body = await request.body()
    return await run_in_threadpool(_entries, body, file_name)


def _entries(body: bytes, file_name: str) -> list[tuple[str, str]]:
    with NamedTemporaryFile() as file:
        file.write(body)
        file.flush()
        return service.entries_of_file(Path(file.name), file_name)


@router.get("/tables/{name}/usage")
def get_usage(
    session: Transaction,
    asker: Asker,
    name: TableName,
    register: Annotated[Text, Query(max_length=80)],
    field: Annotated[Text, Query(max_length=80)],
) -> UsageOut:
    """What a table touches among the values of a field."""
    rights.check(asker, Permission.SEE, [register])
    return UsageOut.model_validate(service.usage(session, name, register, field), from_attributes=True)
