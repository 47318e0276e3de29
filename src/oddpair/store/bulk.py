"""Bulk transfer by COPY, inside the session's transaction."""

from collections.abc import Iterable, Sequence
from typing import Any

from psycopg import Connection, sql
from psycopg.types.json import Jsonb
from sqlalchemy.orm import Session


def raw_connection(session: Session) -> Connection[Any]:
    """Return the session's psycopg connection; what is done on it belongs to the session's transaction."""
    connection = session.connection().connection.driver_connection
    assert isinstance(connection, Connection)
    return connection


def _copy_into(table: str, columns: Sequence[str]) -> sql.Composed:
    return sql.SQL("COPY {} ({}) FROM STDIN").format(
        sql.Identifier(table), sql.SQL(", ").join(sql.Identifier(column) for column in columns)
    )


def copy_lines(session: Session, table: str, columns: Sequence[str], lines: bytes) -> None:
    """COPY rows that are in the server's text format already: tabs between values, one row a line."""
    with raw_connection(session).cursor() as cursor, cursor.copy(_copy_into(table, columns)) as copy:
        copy.write(lines)


def copy_rows(session: Session, table: str, columns: Sequence[str], rows: Iterable[Sequence[Any]]) -> int:
    """COPY rows into a table; dicts and lists go in as JSON. Returns how many rows."""
    count = 0
    with raw_connection(session).cursor() as cursor, cursor.copy(_copy_into(table, columns)) as copy:
        for row in rows:
            copy.write_row([Jsonb(value) if isinstance(value, dict | list) else value for value in row])
            count += 1
    return count
