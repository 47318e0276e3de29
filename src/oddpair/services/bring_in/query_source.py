"""Sources that are asked by a query: tried, saved with the secret apart, and asked again for the next delivery."""

import os
from pathlib import Path
from uuid import uuid4

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...files.database_address import split_address
from ...files.database_query import DatabaseQuery, try_query, write_query
from ...settings import Settings
from ...store.registers import register_by_slug, source_by_name
from ...store.tables import Source
from .drafts import Preview, receive

_SECRETS = "secrets"


def query_from(address: str, password: str, sql: str, settings: Settings) -> DatabaseQuery:
    """Return a query with the secret taken out of its address; raise InputError if the address is none."""
    without_secret, secret = split_address(address, password)
    return DatabaseQuery(without_secret, sql, secret, settings.query_hosts)


def try_source(address: str, password: str, sql: str, settings: Settings) -> tuple[list[str], list[list[str]]]:
    """Return the columns and first rows that a query gives."""
    return try_query(query_from(address, password, sql, settings))


def bring_in_query(session: Session, slug: str, name: str, query: DatabaseQuery, settings: Settings) -> Preview:
    """Ask a query, keep it with its source, and return its rows as a draft delivery. The secret goes into a file of its own."""
    folder = settings.deliveries
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{uuid4().hex}.csv"
    write_query(query, path, settings.most_upload_bytes)
    try:
        preview = receive(session, slug, path, f"query of {name}", name)
        source = session.get_one(Source, preview.source.id)
        source.query = {"address": query.address, "sql": query.sql}
        _keep_secret(settings.data, source.id, query.password)
        session.flush()
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return preview


def query_again(session: Session, slug: str, name: str, settings: Settings) -> Preview:
    """Ask a source's query again and return its rows as a draft delivery."""
    source = source_by_name(session, register_by_slug(session, slug).id, name)
    if source is None:
        raise NotFound("source", name)
    if not source.query:
        raise Refused(f"The source '{name}' delivers files; there is no query to ask.")
    query = DatabaseQuery(
        source.query["address"], source.query["sql"], _secret(settings.data, source.id), settings.query_hosts
    )
    return bring_in_query(session, slug, name, query, settings)


def _keep_secret(data: Path, source_id: int, secret: str) -> None:
    folder = data / _SECRETS
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    path = folder / str(source_id)
    descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(descriptor, "w", encoding="utf-8") as file:
        file.write(secret)


def _secret(data: Path, source_id: int) -> str:
    path = data / _SECRETS / str(source_id)
    return path.read_text(encoding="utf-8") if path.exists() else ""
